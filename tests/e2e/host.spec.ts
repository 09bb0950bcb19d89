import { memorySource, readAudioFile, readFrames } from '@core/files';
import { nameOf, type Sound } from '@core/library';
import type { HostItem } from '@core/schemas';
import { HostLink } from '@platform/elsewhere/host';
import { expect, test, type Page } from '@playwright/test';
import { readFileSync } from 'node:fs';
import { WebSocket } from 'ws';
import { axeFaults, choose, currentRow, openFirst, stored, visitDemo, watchErrors, type Visit } from '../helpers/app';
import { demoPath } from '../helpers/demo';

// A workstation runs beside: sounds and scenes go there, are pulled out and taken back there, and both run together.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

let visit: Visit;
let page: Page;
let host: Page;
let errors: string[];

/** The session as the service keeps it. */
const kept = () => JSON.parse(readFileSync('.cache/host/session.json', 'utf8')) as { items: HostItem[] };
const audioOf = async ({ file }: HostItem) => {
  const source = memorySource(readFileSync(`.cache/host/audio/${file}`));
  const { format } = await readAudioFile(source);
  return { format, planes: await readFrames(source, format, 0, format.frames) };
};
const lane = (name: string) => host.getByRole('group', { name: `Track ${name}`, exact: true });
const item = (name: RegExp) => host.getByRole('button', { name });
const panel = () => page.getByRole('group', { name: 'Session host' });
const shown = async (name: string) => {
  await expect(panel()).toHaveCount(0);
  await page.getByRole('button', { name: /^Host|^Sending/ }).click();
  await expect(panel()).toBeVisible();
  return panel().getByRole('button', { name });
};
const away = async () => {
  await page.keyboard.press('Escape');
  await expect(panel()).toHaveCount(0);
};

/** The session as it was at first, whatever an earlier visit left there. */
async function emptied(base: string): Promise<void> {
  const nothing = () => undefined;
  const hears = { connection: nothing, state: nothing, transport: nothing, wanted: nothing };
  const link = new HostLink(
    `${base}services/host/`,
    'Tests',
    hears,
    (url) => new WebSocket(url, { origin: base.slice(0, -1) }) as never,
  );
  link.connect();
  await link.act({ do: 'busy', why: '' });
  for (let left = true; left;) left = await link.act({ do: 'undo' }).then(Boolean, () => false);
  for (const action of [{ do: 'range', range: null }, { do: 'stop' }, { do: 'locate', at: 0 }] as const)
    await link.act(action);
  link.close();
}

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await emptied(visit.url);
  host = await page.context().newPage();
  watchErrors(host).forEach((e) => errors.push(e));
  await host.goto(`${visit.url}services/host/`);
  await expect(host.getByRole('timer', { name: 'Time' })).toHaveText('01:00:00:00');
  await page.bringToFront();
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors.splice(0)).toEqual([]));

test('a sound goes to the cursor of the selected track, with the very samples of its file, and can be pulled out there', async () => {
  await host.bringToFront();
  await host.getByRole('button', { name: 'Track 2' }).click();
  await expect(host.getByRole('button', { name: 'Track 2', pressed: true })).toBeVisible();
  for (let i = 0; i < 24; i++) await host.keyboard.press('ArrowRight');
  await expect(host.getByRole('timer', { name: 'Time' })).toHaveText('01:00:01:00');
  await page.bringToFront();
  await page.goto(`${visit.url}find`);
  await openFirst(page, 'hull length:<3');
  await shown('Send the sound');
  await expect(panel()).toContainText('What is sent lands on its cursor.');
  expect(await axeFaults(page)).toEqual([]);
  await away();
  await page.keyboard.press('Shift+T');
  await expect(lane('Track 2').getByRole('button')).toHaveCount(1);
  const [placed] = kept().items;
  expect([placed.at, placed.track]).toEqual([48_000, 2]);
  const { format, planes } = await audioOf(placed);
  expect([format.rate, format.bits, format.frames]).toEqual([48_000, 24, placed.frames]);
  // Its gain and fades are the host's own, so the file holds what the sound's file holds, at the same rate.
  const sound = (await stored<Sound>(page, 'sounds')).find((s) => nameOf(s) === placed.name)!;
  const root = (await stored<{ id: number; name: string }>(page, 'roots')).find((r) => r.id === sound.rootId)!;
  const own = memorySource(readFileSync(demoPath(`${root.name}/${sound.path}`)));
  const source = await readFrames(own, sound.format, 0, sound.format.frames);
  expect([sound.format.rate, sound.format.frames]).toEqual([48_000, placed.frames]);
  const loudest = planes[0].reduce((best, x, i) => (Math.abs(x) > Math.abs(planes[0][best]) ? i : best), 0);
  expect(Math.abs(planes[0][loudest])).toBeGreaterThan(0.05);
  expect(planes[0][loudest]).toBeCloseTo(source[0][loudest], 5);
  expect(await axeFaults(host)).toEqual([]);
});

test('a range is filled to the sample: repeated, with handles behind that are pulled out there as far as they go', async () => {
  await host.bringToFront();
  const ruler = (await host.getByRole('group', { name: 'Time', exact: true }).boundingBox())!;
  await host.mouse.move(ruler.x + 300, ruler.y + 10);
  await host.mouse.down();
  await host.mouse.move(ruler.x + 500, ruler.y + 10, { steps: 4 });
  await host.mouse.up();
  await expect(host.getByRole('button', { name: 'No range' })).toBeVisible();
  await host.getByRole('button', { name: 'Track 3' }).click();
  await page.bringToFront();
  await shown('Send the sound');
  await expect(panel()).toContainText('A range is selected there.');
  await choose(panel().getByRole('combobox', { name: 'Into a range' }), 'repeated, seams joined');
  await away();
  await page.keyboard.press('Shift+T');
  await expect(lane('Track 3').getByRole('button')).toHaveCount(1);
  const placed = kept().items.at(-1)!;
  await host.bringToFront();
  const told = await host.getByText(/^Range/).textContent();
  expect((placed.length / 48_000).toFixed(2)).toBe(/, ([\d.]+) s/.exec(told!)![1]);
  expect(placed.frames - placed.from - placed.length).toBeGreaterThanOrEqual(47_000);
  // Its end is pulled out much further than there is of it.
  const box = (await lane('Track 3').getByRole('button').boundingBox())!;
  await host.mouse.move(box.x + box.width - 3, box.y + 20);
  await host.mouse.down();
  await host.mouse.move(box.x + box.width + 250, box.y + 20, { steps: 4 });
  await host.mouse.up();
  await expect.poll(() => kept().items.at(-1)!.length).toBe(placed.frames - placed.from);
  await host.keyboard.press('Escape');
  await expect(host.getByRole('button', { name: 'No range' })).toHaveCount(0);
  await page.bringToFront();
});

test('taking back works from both sides, and never out of turn', async () => {
  await shown('Send the sound');
  const sent = panel().getByRole('list').getByRole('button');
  await expect(sent).toHaveCount(2);
  await sent.first().click();
  await expect(page.getByText(/was changed since: take that back first/).first()).toBeVisible();
  await host.getByRole('button', { name: 'Take back', exact: true }).first().click();
  await expect(sent).toHaveCount(2);
  await sent.first().click();
  await expect(lane('Track 3').getByRole('button')).toHaveCount(0);
  await expect(sent).toHaveCount(1);
  await host.keyboard.press('Control+z');
  await expect(lane('Track 2').getByRole('button')).toHaveCount(0);
  await expect(sent).toHaveCount(0);
  await away();
});

test('one that waits for an answer is asked again, and what is dragged over a track lands where it is let go of', async () => {
  const waits = host.getByRole('checkbox', { name: /Wait for an answer/ });
  await waits.click();
  await expect(waits).toBeChecked();
  await shown('Send the sound');
  await panel()
    .getByRole('button', { name: /^Send / })
    .first()
    .click();
  await expect(panel()).toContainText('It is busy: It waits for an answer to a question.');
  await waits.click();
  await expect(lane('Track 3').getByRole('button')).toHaveCount(1);
  await away();
  // A drag from one window into another, as a browser tells it to each.
  await currentRow(page).evaluate((row) => {
    const drag = row.closest('[draggable="true"]') ?? row.querySelector('[draggable="true"]') ?? row;
    drag.dispatchEvent(new DragEvent('dragstart', { bubbles: true, dataTransfer: new DataTransfer() }));
  });
  await lane('Track 1').evaluate((element) => {
    const dataTransfer = new DataTransfer();
    dataTransfer.setData('application/x-cormorant-sounds', '[]');
    const { left, top } = element.getBoundingClientRect();
    element.dispatchEvent(
      new DragEvent('drop', { bubbles: true, cancelable: true, dataTransfer, clientX: left + 100, clientY: top + 9 }),
    );
  });
  await expect(lane('Track 1').getByRole('button')).toHaveCount(1);
});

test('the scene goes there cue by cue on tracks of its own, with colours, and as one mix', async () => {
  await page.goto(`${visit.url}spot`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:00:00');
  const before = kept().items.length;
  await (await shown('Send its cues one by one')).click();
  await expect(panel().getByRole('list')).toContainText('Cues of', { timeout: 90_000 });
  const cues = kept().items.slice(before);
  expect(cues.length).toBe(17);
  expect(new Set(cues.map((c) => c.track)).size).toBeGreaterThan(2);
  for (const { from, length, frames } of cues) expect(from + length).toBeLessThanOrEqual(frames);
  await panel().getByRole('button', { name: 'Send the mix of the scene' }).click();
  await expect(panel().getByRole('list')).toContainText('Mix of', { timeout: 90_000 });
  const mix = kept().items.at(-1)!;
  const sum = await audioOf(mix);
  expect(mix.at).toBe(0);
  expect(sum.format.frames).toBe(mix.length);
  // Where a cue lies in the mix, something is heard.
  const loud = cues.reduce((a, b) => (a.length > b.length ? a : b));
  const there = sum.planes[0].subarray(loud.at, loud.at + loud.length);
  expect(there.some((x) => Math.abs(x) > 1e-4)).toBe(true);
  expect(item(/mix/i)).toBeTruthy();
});

test('both run together, whoever begins, within half a frame', async () => {
  await panel().getByRole('checkbox', { name: 'The scene runs where the host runs' }).check();
  await panel().getByRole('checkbox', { name: 'The host runs where the scene runs' }).check();
  await host.getByRole('button', { name: 'Play' }).click();
  await expect(panel()).toContainText(/0\.[0-4]\d frames apart/);
  await expect(
    page
      .getByRole('button', { name: 'Pause', exact: true })
      .or(page.getByRole('button', { name: 'Stop', exact: true }))
      .first(),
  ).toBeVisible();
  // The button that was clicked gave the keys back: Space stops it once.
  await host.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Play', exact: true })).toBeVisible();
  await away();
  await page.keyboard.press('Home');
  await expect(host.getByRole('timer', { name: 'Time' })).toHaveText('01:00:00:00');
  await page.keyboard.press('Space');
  await expect(host.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.keyboard.press('Space');
  await expect(host.getByRole('button', { name: 'Play' })).toBeVisible();
});
