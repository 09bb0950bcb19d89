import { type Shape } from '@core/audio';
import {
  BLOCK,
  CHUNK,
  clipSpan,
  differences,
  emptyPlan,
  Engine,
  Graph,
  MAIN,
  Material,
  mayFlow,
  needsOf,
  type Clip,
  type GraphPlan,
  type Insert,
} from '@core/engine';
import fc from 'fast-check';
import { execFileSync } from 'node:child_process';
import { clip, give, graphOf, heard, line, listen, planWith, play, RATE, set } from '../helpers/scene-graph';
import { apart, clicks, firstAbove, noise, rms, sine } from '../helpers/signals';

// Scenes as the engine plays them, against plain arithmetic; and what must stay the same whichever way one comes to a sample.

const equaliser = (id: number, values: Insert['values']): Insert => ({ id, kind: 'equaliser', on: true, values });
const loudest = (x: Float32Array) => x.reduce((best, v, i) => (Math.abs(v) > Math.abs(x[best]) ? i : best), 0);

describe('a clip', () => {
  test('has its anchor on its sample, whatever the rate of the sound, its speed and its direction', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(44100, 48000, 96000, 22050),
        fc.constantFrom(0.5, 1, 2),
        fc.constantFrom('forward', 'backward', 'both ways' as const),
        fc.integer({ min: 9000, max: 12_000 }),
        fc.integer({ min: 100, max: 1500 }),
        (rate, speed, direction, at, anchor) => {
          const materials = new Map([[1, Material.of([clicks(2000, [anchor])], rate)]]);
          const shape = { speed, direction } as Partial<Shape>;
          const [left] = heard(planWith({ 1: clip({ at, anchor, rate, shape }) }), materials, 24_000);
          // On the way back of both ways it is heard a second time, as loud.
          const first = firstAbove(left, Math.abs(left[loudest(left)]) * 0.999);
          expect(first).toBe(at);
        },
      ),
      { numRuns: 80 },
    );
  });

  test('is the samples of its file between its edges, times gain, fades and place', () => {
    const plane = noise(4000, 0.5, 4);
    const materials = new Map([[1, Material.of([plane], RATE)]]);
    fc.assert(
      fc.property(
        fc.record({
          at: fc.integer({ min: 0, max: 6000 }),
          anchor: fc.integer({ min: 0, max: 3999 }),
          edges: fc.tuple(fc.integer({ min: 0, max: 3999 }), fc.integer({ min: 1, max: 4000 })),
          gain: fc.integer({ min: -40, max: 6 }),
          place: fc.constantFrom(-1, -0.5, 0, 0.25, 1),
          track: fc.integer({ min: -20, max: 6 }),
          fades: fc.tuple(fc.integer({ min: 0, max: 900 }), fc.integer({ min: 0, max: 900 })),
          direction: fc.constantFrom('forward' as const, 'backward' as const),
        }),
        ({ at, anchor, edges, gain, place, track, fades, direction }) => {
          const region = { start: Math.min(...edges), end: Math.max(...edges) + (edges[0] === edges[1] ? 1 : 0) };
          const [fadeIn, fadeOut] = fades.map((f) => f / RATE);
          const shape = { direction, fadeIn, fadeOut, fade: 'straight' as const };
          const plan = planWith({ 1: clip({ at, anchor, region, gain, place, shape }) }, [line(1, { gain: track })]);
          const out = heard(plan, materials, 12_000);
          const level = 10 ** ((gain + track) / 20);
          const length = region.end - region.start;
          const sides = [Math.min(1, 1 - place), Math.min(1, 1 + place)];
          const start = direction === 'forward' ? at - (anchor - region.start) : at - (region.end - 1 - anchor);
          let worst = 0;
          for (let t = 0; t < 12_000; t += 7) {
            const i = t - start;
            const inside = i >= 0 && i < length;
            const x = inside ? plane[direction === 'forward' ? region.start + i : region.end - 1 - i] : 0;
            const rise = fades[0] > 0 ? Math.min(1, i / fades[0]) : 1;
            const fall = fades[1] > 0 ? Math.min(1, (length - i) / fades[1]) : 1;
            const wanted = inside ? x * level * rise * fall : 0;
            for (const c of [0, 1]) worst = Math.max(worst, Math.abs(out[c][t] - wanted * sides[c]));
          }
          expect(worst).toBeLessThan(2e-6);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('of no frames, of one frame, before the first sample of all: nothing breaks', () => {
    const materials = new Map([[1, Material.of([clicks(2000, [0])], RATE)]]);
    const none = { start: 10, end: 10 };
    const plan = planWith({
      1: clip({ region: none }),
      2: clip({ at: 700, anchor: 0, region: { start: 0, end: 1 } }),
      3: clip({ at: -90_000 }),
    });
    const [left] = heard(plan, materials, 6000);
    expect(firstAbove(left, 0.5)).toBe(700);
    expect(rms(left.subarray(701))).toBe(0);
  });

  test('spans what it plays, seen from its anchor', () => {
    expect(clipSpan(clip({ anchor: 441, rate: 44100, region: { start: 0, end: 4410 } }), RATE)).toEqual({
      start: 4520,
      end: expect.closeTo(9320, 6),
    });
  });

  test('whose audio is missing is told by its id, and silent', () => {
    const graph = graphOf(
      planWith({ 4: clip(), 7: clip({ material: 9 }) }),
      new Map([[1, new Material(RATE, 2000, 1)]]),
    );
    const late = new Set<number>();
    for (let at = 4600; at < 6000; at += BLOCK) graph.render(at, BLOCK, late);
    expect([...late].sort()).toEqual([4, 7]);
    expect(rms(graph.out[0])).toBe(0);
  });
});

describe('a jump', () => {
  const materials = new Map([
    [1, Material.of([noise(9000, 0.4, 1)], RATE)],
    [2, Material.of([sine(500, 44100, 9000), sine(700, 44100, 9000)], 44100)],
  ]);
  const some = planWith(
    {
      1: clip({ region: { start: 100, end: 8000 }, shape: { fadeIn: 0.01, fadeOut: 0.05 } }),
      2: [2, clip({ material: 2, rate: 44100, at: 5600, gain: -6, region: { start: 0, end: 9000 } })],
      3: [2, clip({ at: 9000, region: { start: 0, end: 9000 }, shape: { speed: 1.3, direction: 'both ways' } })],
    },
    [line(1), line(2, { gain: -3, place: 0.3, into: 3 }), line(3)],
  );
  const once = heard(some, materials, 24_000);

  test('gives the very samples of the whole, however it is cut into blocks', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 0, max: 20_000 }),
        fc.array(fc.integer({ min: 1, max: BLOCK }), { minLength: 5, maxLength: 40 }),
        (from, cuts) => {
          const graph = graphOf(some, materials);
          listen(graph, 3000, 2000);
          graph.reset();
          listen(graph, from, 4000, cuts).forEach((p, c) =>
            expect(apart(p, once[c].subarray(from, from + 4000))).toBeLessThan(1e-6),
          );
        },
      ),
      { numRuns: 40 },
    );
  });

  test('with effects that ring on is below -90 dBFS apart, once what rang before was rendered ahead', () => {
    const eq = equaliser(1, { kind1: 3, freq1: 60, gain1: 18, q1: 12, kind2: 1, freq2: 30, slope2: 3 });
    const plan: GraphPlan = { ...some, lines: new Map([...some.lines, [3, line(3, { inserts: [eq] })]]) };
    const whole = heard(plan, materials, 24_000);
    const graph = graphOf(plan, materials);
    expect(graph.tail).toBeGreaterThan(4800);
    graph.preroll(15_000);
    listen(graph, 15_000, 6000).forEach((p, c) =>
      expect(apart(p, whole[c].subarray(15_000, 21_000))).toBeLessThan(10 ** (-90 / 20)),
    );
    // Without what rang before, it would not be.
    const cold = listen(graphOf(plan, materials), 15_000, 6000);
    expect(apart(cold[0], whole[0].subarray(15_000, 21_000))).toBeGreaterThan(10 ** (-60 / 20));
  });
});

describe('lines', () => {
  const materials = new Map([[1, Material.of([sine(441, RATE, 48_000, 0.5)], RATE)]]);
  const long = (more: Partial<Clip> = {}) => clip({ at: 0, anchor: 0, region: { start: 0, end: 48_000 }, ...more });

  test('flow into buses, and those into the main line: gains multiply; closed ones are silent', () => {
    const lines = [line(1, { gain: -6, into: 2 }), line(2, { gain: -6, into: 3 }), line(3, { gain: -8 }), line(4)];
    const out = heard(planWith({ 1: long() }, lines), materials, 4800);
    expect(rms(out[0]) / rms(sine(441, RATE, 4800, 0.5))).toBeCloseTo(0.1, 4);
    const closed = lines.map((l) => (l.id === 2 ? { ...l, open: false } : l));
    expect(rms(heard(planWith({ 1: long() }, closed), materials, 4800)[0])).toBe(0);
  });

  test('that would come round to themselves are refused, and harm nothing', () => {
    const lines = [line(1, { into: 2 }), line(2, { into: 3 }), line(3)];
    expect([mayFlow(lines, 3, 1), mayFlow(lines, 3, 3), mayFlow(lines, 1, 3), mayFlow(lines, MAIN, 1)]).toEqual([
      false,
      false,
      true,
      false,
    ]);
    const round = [line(1, { into: 2 }), line(2, { into: 1 })];
    expect(rms(heard(planWith({ 1: long() }, round), materials, 4800)[0])).toBeGreaterThan(0.1);
  });

  /** The largest second difference: a click is far above that of the tone itself. */
  const roughness = (x: Float32Array) => {
    let most = 0;
    for (let i = 2; i < x.length; i++) most = Math.max(most, Math.abs(x[i] - 2 * x[i - 1] + x[i - 2]));
    return most;
  };

  test('any change while it plays is heard within two blocks, and does not click', () => {
    const tone = sine(441, RATE, 9600, 0.5);
    const plain = roughness(tone);
    const before = planWith({ 1: long() }, [line(1), line(2)]);
    const changes: [string, GraphPlan, number][] = [
      ['a fader', planWith({ 1: long() }, [line(1, { gain: -20 }), line(2)]), 0.1],
      ['a cue’s gain', planWith({ 1: long({ gain: -20 }) }, [line(1), line(2)]), 0.1],
      ['mute', planWith({ 1: long() }, [line(1, { open: false }), line(2)]), 0],
      ['taken away', planWith({}, [line(1), line(2)]), 0],
      ['its track taken away', planWith({}, [line(2)]), 0],
      ['an exchange for the same', planWith({ 1: long({ anchor: 1, at: 1 }) }, [line(1), line(2)]), 1],
      ['to another track', planWith({ 1: [2, long()] }, [line(1), line(2)]), 1],
    ];
    for (const [what, after, level] of changes) {
      const graph = graphOf(before, materials);
      listen(graph, 0, 4800);
      graph.apply(differences(before, after), true);
      const [left] = listen(graph, 4800, 4800);
      const now = rms(left.subarray(2 * BLOCK, 3 * BLOCK)) / rms(tone.subarray(4800 + 2 * BLOCK, 4800 + 3 * BLOCK));
      expect([what, roughness(left) < plain * 1.2]).toEqual([what, true]);
      expect([what, Math.abs(now - level) < 0.05]).toEqual([what, true]);
    }
  });

  test('what is changed while a track is silent is there from the first sample that sounds, as in the mix', () => {
    const late = (more: Partial<Clip> = {}) => long({ at: 9600, ...more });
    const before = planWith({ 1: late() }, [line(1), line(2)]);
    const loud = planWith({ 1: late() }, [line(1, { gain: -20, place: 0.5 }), line(2)]);
    const moved = planWith({ 1: late({ at: 2000, region: { start: 0, end: 2000 } }) }, [line(1), line(2)]);
    for (const [after, from] of [
      [loud, 9600],
      // Moved behind the playhead, it is heard when one comes round.
      [moved, 1500],
    ] as [GraphPlan, number][]) {
      const graph = graphOf(before, materials);
      listen(graph, 4800, 2400);
      graph.apply(differences(before, after), true);
      const mix = heard(after, materials, 2400, from);
      listen(graph, from, 2400).forEach((p, c) => expect(apart(p, mix[c])).toBeLessThan(1e-6));
    }
  });

  test('many small steps, differences of plans, come to what the whole plan is', () => {
    const random = fc.dictionary(
      fc.constantFrom('1', '2', '3', '4', '5'),
      fc.record({ at: fc.integer({ min: 0, max: 3000 }), gain: fc.constantFrom(-6, 0), on: fc.constantFrom(1, 2) }),
    );
    fc.assert(
      fc.property(fc.array(random, { minLength: 2, maxLength: 6 }), (steps) => {
        const plans = steps.map((s, n) =>
          planWith(
            Object.fromEntries(Object.entries(s).map(([id, { at, gain, on }]) => [id, [on, clip({ at, gain })]])),
            n % 2 === 0 ? [line(1), line(2, { gain: -3 })] : [line(2), line(1, { gain: -1 })],
          ),
        );
        const short = new Map([[1, Material.of([noise(2000, 0.3, 8)], RATE)]]);
        const graph = new Graph(RATE, short);
        let before = emptyPlan;
        for (const plan of plans) {
          graph.apply(differences(before, plan), false);
          before = plan;
        }
        const fresh = heard(plans.at(-1)!, short, 6000);
        listen(graph, 0, 6000).forEach((p, c) => expect(apart(p, fresh[c])).toBe(0));
        expect(differences(before, plans.at(-1)!)).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });
});

describe('the engine with a scene', () => {
  test('plays, loops and jumps to the sample, and an exchanged cue does not click', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [clicks(2000, [300])]);
    give(engine, 2, [clicks(2000, [300], 0.4)]);
    const [one, two] = [planWith({ 1: clip() }), planWith({ 1: clip({ material: 2 }) })];
    set(engine, emptyPlan, one);
    engine.handle({ type: 'transport', playing: true, position: 4000, loop: { start: 4500, end: 5500 } });
    const [first] = play(engine, 3840);
    expect([1000, 2000, 3000].map((i) => first[i])).toEqual([1000, 2000, 3000].map(() => expect.closeTo(0.9, 5)));
    set(engine, one, two);
    const [second] = play(engine, 3840);
    // Five milliseconds later the one before is gone.
    expect(firstAbove(second.subarray(240), 0.5)).toBe(-1);
    expect(second[5000 - 3840]).toBeCloseTo(0.4, 5);
    engine.handle({ type: 'transport', playing: false });
    expect(rms(play(engine, 2560)[0].subarray(BLOCK))).toBe(0);
  });

  test('starts behind what rings on before it: once that is rendered, what is heard is the mixdown', () => {
    const inserts = [equaliser(1, { kind1: 3, freq1: 80, gain1: 15, q1: 8 })];
    const plan = planWith({ 1: clip({ region: { start: 0, end: 48_000 } }) }, [line(1, { inserts })]);
    const plane = noise(48_000, 0.3, 5);
    const whole = heard(plan, new Map([[1, Material.of([plane], RATE)]]), 24_000);
    const engine = new Engine(RATE);
    give(engine, 1, [plane]);
    set(engine, emptyPlan, plan);
    engine.handle({ type: 'capture', frames: 4096 });
    engine.handle({ type: 'transport', playing: true, position: 16_000 });
    play(engine, 9600);
    const { captured } = engine.status();
    expect(apart(captured![0], whole[0].subarray(16_000, 20_096))).toBeLessThan(10 ** (-90 / 20));
  });

  test('begins once audio that is on its way has arrived, and loses nothing of it; what never comes is waited for once', () => {
    const plane = noise(9000, 0.3, 5);
    const plan = planWith({ 1: clip({ region: { start: 0, end: 9000 } }) });
    const begun = (from: number) => {
      const engine = new Engine(RATE);
      set(engine, emptyPlan, plan);
      engine.handle({ type: 'transport', playing: true, position: from });
      return engine;
    };
    const late = begun(4700);
    expect(rms(play(late, 9600)[0])).toBe(0);
    expect(late.status().scene).toMatchObject({ position: 4700, missing: 0, late: [] });
    give(late, 1, [plane]);
    const ready = new Engine(RATE);
    give(ready, 1, [plane]);
    set(ready, emptyPlan, plan);
    ready.handle({ type: 'transport', playing: true, position: 4700 });
    expect(apart(play(late, 4096)[0], play(ready, 4096)[0])).toBe(0);
    const never = begun(4700);
    play(never, RATE / 2 + BLOCK);
    expect(never.status().scene.position).toBeGreaterThan(4700);
    never.handle({ type: 'transport', playing: true, position: 4800 });
    play(never, 512);
    expect(never.status().scene.position).toBe(4800 + 512);
  });

  test('tells which cues lack their audio, once for each time it is asked', () => {
    const engine = new Engine(RATE);
    set(engine, emptyPlan, planWith({ 3: clip({ material: 9 }) }));
    engine.handle({ type: 'transport', playing: true, position: 4000 });
    play(engine, 700);
    engine.handle({ type: 'transport', playing: true });
    expect(engine.status().scene).toMatchObject({ late: [], missing: 0 });
    play(engine, 512);
    expect(engine.status().scene).toMatchObject({ late: [3], missing: 4 });
    // What was left is not counted any more.
    engine.handle({ type: 'transport', playing: true, position: 20_000 });
    play(engine, 512);
    expect(engine.status().scene).toMatchObject({ late: [], missing: 4 });
  });

  test('makes no garbage while it renders', () => {
    const args = ['--expose-gc', '--import', 'tsx', 'tests/helpers/rendering.ts'];
    const said = JSON.parse(execFileSync('node', args, { encoding: 'utf8' })) as { bytes: number; loudest: number };
    expect(said.loudest).toBeGreaterThan(0.01);
    // Numbers that V8 boxes to hand them on; an array or object for each of the eight clips would be more.
    expect(said.bytes).toBeLessThan(8 * 48);
  });
});

test('what a span of a scene needs of its sounds is all that it plays of them, and little more', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('forward', 'backward', 'both ways' as const),
      fc.constantFrom(0.5, 1, 3),
      fc.integer({ min: 0, max: 60_000 }),
      (direction, speed, from) => {
        const plane = noise(120_000, 0.3, 3);
        const shape = { direction, speed } as Partial<Shape>;
        const plan = planWith({ 1: clip({ at: 2000, region: { start: 0, end: 120_000 }, shape }) });
        const whole = Material.of([plane], RATE);
        const part = new Material(RATE, 120_000, 1);
        const needs = needsOf(plan, RATE, from, from + 2000);
        for (const { start, end } of needs)
          for (let c = Math.floor(start / CHUNK); c * CHUNK < Math.min(end, 120_000); c++)
            part.put(c, [plane.subarray(c * CHUNK, (c + 1) * CHUNK)]);
        const late = new Set<number>();
        const graph = graphOf(plan, new Map([[1, part]]));
        for (let at = from; at < from + 1920; at += BLOCK) graph.render(at, BLOCK, late);
        expect([...late]).toEqual([]);
        expect(apart(listen(graph, from, 1920)[0], heard(plan, new Map([[1, whole]]), 1920, from)[0])).toBeLessThan(
          1e-6,
        );
        if (direction !== 'both ways')
          for (const { start, end } of needs) expect(end - start).toBeLessThan(2000 * speed + 2 * 1024 + 4);
      },
    ),
    { numRuns: 30 },
  );
});
