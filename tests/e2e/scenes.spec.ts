import type { Cue, Marker, Scene, Track, Version } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { axeFaults, choose, hush, ofScenes, rendered, stored, type Visit, visitDemo } from '../helpers/app';
import { rms } from '../helpers/signals';

// A scene as one works on it: markers, other sounds for many cues, several sounds at once, versions heard against each other.
test.describe.configure({ mode: 'serial', timeout: 120_000 });

let visit: Visit;
let page: Page;
let errors: string[];
const FRAME = 2000;

test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page, errors } = visit);
  await page.goto(`${visit.url}spot?frame=158`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:06:14');
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(errors).toEqual([]));

const cues = () => ofScenes<Cue>(page, 'cues');
const undo = () => page.keyboard.press('Control+z');
const timeline = () => page.getByRole('region', { name: 'Timeline' });
const line = () => page.getByRole('group', { name: 'Selected cues' });
const part = async (name: string) => page.getByText(name, { exact: true }).first().click();
const frameIs = (frame: number) => expect(page.getByText(new RegExp(`^frame ${frame} `))).toBeVisible();
/** The cue of a name, by the keyboard. */
async function take(name: RegExp): Promise<void> {
  await timeline().getByRole('button', { name }).and(page.locator('[aria-pressed][title]')).first().press('Enter');
}

test('markers are set while it runs, named, coloured, moved, walked to by key, and taken back one by one', async () => {
  await page.keyboard.press('Space');
  await expect(page.getByRole('button', { name: 'Stop' })).toBeVisible();
  await page.keyboard.press('Shift+M');
  await expect.poll(() => stored<Marker>(page, 'markers')).toHaveLength(1);
  await hush(page);
  const [{ at }] = await stored<Marker>(page, 'markers');
  expect(at).toBeGreaterThanOrEqual(158 * FRAME);
  await page.keyboard.press('Home');
  await page.keyboard.press('Shift+M');
  await page.keyboard.press('}');
  await frameIs(Math.round(at / FRAME));
  await page.keyboard.press('{');
  await frameIs(0);
  const first = page.getByRole('button', { name: /^Marker Marker 2/ });
  await first.click();
  await page.getByRole('textbox', { name: 'Name of Marker 2' }).selectText();
  await page.keyboard.type('Dawn');
  await page.getByRole('textbox', { name: 'Name of' }).press('Tab');
  await choose(page.getByRole('combobox', { name: /^Colour of/ }), 'red');
  await expect
    .poll(async () => (await stored<Marker>(page, 'markers')).find((m) => m.at === 0))
    .toMatchObject({ name: 'Dawn', colour: 'coral' });
  await page.keyboard.press('Escape');
  const box = (await page.getByRole('button', { name: /^Marker Dawn/ }).boundingBox())!;
  await page.mouse.move(box.x + 4, box.y + 5);
  await page.mouse.down();
  await page.mouse.move(box.x + 114, box.y + 5, { steps: 4 });
  await page.mouse.up();
  await expect
    .poll(async () => (await stored<Marker>(page, 'markers')).find((m) => m.name === 'Dawn')!.at)
    .toBe(24 * FRAME);
  await undo();
  await expect(page.getByRole('button', { name: 'Marker Dawn, 01:00:00:00' })).toBeVisible();
  // Its colour is a step, and its name another, however many letters that has.
  await undo();
  await undo();
  await expect(page.getByRole('button', { name: 'Marker Marker 2, 01:00:00:00' })).toBeVisible();
});

test('the playhead goes to a timecode that is typed, whole or only its end, or by frames; what is none is said', async () => {
  const goTo = async (text: string) => {
    await page.keyboard.press('Control+g');
    await page.getByRole('textbox', { name: 'Timecode to go to' }).fill(text);
    await page.keyboard.press('Enter');
  };
  for (const [typed, frame] of [
    ['01:00:13:00', 312],
    ['1300', 312],
    ['00614', 158],
    ['20', 164],
    ['+12', 176],
    ['-6', 170],
  ] as const) {
    await goTo(typed);
    await frameIs(frame);
  }
  await goTo('noon');
  await expect(page.getByText(/Type one such as 01:00:07:02/).first()).toBeVisible();
  await frameIs(170);
});

/** Those steps of the walk that are in sight. */
const steps = async () => (await cues()).filter((c) => /Boot step/.test(c.name)).sort((a, b) => a.at - b.at);

test('other sounds for a whole walk at once: no two neighbours alike, every anchor stays, kept as one step, and remembered', async () => {
  const before = await steps();
  await part('In this scene');
  await page.getByRole('button', { name: 'Select the cues of Boot step 01' }).click();
  const chosen = before.filter((c) => c.name === 'Boot step 01');
  await expect(line().getByText(`${chosen.length} cues`)).toBeVisible();
  await part('Sounds');
  await page.keyboard.press('h');
  await expect(page.getByRole('button', { name: `Keep all ${chosen.length}` })).toBeVisible();
  // Tried, and not kept: the catalogue has what it had.
  expect(await steps()).toEqual(before);
  await page.keyboard.press('Enter');
  await expect.poll(async () => (await cues()).filter((c) => c.tried)).toHaveLength(chosen.length);
  const after = (await cues()).filter((c) => chosen.some((o) => o.id === c.id)).sort((a, b) => a.at - b.at);
  expect(after.map((c) => c.at)).toEqual(chosen.map((c) => c.at));
  expect(new Set(after.map((c) => c.soundId)).size).toBe(after.length);
  for (const cue of after) expect(cue.soundId).not.toBe(chosen[0].soundId);
  await undo();
  await expect.poll(steps).toEqual(before);
});

test('one that was only tried is returned from, and the cue remembers it', async () => {
  await page.keyboard.press('Escape');
  await take(/^Rope End/);
  await page.keyboard.press('n');
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeVisible();
  await page.keyboard.press('Escape');
  await expect(page.getByRole('button', { name: 'Keep this one' })).toBeHidden();
  await expect(page.getByRole('listbox', { name: 'Alternates' }).getByText('tried here')).toBeVisible();
  expect((await cues()).find((c) => /^Rope End/.test(c.name))!.tried).toHaveLength(1);
});

test('softer and harder are steps of force, and bounds of force keep the others out', async () => {
  const force = async () => {
    const name = (await page
      .getByRole('listbox', { name: 'Alternates' })
      .getByRole('option', { selected: true })
      .first()
      .textContent())!;
    const sounds = await stored<{ fields: { fxName?: string; force?: number } }>(page, 'sounds');
    return sounds.find((s) => s.fields.fxName && name.includes(s.fields.fxName))?.fields.force ?? NaN;
  };
  const own = await force();
  await page.getByRole('button', { name: 'Harder' }).click();
  const moved = page.getByRole('button', { name: 'Keep this one' }).or(page.getByText('Nothing here hits harder'));
  await expect(moved.first()).toBeVisible();
  if (await page.getByRole('button', { name: 'Keep this one' }).isVisible())
    expect(await force()).toBeGreaterThanOrEqual(own + 4);
  await page.keyboard.press('Escape');
});

test('several sounds are placed one behind another, each on its own track, or all on one anchor', async () => {
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: 'Place on Winch' }).click();
  const rows = page.getByRole('listbox', { name: 'Sounds to place' }).getByRole('option');
  const before = await cues();
  const fresh = async () =>
    (await cues()).filter((c) => !before.some((b) => b.id === c.id)).sort((a, b) => a.id - b.id);
  const placing = async (way: string) => {
    await rows.nth(0).click({ modifiers: ['Control'] });
    await rows.nth(1).click({ modifiers: ['Control'] });
    await choose(page.getByRole('combobox', { name: 'How several are placed' }), way);
    await page.getByRole('button', { name: 'Place 2 sounds' }).click();
    await expect.poll(fresh).toHaveLength(2);
    return fresh();
  };
  const away = async () => {
    await undo();
    await expect.poll(fresh).toHaveLength(0);
    await page.keyboard.press('Escape');
  };
  const [first, second] = await placing('one behind another');
  expect(second.at - second.anchor - (first.at - first.anchor + first.end - first.start)).toBeLessThanOrEqual(1);
  expect(second.trackId).toBe(first.trackId);
  await away();
  // There is one track from this one on: another is made, and goes with the same step.
  const tracks = async () => (await stored(page, 'tracks')).length;
  const had = await tracks();
  const [one, two] = await placing('each on its own track');
  expect([one.at, one.trackId === two.trackId]).toEqual([two.at, false]);
  await away();
  await page.getByRole('button', { name: 'Place on Air' }).click();
  await placing('each on its own track');
  expect(await tracks()).toBe(had + 1);
  await away();
  expect(await tracks()).toBe(had);
  const [low, high] = await placing('all on one anchor');
  expect([low.at, low.trackId]).toEqual([high.at, high.trackId]);
  await away();
});

test('a row that is dragged shows where it lands before it is let go of, and lands there', async () => {
  await page.keyboard.press('Home');
  await frameIs(0);
  const row = page.getByRole('listbox', { name: 'Sounds to place' }).getByRole('option').first();
  const lane = (await page.getByRole('group', { name: 'Cues on Winch' }).boundingBox())!;
  const from = (await row.boundingBox())!;
  const before = (await cues()).length;
  await page.mouse.move(from.x + 30, from.y + 10);
  await page.mouse.down();
  await page.mouse.move(lane.x + 200, lane.y + 20, { steps: 6 });
  await page.mouse.move(lane.x + 240, lane.y + 20, { steps: 3 });
  const told = timeline().getByRole('status');
  // 110 pixels a second: the frame nearest to where the hand is.
  const text = '01:00:02:04';
  await expect(async () => {
    // A drag is told of where it is only as long as it moves.
    await page.mouse.move(lane.x + 241, lane.y + 20);
    await page.mouse.move(lane.x + 240, lane.y + 20);
    await expect(told).toHaveText(text, { timeout: 500 });
  }).toPass();
  expect(await cues()).toHaveLength(before);
  // A hand that goes away again leaves nothing there.
  await page.mouse.move(from.x + 30, from.y + 60, { steps: 6 });
  await expect(told).toBeHidden();
  await expect(async () => {
    await page.mouse.move(lane.x + 241, lane.y + 20, { steps: 4 });
    await page.mouse.move(lane.x + 240, lane.y + 20);
    await expect(told).toHaveText(text, { timeout: 500 });
  }).toPass();
  await page.mouse.up();
  await expect.poll(cues).toHaveLength(before + 1);
  await expect(page.getByLabel('Anchor of the cue')).toHaveText(text);
  await undo();
  await expect.poll(cues).toHaveLength(before);
});

test('while it runs a row is heard in the mix at its instant before it is placed; a layer joins its cue', async () => {
  await page.keyboard.press('Escape');
  await page.keyboard.press('Home');
  const before = await cues();
  await page.keyboard.press('Space');
  const row = page.getByRole('listbox', { name: 'Sounds to place' }).getByRole('option').nth(2);
  await row.click();
  await expect(page.getByRole('button', { name: 'Leave it out' })).toBeVisible();
  expect(await cues()).toEqual(before);
  await page.keyboard.press('Enter');
  await expect.poll(cues).toHaveLength(before.length + 1);
  await hush(page);
  const placed = (await cues()).find((c) => !before.some((b) => b.id === c.id))!;
  expect(placed.at).toBe(0);
  await page.keyboard.press('Shift+Enter');
  await expect.poll(cues).toHaveLength(before.length + 2);
  const layer = (await cues()).find((c) => c.id !== placed.id && !before.some((b) => b.id === c.id))!;
  expect([layer.at, layer.trackId]).toEqual([placed.at, placed.trackId]);
  await undo();
  await expect.poll(cues).toHaveLength(before.length + 1);
  await undo();
  await expect.poll(cues).toHaveLength(before.length);
});

test('level and place on one field, by keys, each a step back', async () => {
  await take(/^Rope End/);
  const rope = async () => (await cues()).find((c) => /^Rope End/.test(c.name))!;
  const { gain } = await rope();
  await line().getByRole('button', { name: 'Place …' }).click();
  const field = page.getByLabel(/^Level and place: arrows/);
  await field.press('ArrowLeft');
  await field.press('ArrowUp');
  await expect.poll(rope).toMatchObject({ place: -0.05, gain: gain - 1 });
  const box = (await field.boundingBox())!;
  await page.mouse.click(box.x + box.width - 11, box.y + box.height - 11);
  await expect.poll(rope).toMatchObject({ place: expect.closeTo(0.9, 1), gain: expect.closeTo(-2, 0) });
  expect(await axeFaults(page)).toEqual([]);
  await page.keyboard.press('Escape');
  for (let n = 0; n < 3; n++) await undo();
  await expect.poll(async () => (await rope()).place).toBeUndefined();
  expect((await rope()).gain).toBe(gain);
});

test('tracks of a group take level, mute and solo together; a gain turned in steps is one edit', async () => {
  for (const name of ['Deck', 'Air']) {
    await timeline()
      .getByRole('button', { name: `Place on ${name}` })
      .click({ button: 'right' });
    await page.getByRole('menuitem', { name: 'Name, place, flow, colour, group …' }).click();
    await page.getByRole('combobox', { name: `Group of ${name}` }).fill('Ship');
    await page.keyboard.press('Tab');
    await page.getByRole('button', { name: 'Done' }).click();
    await expect
      .poll(async () => (await ofScenes<Track>(page, 'tracks')).find((t) => t.name === name)!.group)
      .toBe('Ship');
  }
  const of = async () =>
    Object.fromEntries((await ofScenes<Track>(page, 'tracks')).map((t) => [t.name, [t.gain, t.mute]]));
  const before = await of();
  const gain = page.getByRole('spinbutton', { name: 'Gain of Deck, dB' });
  for (let n = 0; n < 4; n++) await gain.press('ArrowUp');
  await expect
    .poll(of)
    .toEqual({ ...before, Deck: [(before.Deck[0] as number) + 2, false], Air: [(before.Air[0] as number) + 2, false] });
  await gain.press('Escape');
  await gain.blur();
  await page.getByRole('button', { name: 'Mute Air' }).click();
  await expect.poll(async () => (await of()).Deck[1]).toBe(true);
  await undo();
  await undo();
  await expect.poll(of).toEqual(before);
});

test('a version is kept, heard against now at the same instant without a gap, told apart, taken from, and returned to', async () => {
  await part('Versions');
  const before = (await stored<Version>(page, 'versions')).length;
  await page.getByRole('textbox', { name: 'Name of the version' }).fill('Wet');
  await page.getByRole('button', { name: 'Keep the scene as it is' }).click();
  await expect.poll(() => stored<Version>(page, 'versions')).toHaveLength(before + 1);
  const kept = await cues();
  await take(/^Rope End/);
  await page.keyboard.press('Alt+ArrowRight');
  await page.keyboard.press('Alt+ArrowUp');
  await page.keyboard.press('Escape');
  await page.getByRole('button', { name: /^Wet / }).click();
  const difference = page.getByRole('button', { name: /Rope End.*moved 1 frame earlier, 1.0 dB softer/ });
  await expect(difference).toBeVisible();
  // The water sounds all along: whoever swaps hears no hole in it.
  const toFourSeconds = async () => {
    await page.keyboard.press('Home');
    for (let s = 0; s < 4; s++) await page.keyboard.press('Shift+ArrowRight');
  };
  await toFourSeconds();
  const [left] = await rendered(page, 96_000, async () => {
    await page.keyboard.press('Space');
    for (let n = 0; n < 3; n++) {
      await page.keyboard.press('c');
      await expect(page.getByText('nothing can be changed meanwhile')).toBeVisible();
      await page.keyboard.press('c');
      await expect(page.getByText('nothing can be changed meanwhile')).toBeHidden();
    }
  });
  await hush(page);
  const parts = Array.from({ length: 90 }, (_, i) =>
    rms(Float32Array.from(left.slice(i * 1024 + 2048, (i + 1) * 1024 + 2048))),
  );
  expect(Math.min(...parts)).toBeGreaterThan(0.0005);
  // Nothing is changed while another state is heard. It has run on meanwhile, and the timeline with it.
  await toFourSeconds();
  await page.keyboard.press('c');
  await take(/^Rope End/);
  const now = await cues();
  await page.keyboard.press('Alt+ArrowRight');
  await expect(page.getByText('You are hearing Wet.').first()).toBeVisible();
  expect(await cues()).toEqual(now);
  await page.keyboard.press('Escape');
  await page.keyboard.press('Escape');
  await expect(page.getByText('nothing can be changed meanwhile')).toBeHidden();
  await page.getByRole('button', { name: /^Take Rope End/ }).click();
  await expect.poll(cues).toEqual(kept);
  await undo();
  await expect.poll(cues).toEqual(now);
  await page.getByRole('button', { name: 'Return to Wet' }).click();
  await expect.poll(cues).toEqual(kept);
  await undo();
  await expect.poll(cues).toEqual(now);
});

test('what is in the scene is listed, played and found from there', async () => {
  await part('In this scene');
  const list = page.getByRole('region', { name: 'In this scene' });
  await expect(list.getByText(/^\d+ sounds in \d+ cues$/)).toBeVisible();
  await list.getByRole('button', { name: /^Boot step 01/ }).click();
  const [scene] = await ofScenes<Scene>(page, 'scenes');
  expect(scene.name).toBe('Last Ferry to Heron Point');
  await list.getByRole('button', { name: /^01:00:08:00$/ }).click();
  await frameIs(192);
  await list.getByRole('button', { name: 'Show Rope End Into Water 01 in Find' }).click();
  await expect(page.getByRole('row', { name: /Rope End Into Water 01/ }).first()).toBeVisible();
});
