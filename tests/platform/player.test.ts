import { plainShape } from '@core/audio';
import { CHUNK, type Status } from '@core/engine';
import { memorySource, readAudioFile, writeWav } from '@core/files';
import { AudioLoader, type Loadable } from '@platform/audio/loader';
import { Player } from '@platform/audio/player';
import { apart, sine } from '../helpers/signals';
import { fileHandle } from '../helpers/handles';
import { StandInOutput, standInOutputs } from '../helpers/output';

// From what is asked for to what comes out, with outputs that fail, sleep and are taken away.

const FRAMES = 3 * CHUNK;
const plane = sine(300, 48000, FRAMES);
const wav = writeWav([plane], { rate: 48000, bits: 24 });
const whole = { region: { start: 0, end: FRAMES }, loop: false, gain: 0 };
let item: Loadable;

beforeAll(async () => {
  await standInOutputs();
  const { format } = await readAudioFile(memorySource(wav));
  const handles = [fileHandle('a.wav', wav)];
  const root = { id: 2, name: 'Tapes', kind: 'picked' as const, handles, added: 0 };
  item = { sound: { id: 5, path: 'a.wav', size: wav.length, format }, root };
});
beforeEach(() => {
  StandInOutput.opened = [];
  StandInOutput.refusal = undefined;
});

function desk() {
  const told: Status[] = [];
  const errors: string[] = [];
  const waits: number[] = [];
  const player = new Player(
    new AudioLoader() as never,
    (status) => told.push(status),
    (error) => errors.push(error.message),
    (ms) => waits.push(ms),
  );
  return { player, told, errors, waits, last: () => told[told.length - 1] };
}
/** Waits until everything that is under way has come to an end: files are read in turns of the event loop. */
async function settled(): Promise<void> {
  for (let i = 0; i < 30; i++) await new Promise((done) => setImmediate(done));
}
const loudest = (planes: Float32Array[]) => planes[0].reduce((most, x) => Math.max(most, Math.abs(x)), 0);

test('what comes out is the file, from its first sample; how long it took is told once', async () => {
  const { player, waits, errors } = desk();
  player.play(item, { ...whole, from: 0 });
  await settled();
  const [left] = StandInOutput.newest.render(FRAMES);
  expect(apart(left, plane)).toBeLessThan(1 / 8388608);
  expect(waits).toHaveLength(1);
  expect(waits[0]).toBeGreaterThanOrEqual(0);
  expect(errors).toEqual([]);
});

test('an output that refuses is told with what to do; what is played next opens another', async () => {
  const { player, errors, last } = desk();
  StandInOutput.refusal = 'the device is busy';
  player.play(item, { ...whole, from: 0 });
  await settled();
  expect(errors[0]).toMatch(/could not be opened \(the device is busy\)\. Check the output device, then play again/);
  expect(last()).toMatchObject({ playId: 1, began: true, keys: [] });
  StandInOutput.refusal = undefined;
  player.play(item, { ...whole, from: 0 });
  await settled();
  expect(StandInOutput.opened).toHaveLength(2);
  expect(apart(StandInOutput.newest.render(FRAMES)[0], plane)).toBeLessThan(1 / 8388608);
});

test.each([
  ['is pulled out', (output: StandInOutput) => output.happens('error')],
  ['is closed', (output: StandInOutput) => output.turns('closed')],
  ['does not wake up', (output: StandInOutput) => ((output.stuck = 'gone'), output.turns('interrupted'))],
])(
  'a device that %s while it plays ends what sounds; the next one has the sound and the scene again',
  async (_, fails) => {
    const { player, last, errors } = desk();
    const clip = {
      material: 5,
      rate: 48000,
      at: 4800,
      anchor: 0,
      region: whole.region,
      shape: plainShape,
      gain: 0,
      place: 0,
    };
    const line = { id: 1, gain: 0, place: 0, open: true, inserts: [] };
    await player.setScene({ lines: new Map([[1, line]]), clips: new Map([[1, { line: 1, clip }]]) }, [item], 0);
    player.play(item, { ...whole, from: 0 });
    await settled();
    const first = StandInOutput.newest;
    expect(loudest(first.render(4800))).toBeGreaterThan(0.1);
    expect(last().audition).toBeDefined();
    fails(first);
    await settled();
    expect(last()).toMatchObject({ playId: 1, began: true });
    expect(last().audition).toBeUndefined();
    expect(player.output).toBeUndefined();
    player.transport(true, 0);
    await settled();
    expect(StandInOutput.opened).toHaveLength(2);
    const [left] = StandInOutput.newest.render(4800 + CHUNK);
    // The cue begins where it did, and is the sound.
    expect(loudest([left.subarray(0, 4800)])).toBe(0);
    expect(apart(left.subarray(4800, 4800 + 8192), plane.subarray(0, 8192))).toBeLessThan(1e-5);
    expect(errors).toEqual([]);
  },
);

test('after sleep the same output goes on', async () => {
  const { player } = desk();
  player.play(item, { ...whole, from: 0 });
  await settled();
  const output = StandInOutput.newest;
  output.render(1280);
  output.turns('interrupted');
  await settled();
  expect(output.resumed).toBe(1);
  const [left] = output.render(1280);
  expect(apart(left, plane.subarray(1280, 2560))).toBeLessThan(1 / 8388608);
  // Suspended, the next key wakes it.
  output.turns('suspended');
  player.play(item, { ...whole, from: 0 });
  expect(output.resumed).toBe(2);
  expect(StandInOutput.opened).toHaveLength(1);
});

test('a neighbour that cannot be read is told of when it is played, not before', async () => {
  const { player, errors } = desk();
  const gone = { ...item, sound: { ...item.sound, id: 9, path: 'gone.wav' } };
  await player.prepare([
    { item: gone, audition: whole },
    { item, audition: whole },
  ]);
  expect(errors).toEqual([]);
  player.play(gone, { ...whole, from: 0 });
  await settled();
  expect(errors).toHaveLength(1);
  expect(errors[0]).toMatch(/gone\.wav is not in “Tapes” any more/);
});

test('places are told in frames of the sound, however it is stretched', async () => {
  const { player, last, errors } = desk();
  const shape = { ...plainShape, length: 2 };
  player.play(item, { ...whole, from: 12000, shape });
  // What is stretched is made first.
  for (let i = 0; i < 400 && (last()?.audition?.frame ?? 0) <= 12000; i++) {
    await new Promise((done) => setTimeout(done, 50));
    StandInOutput.newest.render(128);
  }
  StandInOutput.newest.render(4800);
  expect(last().audition?.id).toBe(5);
  expect(last().audition!.frame).toBeGreaterThan(12000);
  expect(last().audition!.frame).toBeLessThan(12000 + 4800);
  expect(errors).toEqual([]);
});

test('where the scene is that is heard takes the way to the ear into account, at every speed; nobody knows before the output has told', async () => {
  const { player } = desk();
  await player.start();
  StandInOutput.way = 0.05;
  try {
    for (const speed of [1, 2, -1, 0.5]) {
      player.transport(true, 96_000, null, speed);
      expect(player.soundingAt(1000)).toBeUndefined();
      // A report comes every six blocks.
      StandInOutput.newest.render(128 * 36);
      const left = 96_000 + speed * 128 * 36;
      expect(player.soundingAt(1000)).toBeCloseTo(left - 0.05 * 48_000 * speed, 6);
      expect(player.soundingAt(1100)).toBeCloseTo(left + 0.05 * 48_000 * speed, 6);
      player.transport(false);
      StandInOutput.newest.render(128 * 12);
      expect(player.soundingAt(1000)).toBeUndefined();
    }
  } finally {
    StandInOutput.way = 0;
  }
});

test('silence is reported once, sound as long as it lasts, and its end', async () => {
  const { player, last } = desk();
  player.play(item, { ...whole, from: FRAMES - 9600 });
  await settled();
  const output = StandInOutput.newest;
  output.render(4800);
  const during = output.reports;
  expect(during).toBeGreaterThan(4);
  output.render(9600);
  expect(last().audition).toBeUndefined();
  expect(last().peaks).toEqual([0, 0]);
  const ended = output.reports;
  output.render(48000);
  expect(output.reports - ended).toBeLessThanOrEqual(1);
  player.play(item, { ...whole, from: 0 });
  output.render(4800);
  expect(output.reports - ended).toBeGreaterThan(4);
});
