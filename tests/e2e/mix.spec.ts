import type { LineEffect, Scene, Track } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { axeFaults, choose, hush, ofScenes, rendered, type Visit, visitDemo } from '../helpers/app';
import { apart, rms } from '../helpers/signals';

// The mix of a scene: lines that flow into one another, what they go through, and how loud it comes out.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

let visit: Visit;
let page: Page;
let errors: string[];

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await page.goto(`${visit.url}spot?frame=200`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:08:08');
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors).toEqual([]));

const effects = () => ofScenes<LineEffect>(page, 'effects');
const trackOf = async (name: string) => (await ofScenes<Track>(page, 'tracks')).find((t) => t.name === name)!;
const main = async () => (await ofScenes<Scene>(page, 'scenes'))[0].main;
const line = (name: string) => page.getByRole('listitem', { name, exact: true });
const panel = (name: string | RegExp) => page.getByRole('group', { name });
const level = (name: string) => line(name).getByRole('meter').getAttribute('aria-valuenow').then(Number);
const undo = () => page.keyboard.press('Control+z');
async function add(effect: string, onto: string): Promise<void> {
  await line(onto)
    .getByRole('button', { name: `Add an effect to ${onto}` })
    .click();
  await page
    .getByRole('menu', { name: `Effects for ${onto}` })
    .getByRole('menuitem', { name: effect, exact: true })
    .click();
  await expect(panel(new RegExp(`^${effect}`))).toBeVisible();
}
/** Half a second from the eighth second on, as it is heard, once its audio is there. */
async function heard(): Promise<number[][]> {
  const begin = async () => {
    await page.getByRole('list', { name: 'Lines' }).getByText('Flows into', { exact: true }).click();
    await page.keyboard.press('Home');
    for (let i = 0; i < 8; i++) await page.keyboard.press('Shift+ArrowRight');
    await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:08:00');
  };
  await begin();
  await page.keyboard.press('l');
  await expect.poll(() => level('Deck')).toBeGreaterThan(-60);
  await hush(page);
  await begin();
  const made = await rendered(page, 24_000, () => page.keyboard.press('l'));
  await hush(page);
  return made;
}

test('a key shows the lines as they flow into one another, each with its levels and what it goes through', async () => {
  await page.keyboard.press('b');
  await expect(page).toHaveURL(/\/spot\/mix\?frame=200$/);
  const names = page.getByRole('list', { name: 'Lines' }).getByRole('listitem');
  await expect(names).toHaveCount(6);
  expect(await names.evaluateAll((all) => all.map((n) => n.getAttribute('aria-label')))).toEqual([
    ...['Main', 'Estuary', 'Water', 'Deck', 'Winch', 'Air'],
  ]);
  await expect(line('Deck').getByRole('button', { name: 'Send to Estuary, −22.0 dB' })).toBeVisible();
  expect(await level('Deck')).toBe(-60);
  // It goes round until the audio of the steps has come.
  await page.keyboard.press('i');
  for (let i = 0; i < 3; i++) await page.keyboard.press('Shift+ArrowRight');
  await page.keyboard.press('o');
  await expect.poll(async () => (await ofScenes<Scene>(page, 'scenes'))[0].loop?.end).toBe((200 + 72) * 2000);
  await page.keyboard.press('Space');
  await expect.poll(() => level('Deck')).toBeGreaterThan(-40);
  await expect.poll(() => level('Main')).toBeGreaterThan(-40);
  await hush(page);
  expect(await axeFaults(page)).toEqual([]);
});

test('an effect is added, turned and heard at once, heard without, moved and taken out, step by step back', async () => {
  const before = await effects();
  await page.goto(`${visit.url}spot/mix?frame=200`);
  await page.getByRole('button', { name: 'Solo Deck' }).click();
  const plain = await heard();
  await add('Gain', 'Deck');
  await panel('Gain').getByRole('spinbutton', { name: 'Gain, dB' }).fill('-20');
  await page.keyboard.press('Enter');
  await expect(line('Deck').getByRole('button', { name: 'Gain, −20.0 dB' })).toBeVisible();
  await expect.poll(async () => (await effects()).find((e) => e.kind === 'gain')?.values).toEqual({ gain: -20 });
  const soft = await heard();
  // The limiter of the main line took some of the peaks before.
  const softer = 20 * Math.log10(rms(soft[0]) / rms(plain[0]));
  expect(softer).toBeLessThan(-17);
  expect(softer).toBeGreaterThan(-20.5);
  await page.keyboard.press('Shift+Q');
  await expect(line('Deck').getByRole('button', { name: 'Gain, off' })).toBeVisible();
  expect(20 * Math.log10(rms((await heard())[0]) / rms(plain[0]))).toBeCloseTo(0, 1);
  await page.getByRole('button', { name: 'Earlier in the line' }).click();
  const order = () => line('Deck').getByRole('group').getByRole('button').allTextContents();
  await expect
    .poll(async () => (await order()).map((t) => t.trim().split(/[ ,]/)[0]).slice(0, 3))
    .toEqual(['Compressor', 'Gain', 'Send']);
  await page.getByRole('button', { name: 'Take out' }).click();
  await expect.poll(async () => (await effects()).length).toBe(before.length);
  for (let i = 0; i < 6; i++) await undo();
  await expect.poll(effects).toEqual(before);
  await expect.poll(async () => (await trackOf('Deck')).solo).toBe(false);
});

test('bands of an equaliser are drawn, pulled and stepped where they act, as one step each; levels of a compressor are seen', async () => {
  const before = (await effects()).length;
  await add('Equaliser', 'Winch');
  const field = panel(/^Equaliser/).getByRole('img', { name: /^Colouring: 0.0 dB at 100 Hz, 0.0 dB at 1000 Hz/ });
  const box = (await field.boundingBox())!;
  // 20 Hz to 20 kHz from side to side, 24 dB on either side of the middle.
  const at = (freq: number, gain: number) =>
    [box.x + (box.width * Math.log(freq / 20)) / Math.log(1000), box.y + (box.height * (24 - gain)) / 48] as const;
  const own = async () => (await effects()).at(-1)!.values;
  await page.mouse.dblclick(...at(1000, 12));
  await expect.poll(async () => (await own()).kind1).toBe(3);
  expect((await own()).freq1 / 1000).toBeCloseTo(1, 1);
  expect((await own()).gain1).toBeCloseTo(12, 0);
  await expect(
    panel(/^Equaliser/).getByRole('img', { name: /12\.\d dB at 1000 Hz|11\.\d dB at 1000 Hz/ }),
  ).toBeVisible();
  const dot = panel(/^Equaliser/).getByRole('button', { name: /^Band 1: bell at/ });
  await dot.hover();
  await page.mouse.down();
  await page.mouse.move(...at(200, -6), { steps: 4 });
  await page.mouse.up();
  await expect.poll(async () => Math.round((await own()).gain1)).toBe(-6);
  expect((await own()).freq1 / 200).toBeCloseTo(1, 1);
  await dot.press('ArrowRight');
  await expect.poll(async () => (await own()).freq1 / 200).toBeGreaterThan(1.04);
  await dot.hover();
  await page.mouse.wheel(0, -100);
  await expect.poll(async () => (await own()).q1).toBeCloseTo(Math.SQRT1_2 * 2 ** 0.25, 1);
  // The wheel, the key, the pull, the bell, and the effect itself.
  for (let i = 0; i < 5; i++) {
    await undo();
  }
  await expect.poll(async () => (await effects()).length).toBe(before);
  await add('Compressor', 'Winch');
  await expect(
    panel(/^Compressor/).getByRole('img', {
      name: 'Levels: -48 dB comes out at -48.0, -24 dB comes out at -24.0, -12 dB comes out at -16.0',
    }),
  ).toBeVisible();
  await undo();
  await expect.poll(async () => (await effects()).length).toBe(before);
});

test('a bus is made, tracks flow into it and send to it; what would come round is not offered', async () => {
  await page.getByRole('button', { name: 'Add a bus' }).click();
  await expect(line('Bus 1')).toBeVisible();
  const into = async (name: string, bus: string) => {
    await line(name).getByRole('button', { name, exact: true }).click({ button: 'right' });
    await page.getByRole('menuitem', { name: /^Name, place, flow/ }).click();
    await choose(page.getByRole('combobox', { name: `What ${name} flows into` }), bus);
    await page.getByRole('dialog').getByRole('button', { name: 'Done' }).click();
  };
  await into('Deck', 'Bus 1');
  const bus = await trackOf('Bus 1');
  await expect.poll(async () => (await trackOf('Deck')).into).toBe(bus.id);
  await add('Send', 'Bus 1');
  await expect
    .poll(async () => (await effects()).find((e) => e.lineId === bus.id)?.line)
    .toBe((await trackOf('Estuary')).id);
  // The Estuary could not send back to it now.
  await line('Estuary').getByRole('button', { name: 'Add an effect to Estuary' }).click();
  await page.getByRole('menu', { name: 'Effects for Estuary' }).getByRole('menuitem', { name: 'Send' }).click();
  await expect(page.getByText(/^There is no bus that this could flow into/).first()).toBeVisible();
  // What opens over the page's edge for a moment scrolls nothing: what scrolls closes menus.
  const scrolled = await page.evaluate(() => {
    const edge = document.createElement('div');
    edge.style.cssText = 'position: absolute; top: 2000px; height: 10px; width: 10px';
    document.body.append(edge);
    edge.scrollIntoView();
    const at = scrollY + document.body.scrollTop;
    edge.remove();
    return at;
  });
  expect(scrolled).toBe(0);
  // A bus that is removed leaves nothing that names it.
  await line('Bus 1').getByRole('button', { name: 'Bus 1', exact: true }).click({ button: 'right' });
  await page.getByRole('menuitem', { name: 'Remove' }).click();
  await expect(line('Bus 1')).toBeHidden();
  await expect.poll(async () => (await trackOf('Deck')).into).toBeUndefined();
  expect((await effects()).some((e) => e.lineId === bus.id || e.line === bus.id)).toBe(false);
  for (let i = 0; i < 4; i++) await undo();
  await expect(line('Bus 1')).toBeHidden();
});

test('places are set by key; a preset sets all values, and Reset those that the effect begins with', async () => {
  const place = line('Air').getByRole('slider', { name: 'Place of Air' });
  await place.focus();
  await page.keyboard.press('ArrowRight');
  await page.keyboard.press('ArrowRight');
  await expect(place).toHaveAttribute('aria-valuetext', '10 % right');
  await page.keyboard.press('Home');
  await expect.poll(async () => (await trackOf('Air')).place).toBeUndefined();
  await line('Air').getByRole('button', { name: 'Distance, 90 m' }).click();
  await choose(panel('Distance').getByRole('combobox', { name: 'Presets' }), 'Behind the dunes');
  await expect(line('Air').getByRole('button', { name: 'Distance, 400 m' })).toBeVisible();
  await panel('Distance').getByRole('button', { name: 'Reset' }).click();
  await expect(line('Air').getByRole('button', { name: 'Distance, 60 m' })).toBeVisible();
  await undo();
  await undo();
  await expect(line('Air').getByRole('button', { name: 'Distance, 90 m' })).toBeVisible();
});

test('an effect is made of a sound of the library, heard, named, credited, and taken back', async () => {
  const before = await effects();
  const own = async () => (await effects()).find((e) => e.kind === 'convolution');
  const made = panel('What answers');
  const pick = made.getByRole('combobox', { name: 'What answers' });
  const choose = async (words: string) => {
    await pick.fill(words);
    await expect(page.getByRole('option').first()).toBeAttached();
    await pick.press('Enter');
  };
  await page.getByRole('button', { name: 'Solo Deck' }).click();
  const plain = await heard();
  await add('Convolution', 'Deck');
  await expect(made).toContainText('Nothing yet');
  await panel('Convolution').getByRole('spinbutton', { name: 'Mix, %' }).fill('100');
  await page.keyboard.press('Enter');
  await choose('winch');
  await expect.poll(async () => (await own())?.sound?.rate).toBeGreaterThan(8000);
  await expect(made).toContainText(/winch/i);
  await expect(made).not.toContainText('Nothing yet');
  const wet = await heard();
  // Another sound altogether, and as loud by and large.
  expect(Math.abs(20 * Math.log10(rms(wet[0]) / rms(plain[0])))).toBeLessThan(24);
  expect(apart(wet[0], plain[0])).toBeGreaterThan(rms(plain[0]));
  expect(await axeFaults(page)).toEqual([]);
  const [first, name] = [(await own())!.sound!.id, (await made.textContent())!];
  await choose('rope');
  await expect.poll(async () => (await own())?.sound?.id).not.toBe(first);
  await page.getByText('Timeline', { exact: true }).click();
  await page.getByText('In this scene', { exact: true }).click();
  await expect(page.getByRole('region', { name: 'In this scene' })).toContainText('an effect is made of it');
  await page.getByText('Mix', { exact: true }).click();
  await undo();
  await expect(made).toHaveText(name);
  for (let i = 0; i < 4; i++) await undo();
  await expect.poll(effects).toEqual(before);
});

test('the whole scene is measured by itself, and brought to what is asked for', async () => {
  const whole = page.getByRole('region', { name: 'Whole scene' });
  const told = async () => Number(/([−-][\d.]+) LUFS/.exec((await whole.textContent()) ?? '')?.[1].replace('−', '-'));
  await expect.poll(told, { timeout: 60_000 }).toBeLessThan(-5);
  await choose(whole.getByRole('combobox', { name: 'Loudness that is asked for' }), 'EBU R 128');
  await line('Main').getByRole('spinbutton', { name: 'Gain of Main, dB' }).fill('2');
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await main())!.gain).toBe(2);
  await expect(whole.getByRole('button', { name: 'Bring the mix to it' })).toBeDisabled();
  await expect(whole.getByRole('button', { name: 'Bring the mix to it' })).toBeEnabled({ timeout: 60_000 });
  const old = (await main())!.gain;
  const by = -23 - (await told());
  await whole.getByRole('button', { name: 'Bring the mix to it' }).click();
  await expect.poll(async () => (await main())!.gain - old).toBeCloseTo(by, 0);
  await expect.poll(async () => Math.abs((await told()) + 23), { timeout: 60_000 }).toBeLessThanOrEqual(1);
  // A bus by itself is softer than all of it, and nothing is asked of it.
  const all = await told();
  await choose(whole.getByRole('combobox', { name: 'What is looked at' }), 'Estuary');
  await expect.poll(told).toBeLessThan(all - 3);
  await expect(whole).not.toContainText('asked');
  await expect(whole.getByRole('button', { name: 'Bring the mix to it' })).toBeDisabled();
  await choose(whole.getByRole('combobox', { name: 'What is looked at' }), 'Whole scene');
  await expect.poll(told).toBe(all);
  await undo();
  await expect.poll(async () => (await main())!.gain).toBe(old);
});
