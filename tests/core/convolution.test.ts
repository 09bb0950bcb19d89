import { BLOCK, Convolver, effectOf, paramsFor, type SoundNode } from '@core/effects';
import { differences, emptyPlan, Engine, Graph, MAIN, Material, needsOf, type GraphPlan } from '@core/engine';
import fc from 'fast-check';
import { answering, echo } from '../helpers/effects';
import { clip, give, line, planWith, play } from '../helpers/scene-graph';
import { apart, noise, rms } from '../helpers/signals';

/** Plain convolution of few samples with a response, as it is written in every book. */
function convolved(hits: readonly (readonly [number, number])[], response: Float32Array, frames: number): Float64Array {
  const out = new Float64Array(frames);
  for (const [at, level] of hits)
    for (let i = 0; i < response.length && at + i < frames; i++) out[at + i] += level * response[i];
  return out;
}

const units = (plane: Float32Array, n: number, unit = 2048) => {
  const part = new Float32Array(unit);
  part.set(plane.subarray(n * unit, (n + 1) * unit));
  return part;
};

test('however long the response and however the blocks are cut, it is plain convolution, without delay', () => {
  const hit = fc.tuple(fc.nat(15_000), fc.double({ min: -1, max: 1, noNaN: true }));
  fc.assert(
    fc.property(
      fc.integer({ min: 1, max: 30_000 }),
      fc.array(hit, { minLength: 1, maxLength: 5 }),
      fc.array(fc.integer({ min: 1, max: BLOCK }), { minLength: 1, maxLength: 7 }),
      (length, hits, cuts) => {
        const frames = 24_000;
        const responses = [echo(length, 3), echo(length, 4)];
        const convolver = new Convolver(length);
        for (let n = 0; n < convolver.units; n++) convolver.respond(responses.map((r) => units(r, n)));
        const dry = new Float32Array(frames);
        for (const [at, level] of hits) dry[at] += level;
        const wet = [new Float32Array(frames), new Float32Array(frames)];
        for (let at = 0, k = 0; at < frames; k++) {
          const count = Math.min(frames - at, cuts[k % cuts.length]);
          const part = dry.subarray(at, at + count);
          convolver.process(
            [part, part],
            wet.map((w) => w.subarray(at, at + count)),
            count,
          );
          at += count;
        }
        responses.forEach((r, c) => expect(apart(wet[c], convolved(hits, r, frames))).toBeLessThan(2e-6));
      },
    ),
    { numRuns: 25 },
  );
});

/** What comes out of the effect made of a sound. */
function through(values: Record<string, number>, response: readonly Float32Array[], dry: Float32Array, rate = 48_000) {
  const effect = effectOf('convolution')!;
  const node = effect.make(rate, paramsFor(effect, { mix: 100, ...values }, rate)) as SoundNode;
  answering(node, [response[0], response[1] ?? response[0]]);
  const out = [new Float32Array(dry.length), new Float32Array(dry.length)];
  for (let at = 0; at < dry.length; at += BLOCK) {
    const part = dry.subarray(at, at + BLOCK);
    node.process(
      [[part, part]],
      out.map((o) => o.subarray(at, at + BLOCK)),
      at,
      part.length,
    );
  }
  return { out, node };
}
const click = (frames: number) => Float32Array.from({ length: frames }, (_, i) => Number(i === 0));

test('noise comes out as loud as it went in, whatever it is made of; level, pre-delay and length do as they say', () => {
  const long = noise(192_000, 0.3, 8);
  for (const response of [echo(48_000), echo(500, 5).map((x) => x * 0.01), click(10)]) {
    const { out } = through({}, [response], long);
    expect(Math.abs(20 * Math.log10(rms(out[0].subarray(60_000)) / rms(long)))).toBeLessThan(0.7);
  }
  const flat = new Float32Array(96_000).fill(0.01);
  const energy = Math.sqrt(flat.length) * 0.01;
  const { out, node } = through({ before: 100, gain: 6, length: 1 }, [flat], click(144_000));
  const [wet] = out;
  const whole = (0.01 / energy) * 10 ** (6 / 20);
  expect(wet.subarray(0, 4800).every((x) => Math.abs(x) < 1e-7)).toBe(true);
  expect(wet[4800]).toBeCloseTo(whole, 6);
  expect(wet[4800 + 24_000]).toBeCloseTo(whole, 6);
  // Half way through its fade, and behind its end.
  expect(wet[4800 + 38_400] / whole).toBeGreaterThan(0.35);
  expect(wet[4800 + 38_400] / whole).toBeLessThan(0.65);
  expect(wet.subarray(4800 + 48_000 + 2048).every((x) => Math.abs(x) < 1e-7)).toBe(true);
  expect(node.tail).toBe(48_000 + 4800);
});

const sound = { material: 2, rate: 44_100 };
const insert = { id: 5, kind: 'convolution', on: true, values: { mix: 100 } };
const planOf = (more = {}): GraphPlan =>
  planWith({ 1: clip({ at: 0, anchor: 0, region: { start: 0, end: 1 } }) }, [
    line(1, { inserts: [{ ...insert, ...more }] }),
    line(MAIN),
  ]);

test('in a graph it is made of a sound of any rate and channels, all of which it needs, wherever one is; silent until it is whole', () => {
  const tone = Float32Array.from(
    { length: 22_050 },
    (_, i) => Math.sin((2 * Math.PI * 441 * i) / 44_100) * Math.exp(-i / 6000),
  );
  const materials = new Map([[1, Material.of([click(4)], 48_000)]]);
  const plan = planOf({ sound });
  expect(needsOf(plan, 48_000, 1e6, 2e6)).toEqual([{ material: 2, start: 0, end: 21 * 44_100 }]);
  const graph = new Graph(48_000, materials);
  graph.apply(differences(emptyPlan, plan), false);
  const rendered = (frames: number) => {
    graph.reset();
    const out = new Float32Array(frames);
    for (let at = 0; at < frames; at += BLOCK) {
      graph.render(at, BLOCK);
      out.set(graph.out[0].subarray(0, Math.min(BLOCK, frames - at)), at);
    }
    return out;
  };
  expect(graph.feed()).toBe(false);
  expect(rms(rendered(4096))).toBe(0);
  materials.set(2, Material.of([tone], 44_100));
  let steps = 0;
  while (graph.feed()) steps++;
  expect(steps).toBe(Math.ceil(24_000 / 2048));
  expect(graph.tail).toBe(24_000);
  const out = rendered(30_000);
  // The same tone at the other rate, scaled so that its energy is one; where it begins at full slope, both have their own ringing.
  const wanted = Float32Array.from(
    { length: 24_000 },
    (_, i) => Math.sin((2 * Math.PI * 441 * i) / 48_000) * Math.exp(-i / ((6000 * 48) / 44.1)),
  );
  const scale = 1 / Math.sqrt(wanted.reduce((s, x) => s + x * x, 0));
  expect(
    apart(
      out.subarray(200, 23_000),
      wanted.subarray(200, 23_000).map((x) => x * scale),
    ),
  ).toBeLessThan(2e-5);
  // Made of another one, it begins anew; of none, nothing comes of it.
  graph.apply(differences(plan, planOf({ sound: { material: 1, rate: 48_000 } })), false);
  while (graph.feed());
  expect(rendered(600)[0]).toBeCloseTo(1, 5);
  graph.apply(differences(plan, planOf()), false);
  expect([graph.feed(), rms(rendered(600))]).toEqual([false, 0]);
});

test('a scene that begins to run waits until it is whole, and a jump sounds as if all before it had been played', () => {
  const engine = new Engine(48_000);
  const dry = noise(96_000, 0.2, 6);
  give(engine, 1, [dry]);
  give(engine, 2, [echo(30_000, 7), echo(30_000, 9)]);
  const whole = clip({ at: 0, anchor: 0, region: { start: 0, end: 96_000 } });
  const plan = planWith({ 1: whole }, [line(1, { inserts: [{ ...insert, sound: { material: 2, rate: 48_000 } }] })]);
  engine.handle({ type: 'graph', changes: differences(emptyPlan, plan) });
  engine.handle({ type: 'transport', playing: true, position: 0, turn: 1 });
  // Fifteen units come in as many blocks, in which nothing sounds; then it begins at its beginning.
  const [first] = play(engine, 60_000);
  const waited = first.findIndex((x) => x !== 0);
  expect(waited).toBeLessThan(24_000);
  const at = engine.status().scene.position;
  engine.handle({ type: 'transport', playing: false, turn: 2 });
  play(engine, 2048);
  engine.handle({ type: 'transport', playing: true, position: at - 12_000, turn: 3 });
  const [second] = play(engine, 24_000);
  const begins = second.findIndex((x) => x !== 0);
  const before = first.subarray(first.length - 12_000 + 300);
  expect(apart(second.subarray(begins + 300, begins + 300 + 11_000), before.subarray(0, 11_000))).toBeLessThan(1e-4);
});

test('of a sound that is longer than what is used, of any rate and channels, what it asks for is enough to be whole', () => {
  for (const [rate, channels] of [
    [192_000, 2],
    [96_000, 1],
    [8000, 4],
  ]) {
    const own = { material: 2, rate };
    const [{ end }] = needsOf(planOf({ sound: own }), 48_000, 0, 1);
    // As much as was asked for is there, and no more.
    const material = new Material(rate, 60 * rate, channels);
    const chunk = Array.from({ length: channels }, (_, c) => new Float32Array(16_384).fill(c < 2 ? 0.1 : 9));
    for (let c = 0; c * 16_384 < end; c++) material.put(c, chunk);
    const graph = new Graph(48_000, new Map([[2, material]]));
    graph.apply(differences(emptyPlan, planOf({ sound: own })), false);
    let steps = 0;
    while (graph.feed()) steps++;
    expect([rate, steps]).toEqual([rate, Math.ceil((20 * 48_000) / 2048)]);
  }
  // Further channels are no part of it: they would make it softer.
  const four = [0.5, 0.5, 9, 9].map((x) => new Float32Array(100).fill(x));
  const node = (planes: readonly Float32Array[]) => {
    const plan = planWith({ 1: clip({ at: 0, anchor: 0, region: { start: 0, end: 1 } }) }, [
      line(1, { inserts: [{ ...insert, sound: { material: 2, rate: 48_000 } }] }),
    ]);
    const graph = new Graph(
      48_000,
      new Map([
        [1, Material.of([click(4)], 48_000)],
        [2, Material.of([...planes], 48_000)],
      ]),
    );
    graph.apply(differences(emptyPlan, plan), false);
    while (graph.feed());
    graph.reset();
    graph.render(0, BLOCK);
    return graph.out[0].slice();
  };
  expect(apart(node(four), node(four.slice(0, 2)))).toBeLessThan(1e-7);
});
