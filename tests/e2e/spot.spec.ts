import { MOTION_DEFAULT, type Cue, type LineEffect, type Scene, type Track } from '@core/scene';
import { expect, test, type Locator, type Page } from '@playwright/test';
import { BESIDE, CLACKS, FPS, MOMENT, pictureEvents, SHOTS } from '../../src/demo/film/events';
import { axeFaults, choose, hush, ofScenes, rendered, type Visit, visitDemo, watchErrors } from '../helpers/app';
import { rms } from '../helpers/signals';

// Hands on the timeline: no tools, everything is seen and heard while it happens, and each of it is one step back.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

let visit: Visit;
let page: Page;
let errors: string[];
const FRAME = 2000;
const TRACK = 'Deck';
/** Where the rope falls into the water. */
const SPLASH = 158;

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await page.goto(`${visit.url}spot?frame=${SPLASH}`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:06:14');
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors).toEqual([]));

const cues = () => ofScenes<Cue>(page, 'cues');
const cueOf = async (id: number) => (await cues()).find((c) => c.id === id)!;
const lane = (name: string) => page.getByRole('group', { name: `Cues on ${name}` });
const line = () => page.getByRole('group', { name: 'Selected cues' });
const undo = () => page.keyboard.press('Control+z');
const timeline = () => page.getByRole('region', { name: 'Timeline' });

test('what moves in the picture is offered where it happens, walked to, and as much of it as is wanted', async () => {
  const marks = page.getByRole('group', { name: 'Events of the picture' }).getByRole('button');
  await expect(marks.first()).toBeVisible();
  const [{ cuts }] = await ofScenes<Scene>(page, 'scenes');
  expect(cuts!.found.filter((c) => c.kind === 'cut').map((c) => c.frame)).toEqual(SHOTS.slice(1));
  const offered = cuts!.motion!.events.filter((e) => e.strength >= MOTION_DEFAULT);
  const known = pictureEvents.events.map((e) => e.frame);
  const near = (a: number, b: number) => Math.abs(a - b) <= 2;
  expect(known.filter((f) => offered.some((e) => near(e.frame, f))).length / known.length).toBeGreaterThan(0.9);
  // At most one in five seconds is of nothing that happens.
  const drawn = [...known, ...BESIDE];
  const others = offered.filter((e) => !drawn.some((f) => near(e.frame, f)));
  expect(others.length).toBeLessThanOrEqual(pictureEvents.frames / FPS / 5);
  // The pawl falls to the right of the winch, and nothing of it is missed.
  for (const clack of CLACKS) {
    const of = offered.find((e) => near(e.frame, clack))!;
    expect([of.kind, Math.abs(of.x - 0.83) < 0.1, Math.abs(of.y - 0.65) < 0.1]).toEqual(['peak', true, true]);
  }
  await page.keyboard.press('Home');
  await page.keyboard.press('u');
  await expect(page.getByText(new RegExp(`^frame ${MOMENT.lanternLit} `))).toBeVisible();
  // Fewer of them are fewer marks and fewer steps.
  await page.getByRole('button', { name: 'Picture …' }).click();
  const slider = page.getByRole('slider', { name: 'Movement that is an event, from strength' });
  await slider.press('End');
  await expect(page.getByText('0 peaks, 0 stops')).toBeVisible();
  await page.keyboard.press('Escape');
  await page.keyboard.press('u');
  await expect(page.getByText(new RegExp(`^frame ${SHOTS[1]} `))).toBeVisible();
  await page.getByRole('button', { name: 'Picture …' }).click();
  await slider.press('Home');
  await expect(page.getByText(/^[1-9]\d+ peaks, [1-9]\d+ stops$/)).toBeVisible();
  await slider.press('End');
  await page.keyboard.press('Escape');
  await toSplash();
});

interface Held {
  id: number;
  button: Locator;
  box: { x: number; y: number; width: number; height: number };
}
/** A cue that is in sight. */
async function held(name: RegExp): Promise<Held> {
  const button = timeline().getByRole('button', { name }).and(page.locator('[aria-pressed][title]'));
  await expect(button).toHaveCount(1);
  const found = (await cues()).filter((c) => name.test(c.name));
  expect(found).toHaveLength(1);
  return { id: found[0].id, button, box: (await button.boundingBox())! };
}
/** The cue with which these tests work: nothing else of its track is near. */
const rope = () => held(/Rope End/);
/** The playhead to where the rope falls into the water. */
async function toSplash(): Promise<void> {
  await page.keyboard.press('Home');
  for (let s = 0; s < 6; s++) await page.keyboard.press('Shift+ArrowRight');
  for (let f = 0; f < 14; f++) await page.keyboard.press('.');
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:06:14');
}
/** Takes hold of a place, and moves there; the hand is still down. */
async function hold(from: [number, number], to: [number, number]): Promise<void> {
  await page.mouse.move(...from);
  await page.mouse.down();
  await page.mouse.move((from[0] + to[0]) / 2, (from[1] + to[1]) / 2);
  await page.mouse.move(...to);
}
const lower = ({ box }: Held): [number, number] => [box.x + box.width / 2, box.y + box.height - 6];

test('a cue is dragged onto a frame: seen and heard before it is let go of, one step back afterwards; Escape lets it be', async () => {
  const held = await rope();
  const before = await cueOf(held.id);
  const [x, y] = lower(held);
  await page.mouse.click(x, y);
  await expect(held.button).toHaveAttribute('aria-pressed', 'true');
  await page.getByRole('button', { name: `Solo ${TRACK}` }).click();
  await hold([x, y], [x + 160, y]);
  await expect(timeline().getByRole('status')).toHaveText(/^01:00:\d\d:\d\d, \+\d+ ms$/);
  expect(await cueOf(held.id)).toEqual(before);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await expect(timeline().getByRole('status')).toHaveCount(0);
  expect(await cueOf(held.id)).toEqual(before);

  // Shift holds off what it would be drawn to; without, it lands on a whole frame.
  await hold([x, y], [x + 157, y]);
  await page.mouse.up();
  await expect.poll(async () => (await cueOf(held.id)).at).not.toBe(before.at);
  const after = await cueOf(held.id);
  expect(after.at % FRAME).toBe(0);
  expect({ ...after, at: 0 }).toEqual({ ...before, at: 0 });
  await undo();
  await expect.poll(() => cueOf(held.id)).toEqual(before);
});

test('what is held is heard where the hand has it', async () => {
  const held = await rope();
  const [x, y] = lower(held);
  /** How loud it is at the playhead. */
  const here = async () => {
    const planes = await rendered(page, 4800, () => page.keyboard.press('Space'));
    await hush(page);
    await toSplash();
    return rms(planes[0]);
  };
  const before = await here();
  expect(before).toBeGreaterThan(1e-3);
  await hold([x, y], [x + 330, y]);
  const planes = await rendered(page, 4800, () => page.keyboard.press('Space'));
  expect(rms(planes[0])).toBeLessThan(before / 10);
  await hush(page);
  await page.keyboard.press('Escape');
  await page.mouse.up();
  await toSplash();
  expect(await here()).toBeCloseTo(before, 6);
});

test('edges trim, corners fade, the line is gain; by number as well', async () => {
  const held = await rope();
  const before = await cueOf(held.id);
  const { box } = held;
  const number = (name: string) => line().getByRole('spinbutton', { name });
  const undone = async () => {
    await undo();
    await expect.poll(() => cueOf(held.id)).toEqual(before);
    // What is seen follows what is kept.
    await expect.poll(() => held.button.boundingBox()).toEqual(box);
    await expect(number('Fade-out of the cue, ms')).toHaveValue('0');
    await expect(number('Gain of the cue, dB')).toHaveValue(before.gain.toFixed(1));
  };
  await page.mouse.click(...lower(held));
  // The end.
  await hold([box.x + box.width - 1, box.y + box.height - 10], [box.x + box.width - 21, box.y + box.height - 10]);
  await page.mouse.up();
  await expect.poll(async () => (await cueOf(held.id)).end).toBeLessThan(before.end);
  const trimmed = await cueOf(held.id);
  expect([trimmed.at, trimmed.anchor, trimmed.start]).toEqual([before.at, before.anchor, before.start]);
  expect(trimmed.fadeOut).toBeGreaterThanOrEqual(0.002);
  await undone();
  // The corner on the right.
  await hold([box.x + box.width - 7, box.y + 3], [box.x + box.width - 27, box.y + 3]);
  await expect(timeline().getByRole('status')).toHaveText(/^\d+ ms$/);
  await page.mouse.up();
  await expect.poll(async () => (await cueOf(held.id)).fadeOut).toBeGreaterThan(0.05);
  await undone();
  // The line of the gain: 0 dB lies a quarter of the lane's height down.
  const laneBox = (await lane(TRACK).boundingBox())!;
  const zero = laneBox.y + 43 / 4;
  await hold([box.x + box.width / 2, zero], [box.x + box.width / 2, zero + 5]);
  await expect(timeline().getByRole('status')).toHaveText(/dB$/);
  await page.mouse.up();
  await expect.poll(async () => (await cueOf(held.id)).gain).toBeLessThan(before.gain - 5);
  await undone();
  // By number.
  const fadeIn = page.getByRole('spinbutton', { name: 'Fade-in of the cue, ms' });
  await fadeIn.fill('40');
  await fadeIn.press('Enter');
  await expect.poll(async () => (await cueOf(held.id)).fadeIn).toBeCloseTo(0.04, 9);
  await fadeIn.blur();
  await undone();
  await page.keyboard.press('Alt+Shift+ArrowRight');
  await expect.poll(async () => (await cueOf(held.id)).at).toBe(before.at + 48);
  await undo();
  expect(await axeFaults(page)).toEqual([]);
});

test('several are selected by a box and by keys; they move, are copied, pasted, locked and removed together, and all comes back', async () => {
  const all = await cues();
  await page.keyboard.press('Control+a');
  await expect(line()).toContainText(`${all.length} cues`);
  await page.keyboard.press('Alt+ArrowRight');
  await expect
    .poll(async () => (await cues()).every((c) => c.at === all.find((a) => a.id === c.id)!.at + FRAME))
    .toBe(true);
  await undo();
  await expect.poll(cues).toEqual(all);
  // Pressed quickly, each press counts.
  await page.keyboard.press('Escape');
  const quick = await rope();
  await page.mouse.click(...lower(quick));
  for (let i = 0; i < 6; i++) await page.keyboard.press('Alt+ArrowRight');
  await expect.poll(async () => (await cueOf(quick.id)).at).toBe(all.find((c) => c.id === quick.id)!.at + 6 * FRAME);
  for (let i = 0; i < 6; i++) await undo();
  await expect.poll(cues).toEqual(all);
  await expect.poll(() => quick.button.boundingBox()).toEqual(quick.box);
  // A box about the first cue of the lane.
  await page.keyboard.press('Escape');
  const held = await rope();
  const laneBox = (await lane(TRACK).boundingBox())!;
  await hold([held.box.x - 14, laneBox.y + 2], [held.box.x + held.box.width / 2, laneBox.y + laneBox.height - 3]);
  await page.mouse.up();
  await expect(held.button).toHaveAttribute('aria-pressed', 'true');
  await page.keyboard.press('q');
  await expect(line().getByRole('button', { name: 'Unlock' })).toBeVisible();
  expect((await cueOf(held.id)).locked).toBe(true);
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.getByText('What is selected is locked').first()).toBeVisible();
  await page.keyboard.press('q');
  await expect(line().getByRole('button', { name: 'Lock', exact: true })).toBeVisible();
  await undo();
  await undo();
  await expect.poll(cues).toEqual(all);
  await page.keyboard.press('Control+c');
  await page.keyboard.press('Home');
  await page.keyboard.press('Control+v');
  await expect.poll(async () => (await cues()).length).toBe(all.length + 1);
  const pasted = (await cues()).find((c) => !all.some((a) => a.id === c.id))!;
  expect({ ...pasted, id: 0, at: 0 }).toEqual({ ...(await cueOf(held.id)), id: 0, at: 0 });
  expect(pasted.at).toBe(0);
  await undo();
  await expect.poll(cues).toEqual(all);
  await page.keyboard.press('Control+a');
  await page.keyboard.press('Delete');
  await expect.poll(async () => (await cues()).length).toBe(0);
  await undo();
  await expect.poll(cues).toEqual(all);
});

test('cut in two at the playhead, Alt drags a copy to another track, and two undos bring back what was', async () => {
  const all = await cues();
  await toSplash();
  await page.mouse.click(...lower(await rope()));
  // A sixth of a second behind its anchor it still sounds.
  for (let i = 0; i < 4; i++) await page.keyboard.press('.');
  await page.keyboard.press('x');
  await expect.poll(async () => (await cues()).length).toBe(all.length + 1);
  await undo();
  await expect.poll(cues).toEqual(all);
  const again = await rope();
  const [x, y] = lower(again);
  await page.mouse.click(x, y);
  await page.keyboard.down('Alt');
  await hold([x, y], [x + 60, y + 44]);
  await expect(timeline().getByRole('status')).toHaveText(/a copy$/);
  await page.mouse.up();
  await page.keyboard.up('Alt');
  await expect.poll(async () => (await cues()).length).toBe(all.length + 1);
  const copy = (await cues()).find((c) => !all.some((a) => a.id === c.id))!;
  const own = await cueOf(again.id);
  expect(copy.trackId).not.toBe(own.trackId);
  expect({ ...copy, id: 0, at: 0, trackId: 0 }).toEqual({ ...own, id: 0, at: 0, trackId: 0 });
  await undo();
  await expect.poll(cues).toEqual(all);
});

test('tracks are renamed, placed, ordered, locked and removed from their menu; a key goes round the selected cue', async () => {
  const all = await cues();
  const tracks = async () =>
    (await ofScenes<Track>(page, 'tracks')).filter((t) => !t.bus).sort((a, b) => a.order - b.order);
  const before = await tracks();
  const menu = async (item: string | RegExp) => {
    await page.getByRole('button', { name: /^Place on (Deck|Afterdeck)$/ }).click({ button: 'right' });
    await page.getByRole('menuitem', { name: item }).click();
  };
  await menu('Name, place, flow, colour, group …');
  await page.getByRole('textbox', { name: 'Name of the track' }).fill('Afterdeck');
  const slider = page.getByRole('slider', { name: 'Place of Deck' });
  await slider.focus();
  await slider.press('ArrowLeft');
  await slider.press('ArrowLeft');
  await page.getByRole('button', { name: 'Done' }).click();
  await expect(lane('Afterdeck')).toBeVisible();
  await expect.poll(async () => (await tracks())[1]).toMatchObject({ name: 'Afterdeck', place: -0.1 });
  await menu('Move up');
  await expect.poll(async () => (await tracks()).map((t) => t.name)).toEqual(['Afterdeck', 'Water', 'Winch', 'Air']);
  await menu('Lock its cues');
  await page.mouse.click(...lower(await held(/Rope End/)));
  await page.keyboard.press('Delete');
  await expect(page.getByText('What is selected is locked').first()).toBeVisible();
  await menu('Unlock its cues');
  await expect.poll(async () => (await tracks())[0].locked).toBeUndefined();
  await menu(/^Remove with \d+ cues$/);
  await expect(lane('Afterdeck')).toHaveCount(0);
  await expect.poll(async () => (await cues()).length).toBeLessThan(all.length);
  for (let i = 0; i < 5; i++) await undo();
  await expect.poll(tracks).toEqual(before);
  expect(await cues()).toEqual(all);
  await page.mouse.click(...lower(await rope()));
  await page.keyboard.press('r');
  await expect(page.getByRole('button', { name: 'Stop', exact: true })).toBeVisible();
  const [scene] = await ofScenes<{ loop: { start: number; end: number } }>(page, 'scenes');
  const cue = all.find((c) => /Rope End/.test(c.name))!;
  expect(scene.loop.start).toBe(cue.at - (cue.anchor - cue.start) - 48_000);
  await hush(page);
  await page.getByRole('button', { name: 'Clear', exact: true }).click();
  await expect(page.getByText('in and out are set')).toHaveCount(0);
});

test('scenes are made, copied whole, renamed, opened and binned; what was binned comes back, by undo or from the bin', async () => {
  const [scenes, tracks, all] = [
    await ofScenes<{ id: number; name: string }>(page, 'scenes'),
    await ofScenes<Track>(page, 'tracks'),
    await cues(),
  ];
  const menu = async (item: string) => {
    await page.getByRole('button', { name: 'Scene …' }).click();
    await page.getByRole('menuitem', { name: item }).click();
  };
  const which = page.getByRole('combobox', { name: 'Scene' });
  await menu('Copy with all that it has');
  await expect(page.getByText('Last Ferry to Heron Point, copy is open').first()).toBeVisible();
  await expect.poll(async () => (await cues()).length).toBe(2 * all.length);
  const copied = (await cues()).filter((c) => !all.some((a) => a.id === c.id));
  const plain = (c: Cue) => ({ ...c, id: 0, sceneId: 0, trackId: 0 });
  const sorted = (list: Cue[]) => list.map(plain).sort((a, b) => a.at - b.at || a.soundId - b.soundId);
  expect(sorted(copied)).toEqual(sorted(all));
  // Its effects name its own lines.
  const lines = (await ofScenes<Track>(page, 'tracks')).filter((t) => t.sceneId === copied[0].sceneId);
  const own = (await ofScenes<LineEffect>(page, 'effects')).filter((e) => e.sceneId === copied[0].sceneId);
  expect(own.map((e) => e.kind).sort()).toEqual(
    ['compressor', 'distance', 'limiter', 'reverb', 'send', 'send', 'width'].sort(),
  );
  for (const { lineId, line } of own)
    for (const id of [lineId, line ?? 0]) expect(id === 0 || lines.some((t) => t.id === id)).toBe(true);
  await menu('Rename …');
  await page.getByRole('textbox', { name: 'Name of the scene' }).fill('Second thoughts');
  await page.keyboard.press('Enter');
  await expect
    .poll(async () => (await ofScenes<{ name: string }>(page, 'scenes')).map((s) => s.name))
    .toContain('Second thoughts');
  await menu('New scene');
  await expect(timeline().getByRole('group', { name: /^Cues on/ })).toHaveCount(3);
  await expect(timeline().getByRole('button', { name: /anchor at/ })).toHaveCount(0);
  await menu('Put into the bin');
  await choose(which, 'Second thoughts');
  await expect(timeline().getByRole('button', { name: /Rope End/ })).toHaveCount(1);
  await menu('Put into the bin');
  await expect.poll(async () => (await ofScenes<Track>(page, 'tracks')).length).toBe(tracks.length);
  expect(await ofScenes(page, 'scenes')).toHaveLength(scenes.length);
  expect(await cues()).toEqual(all);
  await page.getByRole('link', { name: 'Find', exact: true }).click();
  await undo();
  await expect.poll(async () => (await cues()).length).toBe(2 * all.length);
  await page.keyboard.press('Control+Shift+z');
  await expect.poll(async () => (await cues()).length).toBe(all.length);
  await page.goto(`${visit.url}label/safety`);
  const row = page.getByRole('region', { name: 'Bin' }).getByRole('row', { name: /Scene Second thoughts/ });
  await row.getByRole('button', { name: 'Restore' }).click();
  await expect(row).toHaveCount(0);
  expect(sorted((await cues()).filter((c) => !all.some((a) => a.id === c.id)))).toEqual(sorted(all));
  await undo();
  await expect.poll(async () => (await cues()).length).toBe(all.length);
});

test('two pages on one scene: each sees what the other does, and takes back its own steps alone', async () => {
  const first = await cues();
  const at = (list: Cue[], name: RegExp) => list.find((c) => name.test(c.name))!.at;
  const [rope, lantern] = [/Rope End/, /Lantern Wick/];
  const other = await page.context().newPage();
  const faults = watchErrors(other);
  for (const p of [page, other]) {
    await p.goto(`${visit.url}spot?frame=${SPLASH}`);
    await expect(p.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:06:14');
  }
  const select = async (p: Page, name: RegExp) => {
    await p
      .getByRole('group', { name: /^Cues on/ })
      .getByRole('button', { name })
      .press('Enter');
    await expect(p.getByRole('group', { name: 'Selected cues' })).toContainText(name);
  };
  const shows = (p: Page, name: RegExp, frame: string) =>
    expect(p.getByRole('group', { name: /^Cues on/ }).getByRole('button', { name })).toHaveAccessibleName(
      new RegExp(`anchor at 01:00:${frame}`),
    );
  await select(page, rope);
  await select(other, lantern);
  // Both at once, and the other one last.
  await Promise.all([1, 2, 3].map(() => page.keyboard.press('Alt+ArrowRight')));
  await Promise.all([1, 2].map(() => other.keyboard.press('Alt+ArrowLeft')));
  for (const p of [page, other]) {
    await shows(p, rope, '06:17');
    await shows(p, lantern, '01:22');
  }
  await page.keyboard.press('Control+z');
  for (const p of [page, other]) await shows(p, rope, '06:16');
  await other.keyboard.press('Control+z');
  for (const p of [page, other]) await shows(p, lantern, '01:23');
  await other.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  await page.keyboard.press('Control+z');
  for (const p of [page, other]) await shows(p, rope, '06:14');
  await expect.poll(async () => at(await cues(), lantern)).toBe(at(first, lantern));
  expect(await cues()).toEqual(first);
  expect(faults).toEqual([]);
  await other.close();
});
