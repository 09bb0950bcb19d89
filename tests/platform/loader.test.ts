import { CHUNK, Engine, type Command } from '@core/engine';
import { memorySource, readAudioFile, readFrames, writeWav } from '@core/files';
import { cueFilesOf, mixDepths, stemsOf } from '@core/scene';
import { AudioLoader, type Loadable } from '@platform/audio/loader';
import { IntakeReader } from '@platform/intake/intake';
import { Mixer } from '@platform/out/mixer';
import type { RootRecord } from '@platform/store/store';
import { unzipSync } from 'fflate';
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { formatOf } from '../helpers/catalogue';
import { fileHandle } from '../helpers/handles';
import { has, scratch } from '../helpers/programs';
import { apart, clicks, firstAbove, sine } from '../helpers/signals';

const folder = scratch();

const plane = sine(300, 48000, 3 * CHUNK + 500);
const wav = writeWav([plane], { rate: 48000, bits: 24 });
const rootWith = (bytes: Uint8Array): RootRecord => ({
  id: 2,
  name: 'Tapes',
  kind: 'picked',
  handles: [fileHandle('a.wav', bytes)],
  added: 0,
});
async function item(id = 5, bytes = wav): Promise<Loadable> {
  const { format } = await readAudioFile(memorySource(bytes));
  return { sound: { id, path: 'a.wav', size: bytes.length, format }, root: rootWith(bytes) };
}

/** A loader, and everything it sends. */
function loader(): { loader: AudioLoader; sent: Command[]; chunks: () => number[] } {
  const sent: Command[] = [];
  const made = new AudioLoader();
  made.connect({ postMessage: (c: Command) => sent.push(c) } as unknown as MessagePort);
  return { loader: made, sent, chunks: () => sent.flatMap((c) => (c.type === 'chunk' ? [c.index] : [])) };
}

describe('the loader', () => {
  test('announces a sound before its audio, and sends each chunk once, the nearest first', async () => {
    const { loader: l, sent, chunks } = loader();
    await l.load(await item(), 2 * CHUNK + 5, 3 * CHUNK);
    await l.load(await item(), 0, 9 * CHUNK);
    expect(sent[0]).toMatchObject({ type: 'material', id: 5, frames: plane.length, channels: 1 });
    expect(sent.filter((c) => c.type === 'material')).toHaveLength(1);
    expect(chunks()).toEqual([2, 0, 1, 3]);
  });

  test('what it sends is what the engine plays, to the bit', async () => {
    const { loader: l, sent } = loader();
    const engine = new Engine(48000);
    engine.handle({
      type: 'play',
      id: 5,
      audition: { from: 0, region: { start: 0, end: plane.length }, loop: false, gain: 0 },
    });
    await l.load(await item(), 0, plane.length);
    for (const command of sent) engine.handle(command);
    const out = [new Float32Array(plane.length), new Float32Array(plane.length)];
    for (let at = 0; at < plane.length; at += 128)
      engine.render(out[0].subarray(at, at + 128), out[1].subarray(at, at + 128));
    expect(apart(out[0], plane)).toBeLessThan(1 / 8388608);
  });

  test('a file that cannot be read fails with its reason, and may be tried again', async () => {
    const { loader: l, sent } = loader();
    const gone: Loadable = { sound: { id: 9, path: 'gone.wav', size: 9, format: formatOf(100) }, root: rootWith(wav) };
    await expect(l.load(gone, 0, 100)).rejects.toThrow(/gone.wav is not in “Tapes” any more/);
    expect(sent[sent.length - 1]).toEqual({ type: 'forget', id: 9 });
    await expect(l.load(gone, 0, 100)).rejects.toThrow(/not in/);
  });

  test('of a very long sound only what is near the ear is held', async () => {
    const { loader: l, sent, chunks } = loader();
    const frames = 600 * 8000;
    const long = await item(7, writeWav([new Float32Array(frames)], { rate: 8000, bits: 16 }));
    const whole = { region: { start: 0, end: frames }, direction: 'forward' as const };
    await l.follow(long, 0, whole);
    expect(Math.max(...chunks()) * CHUNK).toBeLessThan(61 * 8000);
    await l.follow(long, 400 * 8000, whole);
    const dropped = sent[sent.length - 1] as Extract<Command, { type: 'drop' }>;
    expect([dropped.type, dropped.id, (Math.max(...dropped.chunks) + 1) * CHUNK <= 340 * 8000]).toEqual([
      'drop',
      7,
      true,
    ]);
    const before = chunks().length;
    await l.follow(long, 0, whole);
    expect(chunks().length).toBeGreaterThan(before);
    // What plays backward is loaded from the ear downward.
    const at = 200 * 8000;
    const after = chunks().length;
    await l.follow(long, at, { ...whole, direction: 'backward' });
    const fresh = chunks().slice(after);
    expect(fresh[0]).toBe(Math.ceil(at / CHUNK) - 1);
    expect(fresh).toEqual([...fresh].sort((a, b) => b - a));
    expect(fresh.at(-1)! * CHUNK).toBeGreaterThan(138 * 8000);
  });
});

describe('leases', () => {
  const frames = 600 * 8000;
  const whole = { region: { start: 0, end: frames }, direction: 'forward' as const };

  test('listening to a sound takes nothing of it away from the scene, and the other way round', async () => {
    const { loader: l, sent } = loader();
    const long = await item(7, writeWav([new Float32Array(frames)], { rate: 8000, bits: 16 }));
    const scene = { item: long, start: 0, end: 20 * 8000 };
    await l.load(long, scene.start, scene.end);
    l.lease('scene', [scene]);
    await l.follow(long, 400 * 8000, whole);
    const dropped = () => sent.flatMap((c) => (c.type === 'drop' ? c.chunks : []));
    expect(dropped()).toEqual([]);
    // Once the scene needs something else, they may go.
    l.lease('scene', []);
    await l.follow(long, 500 * 8000, whole);
    expect(dropped()).toContain(0);
    expect(Math.max(...dropped()) * CHUNK).toBeLessThan(500 * 8000);
  });

  test('another stretch of a sound takes the place of the one before, but for one that a scene needs', async () => {
    const { loader: l, sent } = loader();
    const plain = await item();
    const as = (id: number, length: number): Loadable => ({
      ...plain,
      stretched: { id, stretch: { length, pitch: 0, texture: 'mixed' } },
    });
    await l.load(as(100, 2), 0, 500);
    l.lease('scene', [{ item: as(100, 2), start: 0, end: 500 }]);
    await l.load(as(101, 1.5), 0, 500);
    await l.load(as(102, 1.2), 0, 500);
    expect(sent.flatMap((c) => (c.type === 'forget' ? [c.id] : []))).toEqual([101]);
  });
});

describe('intake', () => {
  const found = (path: string, size: number) => ({
    rootId: 2,
    rootName: 'Tapes',
    path,
    size,
    modified: 1,
    intakeId: 3,
    now: 4,
  });

  test('reads what can be read; one bad file does not cost the others', async () => {
    const root = {
      ...rootWith(wav),
      handles: [
        fileHandle('a.wav', wav),
        fileHandle('b.wav', new Uint8Array(9)),
        fileHandle('c.flac', new Uint8Array(40)),
      ],
    };
    const results = await new IntakeReader().read(root, [
      found('b.wav', 9),
      found('a.wav', wav.length),
      found('c.flac', 40),
      found('e.wav', 0),
    ]);
    expect(results.map((r) => ('sound' in r ? r.sound.path : r.reason))).toEqual([
      expect.stringMatching(/no sound file/),
      'a.wav',
      expect.stringMatching(/holds nothing but zeros/),
      expect.stringMatching(/is empty/),
    ]);
  });

  test('a root that goes away stops the intake instead of marking every file as bad; one file that goes is one problem', async () => {
    const asking: RootRecord = { ...rootWith(wav), handles: [fileHandle('a.wav', wav, 'prompt')] };
    await expect(new IntakeReader().read(asking, [found('a.wav', 50)])).rejects.toThrow(/asks again/);
    const [gone] = await new IntakeReader().read(rootWith(wav), [found('x.wav', 50)]);
    expect(gone).toMatchObject({ reason: expect.stringMatching(/not in “Tapes” any more/) });
  });

  test('measures contour and anchor', async () => {
    const hit = new Float32Array(48000).map((_, i) => (i < 9600 ? 0 : Math.sin(i) * Math.exp(-(i - 9600) / 3000)));
    const bytes = writeWav([hit, hit], { rate: 48000, bits: 16 });
    const { format } = await readAudioFile(memorySource(bytes));
    const measured = await new IntakeReader().measure(rootWith(bytes), {
      id: 5,
      path: 'a.wav',
      size: bytes.length,
      format,
      loop: false,
    });
    expect(measured).toMatchObject({ id: 5, peaks: { id: 5, frames: 48000 }, format: { frames: 48000 } });
    expect(measured.facts).toMatchObject({ layout: 'Stereo, both sides the same', clipped: 0 });
    expect(measured.hash).toMatch(/^[0-9a-f]{32}$/);
    expect(Math.abs(measured.record.onsets[0] - 9600)).toBeLessThan(480);
    expect(Math.abs(measured.anchor - 9600)).toBeLessThan(200);
    expect(Math.max(...measured.peaks.pairs)).toBeGreaterThan(100);
  });
});

test('the mixer mixes what it can reach and names what it cannot', async () => {
  const hit = await item(5, writeWav([clicks(4800, [480])], { rate: 48000, bits: 24 }));
  const gone: Loadable = { sound: { id: 9, path: 'gone.wav', size: 9, format: formatOf(100) }, root: hit.root };
  const cue = {
    id: 1,
    sceneId: 1,
    trackId: 1,
    soundId: 5,
    name: 'x',
    at: 24000,
    anchor: 480,
    start: 0,
    end: 4800,
    rate: 48000,
    gain: 0,
    mute: false,
    fadeIn: 0,
    fadeOut: 0,
  };
  const scene = {
    id: 1,
    name: 'S',
    fps: '25',
    startFrame: 0,
    sampleRate: 48000,
    length: 48000,
  };
  const tracks = [{ id: 1, sceneId: 1, order: 0, name: 'T', gain: 0, mute: false, solo: false }];
  const shares: number[] = [];
  const answer = await new Mixer().mix(
    scene,
    { tracks, effects: [] },
    [cue, { ...cue, id: 2, soundId: 9 }],
    [hit, gone],
    (s) => shares.push(s),
  );
  expect(answer.missing).toEqual([{ name: 'gone.wav', reason: 'gone.wav is not in “Tapes” any more.' }]);
  const bytes = new Uint8Array(await answer.file.arrayBuffer());
  const file = await readAudioFile(memorySource(bytes));
  expect(file.format.frames).toBe(48000);
  const mono = new Float32Array(48000).map(
    (_, i) => new DataView(bytes.buffer).getInt16(file.format.dataOffset + i * 6 + 1, true) / 32768,
  );
  expect(firstAbove(mono, 0.5)).toBe(24000);
  expect(shares).toEqual([...shares].sort((a, b) => a - b));
  expect(shares[shares.length - 1]).toBe(1);
});

test('stems laid on top of each other are the mix, each as long and from the same instant', async () => {
  const [low, high] = await Promise.all(
    [330, 1210].map((pitch, i) => item(5 + i, writeWav([sine(pitch, 48000, 30_000)], { rate: 48000, bits: 24 }))),
  );
  const line = (id: number, name: string, gain: number, place: number) => ({
    ...{ id, sceneId: 1, order: id, name, gain, place, mute: false, solo: false },
  });
  const tracks = [line(1, 'Deck', -6, -0.4), line(2, 'Air', -9, 0.7)];
  const cue = (id: number, trackId: number, soundId: number, at: number) => ({
    ...{ id, sceneId: 1, trackId, soundId, name: 'x', at, anchor: 480, start: 0, end: 30_000, rate: 48000 },
    ...{ gain: -2, mute: false, fadeIn: 0.01, fadeOut: 0.02 },
  });
  const cues = [cue(1, 1, 5, 3000), cue(2, 2, 6, 20_000), cue(3, 1, 6, 26_000)];
  const scene = { id: 1, name: 'S', fps: '25', startFrame: 25 * 3600, sampleRate: 48000, length: 70_000 };
  const shares: number[] = [];
  const told = (share: number) => void shares.push(share);
  const stems = stemsOf(tracks, cues, 'track');
  const { zip, peak } = await new Mixer().stems(scene, stems, [], 70_000, [low, high], told);
  const files = unzipSync(new Uint8Array(await zip.arrayBuffer()));
  expect(Object.keys(files)).toEqual(['Deck.wav', 'Air.wav']);
  const read = async (bytes: Uint8Array) => {
    const file = await readAudioFile(memorySource(bytes));
    expect(file.format).toMatchObject({ frames: 70_000, channels: 2, bits: 24 });
    expect(file.labels.get('bext.TimeReference')).toBe(String(3600 * 48000));
    return readFrames(memorySource(bytes), file.format, 0, 70_000);
  };
  const float = mixDepths.find((d) => d.float)!;
  const deep = await new Mixer().stems(scene, stems, [], 70_000, [low, high], told, new Date(), float);
  const [first] = Object.values(unzipSync(new Uint8Array(await deep.zip.arrayBuffer())));
  expect((await readAudioFile(memorySource(first))).format).toMatchObject({ bits: 32 });
  // To see how loud it is nothing is kept; it is as loud as what is.
  const measured = await new Mixer().measure(
    { ...scene, length: 70_000 },
    { tracks, effects: [] },
    cues,
    [low, high],
    told,
  );
  expect(measured.peak).toBeGreaterThanOrEqual(peak);
  expect(measured.course.length).toBe(Math.floor(70_000 / 4800));
  const { file: wav } = await new Mixer().mix(scene, { tracks, effects: [] }, cues, [low, high], told);
  const whole = await read(new Uint8Array(await wav.arrayBuffer()));
  // As FLAC it has the very same samples: its own MD5 is that of their bytes as they lie in a WAV file (RFC 9639, section 8.2).
  const depth = mixDepths.find((d) => d.key === 'flac24');
  const packed = await new Mixer().stems(scene, stems, [], 70_000, [low, high], told, new Date(), depth);
  for (const [name, bytes] of Object.entries(unzipSync(new Uint8Array(await packed.zip.arrayBuffer())))) {
    const flac = await readAudioFile(memorySource(bytes));
    expect(flac.format).toMatchObject({ container: 'FLAC', frames: 70_000, channels: 2, bits: 24, rate: 48_000 });
    expect(flac.labels.get('vorbis.TIME_REFERENCE')).toBe(String(3600 * 48_000));
    expect(flac.warnings).toEqual([]);
    const plain = files[name.replace('.flac', '.wav')];
    const { format } = await readAudioFile(memorySource(plain));
    const samples = plain.subarray(format.dataOffset, format.dataOffset + 70_000 * 6);
    const md5 = createHash('md5').update(samples).digest('hex');
    expect(Buffer.from(bytes.subarray(26, 42)).toString('hex')).toBe(md5);
    if (!has('flac')) continue;
    writeFileSync(join(folder, name), bytes);
    expect(spawnSync('flac', ['-t', '-s', '-w', join(folder, name)]).status).toBe(0);
  }
  const parts = await Promise.all(Object.values(files).map(read));
  // Each file is rounded to 24 bits by itself.
  for (const c of [0, 1])
    expect(
      apart(
        whole[c],
        parts[0][c].map((v, i) => v + parts[1][c][i]),
      ),
    ).toBeLessThan(3 / 2 ** 23);
  // Each cue by itself, laid where its own file says, is the mix as well.
  const frames = () => 48_000;
  const single = cueFilesOf(tracks, cues, [], 48_000, 0, frames);
  const alone = await new Mixer().stems(scene, single, [], 70_000, [low, high], told);
  const laid = [0, 1].map(() => new Float64Array(70_000));
  for (const [name, bytes] of Object.entries(unzipSync(new Uint8Array(await alone.zip.arrayBuffer())))) {
    const file = await readAudioFile(memorySource(bytes));
    const at = Number(file.labels.get('bext.TimeReference')) - 3600 * 48_000;
    expect(name).toMatch(/^00[123] x.wav$/);
    expect(file.format.frames).toBe(30_000);
    const planes = await readFrames(memorySource(bytes), file.format, 0, 30_000);
    planes.forEach((p, c) => p.forEach((v, i) => at + i < 70_000 && (laid[c][at + i] += v)));
  }
  for (const c of [0, 1]) expect(apart(whole[c], Float32Array.from(laid[c]))).toBeLessThan(4 / 2 ** 23);
  // Handles reach as far as the sound and the scene do, and the cue stands where it stood.
  const [wide] = cueFilesOf(tracks, cues, [], 48_000, 0.5, frames);
  expect(wide.cues[0]).toMatchObject({ at: 3000, anchor: 480, start: 0, end: 48_000, fadeIn: 0, fadeOut: 0 });
  expect(wide.part).toEqual({ start: 2520, end: 50_520 });
  expect(peak).toBeGreaterThan(0.1);
  expect(shares.slice(0, 2)).toEqual([0.5, 1]);
});
