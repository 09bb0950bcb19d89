import { BLOCK, effectOf } from '@core/effects';
import { differences, emptyPlan, Graph, Material, type GraphPlan, type Insert, type Line } from '@core/engine';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { layouts, Mixdown, mixDepths, type MixLayout, type Scene } from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';
import { clip, line, planWith, RATE } from '../helpers/scene-graph';
import { apart, rms } from '../helpers/signals';

const noise = (seed: number, level = 0.3) => {
  const random = new Random(seed);
  return Float32Array.from({ length: 2000 }, () => level * (2 * random.next() - 1));
};
const mono = noise(1);
const materials = new Map([
  [1, Material.of([mono], RATE)],
  [2, Material.of([noise(2), noise(3)], RATE)],
]);
const COUNT = 6000;
/** Some samples before the first clip begins, at 4700. */
const FROM = 4100;

function graphFor(plan: GraphPlan, layout: MixLayout): Graph {
  const graph = new Graph(RATE, materials, layouts[layout].flowing);
  graph.apply(differences(emptyPlan, plan), false);
  return graph;
}
/** What each loudspeaker gets of a plan, while its clips sound. */
function heard(plan: GraphPlan, layout: MixLayout): Float32Array[] {
  const graph = graphFor(plan, layout);
  const flowed = graph.out.map(() => new Float32Array(COUNT + 2 * BLOCK));
  for (let at = 0; at < COUNT; at += BLOCK) {
    graph.render(FROM + at, BLOCK);
    flowed.forEach((plane, c) => plane.set(graph.out[c].subarray(0, BLOCK), at));
  }
  return layouts[layout].feed(flowed);
}

/** Folded down after ITU-R BS.775: the middle and those behind at -3 dB. */
const folded = ([left, right, middle, , ...behind]: Float32Array[]): Float32Array[] =>
  [left, right].map((plane, side) => plane.map((x, i) => x + Math.SQRT1_2 * (middle[i] + (behind[side]?.[i] ?? 0))));
const insert = (id: number, kind: string, values: Record<string, number> = {}, more: Partial<Insert> = {}): Insert => ({
  ...{ id, kind, on: true, values },
  ...more,
});

const side = fc.double({ min: -1, max: 1, noNaN: true });
const gain = fc.double({ min: -20, max: 6, noNaN: true });
const inserts: fc.Arbitrary<Insert[]> = fc.array(
  fc.constantFrom(
    insert(0, 'gain', { gain: 4 }),
    insert(0, 'equaliser', { kind1: 1, freq1: 300, slope1: 2, kind2: 3, freq2: 2000, gain2: 9 }),
    insert(0, 'filter', { freq: 3000 }),
    insert(0, 'compressor', { threshold: -40, ratio: 6, attack: 1 }),
    insert(0, 'gate', { threshold: -18 }),
    insert(0, 'saturation'),
    insert(0, 'reverb', { mix: 40 }),
    insert(0, 'width', { width: 140 }),
    insert(0, 'delay'),
    insert(0, 'equaliser', {}, { on: false }),
    insert(0, 'send', { gain: -6 }, { line: 3 }),
  ),
  { maxLength: 3 },
);
const anyLine = (id: number): fc.Arbitrary<Line> =>
  fc
    .record({
      ...{ gain, place: side, behind: fc.constantFrom(0, 0.3, 1), into: fc.constantFrom(0, 3), effects: inserts },
      moves: fc.boolean(),
    })
    .map(({ into, effects, moves, ...more }) =>
      line(id, {
        ...more,
        ...(into && id < 3 ? { into } : {}),
        inserts: effects.filter((e) => e.line !== id).map((e, k) => ({ ...e, id: 10 * id + k })),
        // A place that is drawn, and one that stands.
        ...(moves
          ? {
              points: {
                place: [
                  { at: 4000, value: -1 },
                  { at: 7000, value: 1 },
                ],
              },
            }
          : {}),
      }),
    );
const pick = fc.constantFrom('as recorded', 'mono', 'side', 'swapped', 0) as fc.Arbitrary<
  'mono' | 'swapped' | 'side' | 0
>;
const anyClip = fc
  .record({ material: fc.constantFrom(1, 2), place: side, gain, channels: pick, on: fc.constantFrom(1, 2) })
  .map(
    ({ channels, on, ...more }) =>
      [on, clip({ ...more, shape: channels === ('as recorded' as never) ? {} : { channels } })] as [
        number,
        ReturnType<typeof clip>,
      ],
  );

test('folded down, any mix of three channels or six is the mix of two', () => {
  fc.assert(
    fc.property(
      fc.array(anyClip, { minLength: 1, maxLength: 3 }),
      ...([anyLine(1), anyLine(2), anyLine(3), anyLine(0)] as const),
      (clips, ...lines) => {
        const plan = planWith(Object.fromEntries(clips.map((c, i) => [i + 1, c])), lines);
        const stereo = heard(plan, 'stereo');
        for (const layout of ['LCR', '5.1'] as const) {
          const all = heard(plan, layout);
          expect(all).toHaveLength(layouts[layout].channels);
          const down = folded(layout === 'LCR' ? [...all, all[0]] : all);
          stereo.forEach((plane, c) => expect(apart(plane, down[c])).toBeLessThan(2e-5));
        }
      },
    ),
    { numRuns: 60 },
  );
});

const one = (more: Parameters<typeof clip>[0], own: Partial<Line> = {}, layout: MixLayout = '5.1') =>
  heard(planWith({ 1: clip(more) }, [line(1, own)]), layout).map(rms);

test('one voice comes out of the loudspeaker where it is placed, as loud as it is between two', () => {
  const power = rms(heard(planWith({ 1: clip() }), 'stereo')[0]) * Math.SQRT2;
  for (const [more, own] of [
    [{ place: 0 }, { place: 0 }],
    [{ place: -1 }, {}],
    [{ place: 1 }, {}],
    [{}, { place: 1 }],
  ] as const) {
    const [left, right, middle, deep, ...behind] = one(more, own);
    const place = (more as { place?: number }).place ?? 0;
    const at = place + ((own as { place?: number }).place ?? 0);
    expect([left > 1e-4, right > 1e-4, middle > 1e-4]).toEqual([at < 0, at > 0, at === 0]);
    // Between two it is half as powerful on each side; on a side alone it has that side's level.
    expect(left + right + middle).toBeCloseTo(at === 0 ? power : power / Math.SQRT2, 5);
    expect([deep, ...behind]).toEqual([0, 0, 0]);
  }
});

test('a recording of two channels stays on both sides; halfway to a side a voice stands between middle and side', () => {
  const [left, right, middle] = one({ material: 2 });
  expect([left > 0.05, right > 0.05, middle]).toEqual([true, true, 0]);
  const [half, none, rest] = one({ place: -0.5 });
  expect(none).toBeLessThan(1e-6);
  expect(rest / half).toBeCloseTo(Math.SQRT2, 4);
});

test('what stands behind is heard there alone, and in front where nothing is behind', () => {
  const [left, right, middle, , ...behind] = one({ place: -0.4 }, { behind: 1 });
  expect(Math.max(left, right, middle)).toBeLessThan(1e-6);
  expect(behind[1] / behind[0]).toBeCloseTo(0.6, 4);
  expect(one({ place: -0.4 }, { behind: 1 }, 'LCR')[2]).toBeGreaterThan(0.01);
});

test('of effects that are not for more than two channels all stands between left and right', () => {
  const around = (kind: string) => one({}, { inserts: [insert(5, kind)] }).map((level) => level > 1e-5);
  for (const kind of ['reverb', 'saturation', 'chorus', 'delay'])
    expect([kind, around(kind)]).toEqual([kind, [true, true, false, false, false, false]]);
  for (const kind of ['gain', 'filter', 'compressor', 'limiter', 'gate', 'equaliser'])
    expect([kind, effectOf(kind)!.wide, around(kind)[2]]).toEqual([kind, expect.stringMatching(/^(each|all)$/), true]);
});

test('a limiter holds every loudspeaker below its ceiling, and the balance between them', () => {
  fc.assert(
    fc.property(side, side, fc.constantFrom(0, 0.5, 1), (a, b, behind) => {
      const clips = {
        1: clip({ place: a, gain: 14 }),
        2: [2, clip({ material: 2, place: b, gain: 12 })] as [number, ReturnType<typeof clip>],
      };
      const lines = (limit: boolean) => [
        line(1),
        line(2, { behind }),
        line(0, { inserts: limit ? [insert(5, 'limiter', { ceiling: -3 })] : [] }),
      ];
      const [free, held] = [heard(planWith(clips, lines(false)), '5.1'), heard(planWith(clips, lines(true)), '5.1')];
      expect(Math.max(...free.flatMap((p) => [...p].map(Math.abs)))).toBeGreaterThan(10 ** (-3 / 20));
      for (const plane of held) expect(Math.max(...plane.map(Math.abs))).toBeLessThanOrEqual(10 ** (-3 / 20));
      const { latency } = graphFor(planWith(clips, lines(true)), '5.1');
      // All of them get as much softer at any sample.
      for (let i = 700; i < 4000; i += 97) {
        const shares = held.flatMap((plane, c) =>
          Math.abs(free[c][i]) > 0.05 ? [plane[i + latency] / free[c][i]] : [],
        );
        expect(Math.max(...shares) - Math.min(...shares)).toBeLessThan(1e-3);
      }
    }),
    { numRuns: 20 },
  );
});

test('a file of six channels says which loudspeaker each is for', async () => {
  const scene: Scene = { id: 1, name: 'Pier', fps: '24', startFrame: 0, sampleRate: RATE, length: 8000 };
  const plan = planWith({ 1: clip() }, [line(1, { behind: 0.5 })]);
  const mixdown = new Mixdown(scene, plan, scene.length, materials, { ...mixDepths[2], layout: '5.1' });
  const parts: Uint8Array[] = [];
  for (let part = mixdown.next(); part; part = mixdown.next()) parts.push(part);
  const { head, tail } = mixdown.around(new Date(0));
  const bytes = new Uint8Array(Buffer.concat([head, ...parts, tail]));
  // WAVE_FORMAT_EXTENSIBLE: the mask stands 20 bytes into the content of `fmt `.
  const fmt = Buffer.from(bytes).indexOf('fmt ') + 8;
  expect(new DataView(bytes.buffer).getUint32(fmt + 20, true)).toBe(0x3f);
  const source = memorySource(bytes);
  const { format, labels } = await readAudioFile(source);
  expect(labels.get('bext.CodingHistory')).toBe('A=PCM,F=48000,W=32,T=5.1');
  const planes = await readFrames(source, format, 0, format.frames);
  const [, , middle, deep, back] = planes.map(rms);
  expect(deep).toBe(0);
  expect(back).toBeGreaterThan(0.01);
  expect(middle).toBeCloseTo(back, 5);
});
