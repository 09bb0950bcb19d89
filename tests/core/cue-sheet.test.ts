import { readDelimited, writeDelimited } from '@core/library';
import {
  cueSheet,
  cueSheetCells,
  frameRate,
  frameToSample,
  fromTimecode,
  struckCue,
  type Cue,
  type Scene,
  type Track,
} from '@core/scene';
import { soundOf } from '../helpers/catalogue';

const RATE = 48_000;
const scene: Scene = { id: 5, name: 'Ferry', fps: '24', startFrame: 86_400, sampleRate: RATE, length: RATE * 4 };
const tracks: Track[] = ['Water', 'Winch'].map((name, i) => ({
  ...{ id: i + 1, sceneId: 5, order: i, name, gain: 0, mute: false, solo: false },
}));
const cueOf = (more: Partial<Cue>): Cue => ({
  ...struckCue(soundOf(9, {}, 9600), { id: 1, sceneId: 5, trackId: 2, gain: -1.5, at: 96_000 }),
  ...more,
});
const sourceOf = (c: Cue) => ({ file: `Tidewrack/Boats & gear/${c.name}.wav`, library: 'Tidewrack', licence: 'Owned' });

test('a cue sheet has the frames that a cue is heard in, in any count of timecode; what is muted is not in it', () => {
  for (const fps of ['23.976', '24', '29.97 drop', '59.94 drop']) {
    const rate = frameRate(fps);
    const startFrame = fromTimecode('23:59:59:00', rate);
    const own = { ...scene, fps, startFrame };
    // Two frames of sound, over midnight.
    const frame = (n: number) => frameToSample(n, rate, RATE);
    const begin = rate.nominal - 1;
    const cue = cueOf({ at: frame(begin), anchor: 0, end: frame(begin + 2) - frame(begin) });
    const muted = cueOf({ id: 8, mute: true });
    const rows = cueSheet(own, tracks, [muted, cue], sourceOf);
    expect(rows).toHaveLength(1);
    const said = [rows[0].begins, rows[0].ends].map((t) => t.replace(';', ':'));
    expect([fps, ...said]).toEqual([fps, `23:59:59:${rate.nominal - 1}`, '00:00:00:01']);
    expect(rows[0].lasts).toBeCloseTo((2 * rate.den) / rate.num, 4);
  }
  const cues = [cueOf({ name: 'Żuraw 😀' }), cueOf({ id: 2, trackId: 1, at: 500, name: '=1+1, "quoted"' })];
  const cells = cueSheetCells(cueSheet(scene, tracks, cues, sourceOf));
  expect(new Set(cells.map((row) => row.length)).size).toBe(1);
  const read = readDelimited(new TextEncoder().encode(writeDelimited(cells, ',')));
  expect([read.columns, ...read.rows]).toEqual(cells);
});
