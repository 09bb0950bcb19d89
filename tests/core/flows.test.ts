import { effects } from '@core/effects';
import { emptyPlan, Engine, Material, mayFlow, type Clip, type Insert, type Line } from '@core/engine';
import fc from 'fast-check';
import { clip, give, graphOf, heard, line, listen, planWith, play, RATE, set } from '../helpers/scene-graph';
import { apart, clicks, firstAbove, noise, rms } from '../helpers/signals';

// Sends, what listens, and what is late: how lines of a mix come together.

const insert = (id: number, kind: string, values: Insert['values'] = {}, more: Partial<Insert> = {}): Insert => ({
  ...{ id, kind, on: true, values },
  ...more,
});
const frames = 24_000;
const click = new Map([[1, Material.of([clicks(2000, [100])], RATE)]]);
const one = (more: Partial<Clip> = {}) => clip({ at: 3000, anchor: 100, region: { start: 0, end: 2000 }, ...more });
const loudAt = (x: Float32Array) => firstAbove(x, 0.01);

test('a send takes so much, before or after the gain of its line, and comes in at the same time', () => {
  for (const [from, wanted] of [
    [0, 0.9 * (0.1 + 0.5)],
    [1, 0.9 * 0.1 * (1 + 0.5)],
  ]) {
    const lines = [line(1, { gain: -20, inserts: [insert(5, 'send', { gain: -6.0206, from }, { line: 2 })] }), line(2)];
    const [left] = heard(planWith({ 1: [1, one()] }, lines), click, frames);
    expect(loudAt(left)).toBe(3000);
    expect(left[3000]).toBeCloseTo(wanted, 4);
  }
});

test('whatever is late anywhere, all that meets meets at its sample', () => {
  const late = (id: number): Insert => insert(id, 'limiter', { ceiling: 0, ahead: 7 });
  fc.assert(
    fc.property(fc.subarray([1, 2, 3, 4]), fc.constantFrom(1, 2, 3), fc.boolean(), (where, into, after) => {
      const sent = insert(20, 'send', { gain: 0, from: after ? 1 : 0 }, { line: 3 });
      const made = [1, 2, 3, 4].map((id): Line => {
        const own = where.includes(id) ? [late(10 + id)] : [];
        return line(id, {
          inserts: id === 1 ? [...own, sent] : own,
          ...(id === 1 ? { into: into === 1 ? 2 : into } : {}),
        });
      });
      const graph = graphOf(planWith({ 1: [1, one({ gain: -30 })], 2: [4, one({ gain: -30 })] }, made), click);
      const [left] = listen(graph, 0, frames);
      const at = 3000 + graph.latency;
      // Nothing before, nothing behind: the whole click lies on one sample.
      expect(Math.abs(left[at])).toBeGreaterThan(0.05);
      expect(rms(left) * Math.sqrt(frames)).toBeCloseTo(Math.abs(left[at]), 5);
    }),
    { numRuns: 60 },
  );
});

test('what is listened to is heard at its time, late or not', () => {
  const tone = Material.of([new Float32Array(20_000).fill(0.5)], RATE);
  const bursts = new Float32Array(20_000);
  bursts.fill(0.9, 9000, 12_000);
  const both = new Map([
    [1, tone],
    [2, Material.of([bursts], RATE)],
  ]);
  const long = { at: 0, anchor: 0, region: { start: 0, end: 20_000 } };
  const values = { threshold: -40, ratio: 20, knee: 0, attack: 0.1, release: 5 };
  for (const wait of [false, true]) {
    const key = wait ? [insert(9, 'limiter', { ceiling: 0, ahead: 10 })] : [];
    const lines = [
      line(1, { inserts: [insert(5, 'compressor', values, { line: 2 })] }),
      // It is listened to, and not heard itself.
      line(2, { into: 3, inserts: key }),
      line(3, { open: false }),
    ];
    const graph = graphOf(planWith({ 1: [1, clip(long)], 2: [2, clip({ ...long, material: 2 })] }, lines), both);
    const [left] = listen(graph, 0, 20_000);
    const at = (n: number) => left[n + graph.latency];
    expect(graph.latency > 0).toBe(wait);
    expect(at(8900)).toBeCloseTo(0.5, 3);
    expect(at(9200)).toBeLessThan(0.02);
    expect(at(11_900)).toBeLessThan(0.02);
    expect(at(14_000)).toBeCloseTo(0.5, 2);
  }
});

test('what would come round is refused, and left out where it comes anyway', () => {
  const sends = (to: number): Insert[] => [insert(to + 90, 'send', { gain: 0 }, { line: to })];
  const lines = [line(1, { inserts: sends(2) }), line(2, { into: 3 }), line(3)];
  expect([mayFlow(lines, 3, 1), mayFlow(lines, 2, 1), mayFlow(lines, 1, 3), mayFlow(lines, 3, 2)]).toEqual([
    false,
    false,
    true,
    false,
  ]);
  // One that listens to another hangs on it as well.
  expect(mayFlow([line(1, { inserts: [insert(4, 'gate', {}, { line: 2 })] }), line(2)], 1, 2)).toBe(false);
  const ids = fc.integer({ min: 1, max: 5 });
  fc.assert(
    fc.property(
      fc.array(fc.record({ into: ids, to: ids, listens: fc.boolean() }), { minLength: 5, maxLength: 5 }),
      (all) => {
        const wild = all.map(({ into, to, listens }, i) =>
          line(i + 1, { into, inserts: [insert(i + 10, listens ? 'compressor' : 'send', {}, { line: to })] }),
        );
        const [left] = heard(planWith({ 1: [1, one({ gain: -20 })] }, wild), click, 6000);
        expect(left.every(Number.isFinite)).toBe(true);
        expect(rms(left)).toBeGreaterThan(0);
      },
    ),
    { numRuns: 60 },
  );
});

test('with any effects, a jump is the mixdown but for -80 dB, once what rang before was rendered ahead', () => {
  const bed = new Map([[1, Material.of([noise(96_000, 0.3, 4)], RATE)]]);
  const long = clip({ at: 0, anchor: 0, region: { start: 0, end: 96_000 } });
  const some = effects.filter((e) => !e.sends && !e.wanders && !['reverb', 'distance', 'delay'].includes(e.kind));
  const lines = [
    line(1, { inserts: some.map((e, i) => insert(20 + i, e.kind, e.presets?.[0]?.values)) }),
    line(2, { inserts: [insert(50, 'reverb', { decay: 0.3, mix: 30 })] }),
  ];
  const plan = planWith({ 1: [1, long], 2: [2, long] }, lines);
  const whole = heard(plan, bed, 90_000);
  const graph = graphOf(plan, bed);
  graph.preroll(60_000, 50_000);
  const after = listen(graph, 60_000, 12_000);
  after.forEach((p, c) => expect(apart(p, whole[c].subarray(60_000, 72_000))).toBeLessThan(1e-4));
});

test('the gain of the main line comes before its effects: whatever it is set to, its limiter has the last word', () => {
  const lines = [line(1), line(0, { gain: 12, inserts: [insert(3, 'limiter', { ceiling: -6 })] })];
  const graph = graphOf(planWith({ 1: [1, one()] }, lines), click);
  const [left] = listen(graph, 0, frames);
  const top = left.reduce((most, x) => Math.max(most, Math.abs(x)), 0);
  expect(20 * Math.log10(top)).toBeCloseTo(-6, 1);
});

test('values drawn along the timeline are followed to the sample, of effects, gains and places alike', () => {
  const long = clip({ at: 0, anchor: 0, region: { start: 0, end: 20_000 } });
  const flat = new Map([[1, Material.of([new Float32Array(20_000).fill(0.5)], RATE)]]);
  const ramp = [
    { at: 4000, value: 0 },
    { at: 8000, value: -40 },
  ];
  for (const drawn of [
    line(1, { points: { gain: ramp } }),
    line(1, { inserts: [insert(3, 'gain', {}, { points: { gain: ramp } })] }),
  ]) {
    const [left] = heard(planWith({ 1: [1, long] }, [drawn]), flat, 12_000);
    for (const [at, dB] of [
      [3999, 0],
      [5000, -10],
      [6000, -20],
      [9000, -40],
    ])
      expect(20 * Math.log10(left[at] / 0.5)).toBeCloseTo(dB, 2);
  }
  const placed = line(1, {
    points: {
      place: [
        { at: 0, value: -1 },
        { at: 8000, value: 1 },
      ],
    },
  });
  const [left, right] = heard(planWith({ 1: [1, long] }, [placed]), flat, 12_000);
  expect([left[2000], right[2000]].map((x) => Number((x / 0.5).toFixed(3)))).toEqual([1, 0.5]);
});

test('levels inside are told while they are watched: of lines, before and after an effect, and what it turns down', () => {
  const engine = new Engine(RATE);
  give(engine, 1, [new Float32Array(48_000).fill(0.5)]);
  const long = clip({ at: 0, anchor: 0, region: { start: 0, end: 48_000 } });
  const inserts = [insert(7, 'compressor', { threshold: -26, ratio: 20, knee: 0, attack: 1 })];
  set(engine, emptyPlan, planWith({ 1: [1, long] }, [line(1, { inserts, gain: -6.0206, place: 1 }), line(2)]));
  engine.handle({ type: 'transport', playing: true, position: 0 });
  const run = () => {
    play(engine, 80 * 128);
    return engine.status().meters;
  };
  expect(run()).toBeUndefined();
  engine.handle({ type: 'meters', on: true, insert: 7 });
  run();
  const told = run()!;
  const of = new Map(told.lines.map(([id, left, right]) => [id, [left, right]]));
  expect(told.reductions).toEqual([[7, expect.closeTo(-19, 0)]]);
  expect(told.around).toEqual([expect.closeTo(0.5, 4), expect.closeTo(0.5 * 10 ** (-19 / 20), 2)]);
  expect(of.get(1)).toEqual([0, expect.closeTo(0.25 * 10 ** (-19 / 20), 2)]);
  expect(of.get(0)![1]).toBeCloseTo(of.get(1)![1], 5);
  expect(of.get(2)).toEqual([0, 0]);
  engine.handle({ type: 'meters', on: false });
  expect(run()).toBeUndefined();
});
