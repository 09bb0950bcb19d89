import { writeWav } from '@core/files';
import type { Sound } from '@core/library';
import type { Cue, Scene } from '@core/scene';
import { expect, test, type Page } from '@playwright/test';
import { strToU8, zipSync } from 'fflate';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { choose, ofScenes, stored, type Visit, visitDemo } from '../helpers/app';
import { scratch } from '../helpers/programs';
import { sine } from '../helpers/signals';

// Lists of other hands come into a scene.

let visit: Visit;
let page: Page;
test.beforeAll(async () => {
  visit = await visitDemo();
  ({ page } = visit);
  await page.goto(`${visit.url}spot?frame=96`);
  await expect(page.getByRole('timer', { name: 'Playhead' })).toHaveText('01:00:04:00');
});
test.afterAll(() => visit?.end());
test.afterEach(() => expect(visit.errors).toEqual([]));

test('an edit list of another hand is seen before it comes in, tells what stays out, and is taken back as one step', async () => {
  const path = join(scratch(), 'reel.edl');
  const lines = [
    'TITLE: Picture lock',
    '001  A001C03  V     C        10:00:00:00 10:00:02:00 01:00:02:00 01:00:04:00',
    '* LOC: 01:00:05:12 CYAN    look up',
    '* LOC: 00:59:00:00 RED     slate',
    '002  A002C01  V     D    024 10:00:10:00 10:00:14:00 01:00:04:00 01:00:08:00',
    '003  BOOTS    A2    C        00:00:00:00 00:00:00:12 01:00:07:12 01:00:08:00',
    '* SOURCE FILE: Somewhere/else/bootStep-01.wav',
    '004  GULLS    A     C        00:00:00:00 00:00:02:00 01:00:06:00 01:00:08:00',
    '* SOURCE FILE: gulls <i>far.wav',
    '005  STRANGE  V     QQ       00:00:00:00 00:00:01:00 01:00:09:00 01:00:10:00',
  ];
  writeFileSync(path, lines.join('\r\n'));
  const state = async () => ({
    cues: (await ofScenes<Cue>(page, 'cues')).length,
    tracks: (await ofScenes<{ name: string }>(page, 'tracks')).map((t) => t.name),
    markers: (await stored<{ name: string; at: number }>(page, 'markers')).map((m) => [m.name, m.at]),
    listed: (await ofScenes<Scene>(page, 'scenes'))[0].listed?.map((c) => [c.kind, c.at]),
  });
  const before = await state();
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Scene …' }).click();
  await page.getByRole('menuitem', { name: /^Take in a list/ }).click();
  await (await chooser).setFiles(path);
  const dialog = page.getByRole('dialog', { name: 'Take in reel.edl' });
  await expect(dialog.getByText('1 file is not in this library')).toContainText('gulls <i>far.wav');
  await expect(dialog.getByRole('listitem')).toHaveText([/^Line 10: an event that is written in an unknown way/]);
  // Counted otherwise, the same timecodes are other instants.
  await choose(dialog.getByRole('combobox', { name: 'Frames a second that the list counts' }), '25');
  await expect(dialog.getByRole('checkbox', { name: '2 cuts of its picture, as events' })).toBeChecked();
  await choose(dialog.getByRole('combobox', { name: 'Frames a second that the list counts' }), '24');
  await dialog.getByRole('button', { name: 'Take it in' }).click();
  await expect(page.getByText(/^4 events, markers and cues taken in; 1 left out/).first()).toBeVisible();
  expect(await state()).toEqual({
    cues: before.cues + 1,
    tracks: [...before.tracks, 'Channel 2'],
    markers: [...before.markers, ['look up', 5.5 * 48_000]],
    listed: [
      ['cut', 2 * 48_000],
      ['dissolve', 4.5 * 48_000],
    ],
  });
  await expect(page.getByRole('button', { name: /^Cut to A001C03 at 01:00:02:00/ })).toBeVisible();
  await page.getByText('Picture', { exact: true }).first().click();
  await page.keyboard.press('Control+z');
  await expect.poll(state).toEqual(before);
});

test('of a project that brings its audio, what has other names here is known by its sound', async () => {
  const own = 'BOATMech/BOATMech_Winch Pawl Clack Heavy 01_TWA_TIDE.wav';
  const clip = (at: number, path: string) =>
    `<Clip time="${at}" duration="0.5" contentTimeUnit="seconds"><Audio channels="2" duration="1" sampleRate="48000"><File path="${path}"/></Audio></Clip>`;
  const text = `<?xml version="1.0"?><Project version="1.0"><Transport><Tempo value="60"/></Transport>
<Structure><Track id="t" name="Hits" contentType="audio"/></Structure>
<Arrangement><Lanes timeUnit="seconds"><Lanes track="t"><Clips>${clip(2, 'audio/take &amp; 7.wav')}${clip(4, 'audio/else.wav')}${clip(6, 'audio/torn.wav')}</Clips></Lanes></Lanes></Arrangement></Project>`;
  const path = join(scratch(), 'hits.dawproject');
  const foreign = writeWav([sine(440, 48_000, 4800)], { rate: 48_000, bits: 24 });
  writeFileSync(
    path,
    zipSync({
      'project.xml': strToU8(text),
      'audio/take & 7.wav': readFileSync(join('.demo/libraries/Tidewrack Audio', own)),
      'audio/else.wav': foreign,
      'audio/torn.wav': strToU8('RIFF, and no more'),
    }),
  );
  const before = await ofScenes<Cue>(page, 'cues');
  const chooser = page.waitForEvent('filechooser');
  await page.getByRole('button', { name: 'Scene …' }).click();
  await page.getByRole('menuitem', { name: /^Take in a list/ }).click();
  await (await chooser).setFiles(path);
  const dialog = page.getByRole('dialog', { name: 'Take in hits.dawproject' });
  const unknown = dialog.getByText('2 files are not in this library');
  await expect(unknown).toContainText('else.wav');
  await expect(unknown).toContainText('torn.wav');
  await dialog.getByRole('button', { name: 'Take it in' }).click();
  await expect(page.getByText(/^1 event, marker or cue taken in/).first()).toBeVisible();
  const fresh = (await ofScenes<Cue>(page, 'cues')).filter((c) => !before.some((b) => b.id === c.id));
  const sound = (await stored<Sound>(page, 'sounds')).find((s) => s.path === own)!;
  expect(fresh.map((c) => [c.soundId, c.at - c.anchor + c.start])).toEqual([[sound.id, 2 * 48_000]]);
  await page.getByText('Picture', { exact: true }).first().click();
  await page.keyboard.press('Control+z');
  await expect.poll(async () => (await ofScenes<Cue>(page, 'cues')).length).toBe(before.length);
});
