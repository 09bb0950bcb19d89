import type { LineEffect, Scene, Track } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { axeFaults, choose, hush, ofScenes, rendered, type Visit, visitDemo } from '../helpers/app';
import { rms } from '../helpers/signals';

// Values that run along the timeline: drawn on a lane, heard, recorded from a hand.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

let visit: Visit;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await page.goto(`${visit.url}spot?frame=24`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:01:00');
  await page.getByRole('button', { name: 'Place on Water' }).click();
  await page.getByText('Picture', { exact: true }).first().click();
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors).toEqual([]));

const water = async () => (await ofScenes<Track>(page, 'tracks')).find((t) => t.name === 'Water')!;
const gains = async () => (await water()).points?.gain ?? [];
const curve = () => page.getByRole('group', { name: 'Gain of Water' });
const undo = () => page.keyboard.press('Control+z');

test('a curve is drawn with the mouse, moved by mouse and keys, and each is a step to take back', async () => {
  await page.keyboard.press('v');
  const box = (await curve().boundingBox())!;
  const at = (x: number, y: number) => [box.x + x, box.y + y] as const;
  await page.mouse.click(...at(110, 8));
  await expect.poll(gains).toHaveLength(1);
  await page.mouse.click(...at(330, 35));
  await expect.poll(gains).toHaveLength(2);
  const [first, second] = await gains();
  expect([first.at % 2000, second.at % 2000]).toEqual([0, 0]);
  expect(first.value).toBeGreaterThan(0);
  expect(second.value).toBeLessThan(-30);
  await page.mouse.move(...at(330, 35));
  await page.mouse.down();
  await page.mouse.move(...at(400, 20), { steps: 5 });
  await page.mouse.up();
  await expect.poll(async () => (await gains())[1].at).toBeGreaterThan(second.at);
  expect(await gains()).toHaveLength(2);
  await undo();
  await expect.poll(async () => (await gains())[1]).toEqual(second);
  const point = page.getByRole('button', { name: /^Gain \d.* dB at 01:00:01/ });
  await point.focus();
  await page.keyboard.press('ArrowDown');
  await expect.poll(async () => (await gains())[0].value).toBeCloseTo(first.value - 0.5, 5);
  await page.keyboard.press('ArrowRight');
  await expect.poll(async () => (await gains())[0].at).toBe(first.at + 2000);
  await page.keyboard.press('Delete');
  await expect.poll(gains).toEqual([second]);
  for (let n = 0; n < 3; n++) await undo();
  await expect.poll(gains).toEqual([first, second]);
  expect(await axeFaults(page)).toEqual([]);
});

test('the scene is heard along it', async () => {
  await page.getByRole('button', { name: 'Solo Water' }).click();
  await page.getByText('Picture', { exact: true }).first().click();
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+ArrowRight');
  const [left] = await rendered(page, 96_000, () => page.keyboard.press('Space'));
  await hush(page);
  const [begin, end] = [left.slice(0, 9600), left.slice(-9600)].map((p) => rms(Float32Array.from(p)));
  // From full to below -30 dB within two seconds.
  expect(begin).toBeGreaterThan(0.01);
  expect(end).toBeLessThan(begin / 4);
  await undo();
});

test('a hand that turns a gain moves all of its curve; recorded while the scene runs, it becomes one', async () => {
  const before = await gains();
  await page.keyboard.press('Home');
  await page.keyboard.press('b');
  const gain = page.getByRole('spinbutton', { name: 'Gain of Water, dB' });
  await gain.focus();
  await page.keyboard.press('ArrowDown');
  await expect
    .poll(async () => (await gains()).map((p) => Number(p.value.toFixed(1))))
    .toEqual(before.map((p) => Number((p.value - 0.5).toFixed(1))));
  await page.getByText('Record what hands do').click();
  const distance = page.getByRole('button', { name: /^Distance/ });
  await distance.click();
  const far = page.getByRole('spinbutton', { name: /^Distance, m|^How far|^Far/ }).first();
  await expect(far).toBeVisible();
  await page.getByText('Level, and the highest of three seconds').click();
  await page.keyboard.press('Home');
  await page.keyboard.press('Space');
  await expect(page.getByRole('timer', { name: 'Playhead' })).not.toHaveText('01:00:00:00');
  for (let n = 0; n < 5; n++) {
    await far.focus();
    await page.keyboard.press('ArrowUp');
  }
  await page.getByText('Level, and the highest of three seconds').click();
  await page.keyboard.press('Space');
  const recorded = async () =>
    (await ofScenes<LineEffect>(page, 'effects')).find((e) => e.kind === 'distance')!.points?.far ?? [];
  await expect.poll(async () => (await recorded()).length).toBeGreaterThan(2);
  const points = await recorded();
  expect(Math.max(...points.map((p) => p.value))).toBe(95);
  expect(points.at(-1)!.value).toBe(90);
  await undo();
  await expect.poll(recorded).toEqual([]);
});

test('the main line is drawn below the tracks, and all is heard along it', async () => {
  await page.keyboard.press('b');
  await expect(page.getByRole('button', { name: 'Place on Water' })).toBeVisible();
  const pick = page.getByRole('combobox', { name: 'Curve of the main line or a bus' });
  await choose(pick, 'Main: Gain');
  const main = page.getByRole('group', { name: 'Gain of Main' });
  await expect(main).toBeVisible();
  const points = async () =>
    (await ofScenes<Scene>(page, 'scenes')).find((s) => s.main?.points)?.main?.points?.gain ?? [];
  await page.getByText('Picture', { exact: true }).first().click();
  await page.keyboard.press('Home');
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:00:00');
  const box = (await main.boundingBox())!;
  await page.mouse.click(box.x + 4, box.y + 14);
  await expect.poll(async () => (await points()).length).toBe(1);
  await page.mouse.click(box.x + 230, box.y + 38);
  await expect.poll(async () => (await points()).length).toBe(2);
  const [first, last] = await points();
  expect(last.value).toBeLessThan(-30);
  expect(await axeFaults(page)).toEqual([]);
  const [left] = await rendered(page, 120_000, () => page.keyboard.press('Space'));
  await hush(page);
  const [begin, end] = [left.slice(4800, 14_400), left.slice(-9600)].map((p) => rms(Float32Array.from(p)));
  expect(begin).toBeGreaterThan(0.001);
  expect(end).toBeLessThan(begin / 4);
  // A hand that turns the main gain moves all of it, and that is taken back.
  await page.keyboard.press('b');
  const gain = page.getByRole('spinbutton', { name: 'Gain of Main, dB' });
  await gain.focus();
  await page.keyboard.press('ArrowUp');
  await expect.poll(async () => (await points())[0].value).toBeCloseTo(first.value + 0.5, 5);
  await page.getByText('Level, and the highest of three seconds').click();
  await undo();
  await expect.poll(points).toEqual([first, last]);
  await page.keyboard.press('b');
  await page.getByRole('button', { name: 'Put the curve of Main away' }).click();
  await expect(main).toHaveCount(0);
  expect(await points()).toEqual([first, last]);
});
