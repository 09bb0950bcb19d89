import {
  BLOCK,
  effects,
  movedTo,
  MoverNode,
  moverKinds,
  moverValues,
  Param,
  type Move,
  type Mover,
} from '@core/effects';
import { anchorOf, intoScene, newBuild, rowsFor } from '@core/build';
import { Engine, MAIN, Material, readMidi, type GraphPlan } from '@core/engine';
import {
  carriedOver,
  idsIn,
  movingOf,
  planOf,
  type Cue,
  type LineEffect,
  type SceneState,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { cueOf } from '../helpers/cues';
import { clip, give, heard, line, listen, graphOf, planWith, play, RATE } from '../helpers/scene-graph';
import { apart, noise, rms } from '../helpers/signals';

// What moves values, against arithmetic; and how values follow it, sample by sample.

const mover = (
  kind: string,
  values: Record<string, number> = {},
  moves: Move[] = [],
  more: Partial<Mover> = {},
): Mover => ({
  ...{ id: 1, kind, values, moves },
  ...more,
});
const gainMove = (more: Partial<Move> = {}): Move => ({
  ...{ of: 'line', id: 1, key: 'gain', from: -20, to: 0, bend: 'straight' },
  ...more,
});
/** Where a mover is in `count` samples from one on, in blocks of any size. */
function course(node: MoverNode, from: number, count: number, cuts: readonly number[] = [BLOCK]): number[] {
  const out: number[] = [];
  for (let at = 0, n = 0; at < count; n++) {
    const part = Math.min(cuts[n % cuts.length], BLOCK, count - at);
    node.render(from + at, part);
    out.push(...node.line.subarray(0, part));
    at += part;
  }
  return out;
}

describe('a mover', () => {
  test.each([
    ['sine', 0, 0.5 - 0.5 * Math.cos(2 * Math.PI * 0.3)],
    ['triangle', 1, 0.6],
    ['ramp up', 3, 0.3],
    ['ramp down', 4, 0.7],
  ])('a %s wave is where its phase has it, at any speed, tempo and sample', (_, shape, at) => {
    const slow = new MoverNode(mover('wave', { shape, speed: 0.5, begins: 0 }), RATE);
    slow.render(0.6 * RATE, 1);
    expect(slow.now).toBeCloseTo(at, 9);
    const beaten = new MoverNode(mover('wave', { shape, tempo: 60, speed: 9, begins: 1, phase: 10 }), RATE);
    beaten.strike(1000, 60);
    beaten.render(1000 + 0.2 * RATE, 1);
    expect(beaten.now).toBeCloseTo(at, 9);
  });

  test('an envelope rises, holds, falls to its level, and falls to nothing when the key goes up', () => {
    const of = mover('envelope', { attack: 10, hold: 5, decay: 100, level: 40, release: 50, curve: 0 });
    const node = new MoverNode(of, RATE);
    const at = (ms: number) => {
      node.render(Math.round((ms * RATE) / 1000), 1);
      return node.now;
    };
    node.strike(0, 60);
    expect([at(0), at(5), at(10), at(14)].map((v) => Number(v.toFixed(4)))).toEqual([0, 0.5, 1, 1]);
    expect(at(65)).toBeCloseTo(0.7, 4);
    expect(at(500)).toBeCloseTo(0.4, 6);
    node.lift(RATE);
    expect([at(1025), at(1051)].map((v) => Number(v.toFixed(3)))).toEqual([0.2, 0]);
    // Struck again while it is up, it rises from where it is.
    node.strike(2 * RATE, 60);
    at(2020);
    node.strike(Math.round(2.05 * RATE), 62);
    const before = at(2050);
    expect(before).toBeGreaterThan(0.4);
    const curved = new MoverNode(mover('envelope', { ...of.values, curve: 100, level: 0 }), RATE);
    curved.strike(0, 60);
    curved.render(0.065 * RATE, 1);
    expect(curved.now).toBeLessThan(0.1);
  });

  test('a drift of one seed is always the same, of another seed another; smooth, it makes small steps', () => {
    const of = (seed: number, smooth = 100) => new MoverNode(mover('drift', { seed, speed: 4, smooth }), RATE);
    const [a, again, b] = [of(3), of(3), of(4)].map((n) => course(n, 5000, 48_000));
    expect(apart(a, again)).toBe(0);
    expect(apart(a, b)).toBeGreaterThan(0.2);
    const steps = (x: number[]) => x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]))), 0);
    expect(steps(a)).toBeLessThan(4e-4);
    // Where it jumps, it gets there in the 5 ms that a hand would take.
    expect(steps(course(of(3, 0), 5000, 48_000))).toBeLessThan(1 / (0.0049 * RATE));
    expect(Math.max(...a) - Math.min(...a)).toBeGreaterThan(0.3);
  });

  test('a follower rises fast and falls slowly with the level of its line', () => {
    const node = new MoverNode(mover('follower', { rise: 5, fall: 200, floor: -40 }), RATE);
    const half = [new Float32Array(BLOCK).fill(0.1), new Float32Array(BLOCK).fill(0.1)];
    for (let at = 0; at < RATE; at += BLOCK) {
      node.hear(half, BLOCK);
      node.render(at, BLOCK);
    }
    // -20 dB is half of the way from -40 dB.
    expect(node.now).toBeCloseTo(0.5, 3);
    const quiet = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
    node.hear(quiet, BLOCK);
    for (let at = 0; at < 0.2 * RATE; at += BLOCK) node.render(at, BLOCK);
    expect(node.now).toBeCloseTo(0.5 / Math.E, 1);
  });

  test('of any kind, with any values, it stays within 0 and 1, and is the same in blocks of any size', () => {
    const any = fc.constantFrom(...moverKinds).chain((kind) =>
      fc.record({
        kind: fc.constant(kind.kind),
        values: fc.record(
          Object.fromEntries(kind.params.map((p) => [p.key, fc.double({ min: p.least, max: p.most, noNaN: true })])),
        ),
      }),
    );
    fc.assert(
      fc.property(
        any,
        fc.integer({ min: 0, max: 200_000 }),
        fc.array(fc.integer({ min: 1, max: BLOCK }), { minLength: 1 }),
        (of, at, cuts) => {
          const [one, two] = [0, 1].map(() => new MoverNode(mover(of.kind, of.values), RATE));
          for (const node of [one, two]) node.strike(Math.round(at / 2), 70, 0.4);
          const [a, b] = [course(one, at, 600), course(two, at, 600, cuts)];
          expect(apart(a, b)).toBeLessThan(1e-9);
          expect(a.every((v) => v >= 0 && v <= 1)).toBe(true);
        },
      ),
      { numRuns: 150 },
    );
    expect(moverValues(mover('wave', { speed: 1e9, phase: NaN }))).toMatchObject({ speed: 100, phase: 0 });
  });

  test('hands, keys and velocities get there in 5 ms', () => {
    const turned = new MoverNode(mover('controller', { at: 0 }), RATE);
    turned.turn(1);
    const way = course(turned, 0, 480);
    expect(way[0]).toBeLessThan(0.01);
    expect(way[239]).toBeCloseTo(1, 2);
    const key = new MoverNode(mover('key', { lowest: 40, highest: 80 }), RATE);
    key.strike(0, 50);
    expect(course(key, 0, 300).at(-1)).toBe(0.25);
    const hard = new MoverNode(mover('velocity', { at: 30 }), RATE);
    expect(course(hard, 0, 300).at(-1)).toBe(0.3);
    hard.strike(0, 60, 0.9);
    expect(course(hard, 0, 300).at(-1)).toBe(0.9);
    // Pressure and pitch bend are controllers like others.
    expect(readMidi([0xd0, 64])).toEqual({ type: 'control', control: 128, value: 64 });
    expect(readMidi([0xe3, 0, 127])).toEqual({ type: 'control', control: 129, value: 127 });
  });
});

describe('a value that is moved', () => {
  test('goes from one bound to the other, in octaves where it runs in octaves, late or early or evenly', () => {
    const move = { from: 100, to: 1600, bend: 'straight' as const };
    expect(movedTo(move, 'even', 0.5)).toBe(850);
    expect(movedTo(move, 'octaves', 0.5)).toBeCloseTo(400);
    expect(movedTo({ ...move, bend: 'late' }, 'even', 0.5)).toBe(475);
    expect(movedTo({ ...move, bend: 'early' }, 'even', 0.5)).toBe(1225);
    expect(movedTo({ from: 5, to: -5, bend: 'straight' }, 'octaves', 0.25)).toBe(2.5);
  });

  test('by several it is moved by each as far from where it was set, and stays within its bounds', () => {
    const param = new Param(10, RATE);
    const share = (v: number) => new Float64Array(BLOCK).fill(v);
    const by = (from: number, to: number, v: number) => ({
      from,
      to,
      bend: 'straight' as const,
      curve: 'even' as const,
      line: share(v),
    });
    param.moveBy([by(10, 14, 0.5), by(10, 4, 0.5)], 0, 20);
    expect(param.read(0, 4)).toBe(true);
    expect([...param.line.subarray(0, 4)]).toEqual([9, 9, 9, 9]);
    param.moveBy([by(0, 90, 1)], 0, 20);
    param.read(0, 1);
    expect(param.line[0]).toBe(20);
    param.moveBy([]);
    expect([param.read(0, 4), param.value]).toEqual([false, 10]);
  });

  const one = new Map([[1, Material.of([new Float32Array(9000).fill(0.5)], RATE)]]);
  const moved = (movers: Mover[], more: Partial<GraphPlan> = {}): GraphPlan => ({
    ...planWith({ 1: clip({ at: 0, anchor: 0, region: { start: 0, end: 9000 } }) }, [line(1)]),
    ...{ movers, strikes: [{ at: 0 }] },
    ...more,
  });

  test('of a line: each sample has the gain that arithmetic says, however one comes to it', () => {
    const plan = moved([mover('wave', { shape: 3, speed: 2, begins: 0 }, [gainMove()])]);
    const [left] = heard(plan, one, 8000);
    for (const i of [300, 3333, 7999]) expect(left[i]).toBeCloseTo(0.5 * 10 ** ((-20 + (20 * i * 2) / RATE) / 20), 4);
    const [there] = heard(plan, one, 1000, 5000);
    expect(apart(there, left.subarray(5000, 6000))).toBeLessThan(1e-6);
  });

  const sound = new Map([[1, Material.of([noise(6000, 0.4, 3), noise(6000, 0.4, 4)], RATE)]]);
  const movable = effects
    .filter((e) => !e.sends && !e.madeOf)
    .flatMap((e) => e.params.filter((p) => !p.choices).map((p) => [e.kind, p.key] as const));
  test.each(movable)('of an effect, %s %s: moved to somewhere it is as set to there', (kind, key) => {
    const effect = effects.find((e) => e.kind === kind)!;
    const { least, most, curve } = effect.params.find((p) => p.key === key)!;
    const value = movedTo({ from: least, to: most, bend: 'straight' }, curve, 0.3);
    // The equaliser begins with all of its bands off.
    const values = Object.fromEntries(
      effect.params.flatMap((p) => (p.choices?.[0] === 'off' ? [[p.key, p.choices.length - 1]] : [])),
    );
    const linesWith = (more: Record<string, number>) => {
      const inserts = [{ id: 5, kind, on: true, values: { ...values, ...more } }];
      return new Map([[1, line(1, { inserts })]]);
    };
    const set = heard(moved([], { lines: linesWith({ [key]: value }) }), sound, 6000)[0];
    const move: Move = { of: 'effect', id: 5, key, from: value, to: value, bend: 'straight' };
    const by = heard(moved([mover('drift', {}, [move])], { lines: linesWith({}) }), sound, 6000)[0];
    expect(rms(set.map((v, i) => v - by[i]))).toBeLessThan(0.02 * rms(set));
    // And it may run through all of them.
    const all: Move = { ...move, from: least, to: most };
    const wild = heard(moved([mover('drift', { speed: 50 }, [all])], { lines: linesWith({}) }), sound, 6000)[0];
    expect(wild.every(Number.isFinite)).toBe(true);
  });

  test('of what is gone, or a choice, it moves nothing; a mover that is taken out leaves the value where it was set', () => {
    const inserts = [{ id: 5, kind: 'filter', on: true, values: {} }];
    const lines = new Map([[1, line(1, { inserts })]]);
    const away: Move[] = [
      gainMove({ id: 77 }),
      { ...gainMove(), of: 'effect', id: 9 },
      { ...gainMove(), of: 'effect', id: 5, key: 'kind' },
    ];
    const [plain, odd] = [moved([], { lines }), moved([mover('wave', { speed: 9 }, away)], { lines })].map(
      (p) => heard(p, one, 4000)[0],
    );
    expect(apart(plain, odd)).toBe(0);
    const graph = graphOf(moved([mover('controller', { at: 0 }, [gainMove()])]), one);
    expect(listen(graph, 0, 512)[0][500]).toBeCloseTo(0.05, 3);
    graph.apply([{ do: 'movers', movers: [] }], true);
    expect(listen(graph, 512, 1024)[0][1000]).toBeCloseTo(0.5, 6);
  });

  test('by one that comes while it is heard it is moved as if that had always been there; another beginning strikes all anew', () => {
    const wave = mover('wave', { speed: 3 }, [gainMove()]);
    const envelope = mover('envelope', { attack: 40, decay: 80 }, [gainMove({ id: MAIN, from: -30 })], { id: 2 });
    const both = moved([wave, envelope]);
    const fresh = heard(both, one, 6000)[0];
    const graph = graphOf(moved([wave]), one);
    graph.apply([{ do: 'movers', movers: [wave, envelope], strikes: [{ at: 0 }] }], true);
    expect(apart(listen(graph, 0, 6000)[0], fresh)).toBe(0);
    graph.apply([{ do: 'movers', movers: [wave, envelope], strikes: [{ at: 3000 }] }], true);
    graph.reset();
    const later = heard({ ...both, strikes: [{ at: 3000 }] }, one, 3000, 3000)[0];
    expect(apart(listen(graph, 3000, 3000)[0], later)).toBeLessThan(1e-6);
    expect(apart(later, fresh.subarray(3000))).toBeGreaterThan(0.01);
  });

  test('is moved by strokes where keys play, and by hands', () => {
    const engine = new Engine(RATE);
    give(engine, 1, [new Float32Array(RATE).fill(0.5)]);
    const lines = [{ do: 'line' as const, line: line(1) }];
    const movers = [
      mover('velocity', {}, [gainMove()]),
      mover('controller', { at: 100 }, [gainMove({ id: MAIN, from: -40 })], { id: 2 }),
    ];
    engine.handle({ type: 'build', changes: [...lines, { do: 'movers', movers }] });
    const clips = [{ line: 1, clip: clip({ at: 0, anchor: 0, region: { start: 0, end: RATE } }) }];
    engine.handle({ type: 'strike', key: 60, clips, velocity: 0.5 });
    expect(play(engine, 1024)[0][1000]).toBeCloseTo(0.5 * 10 ** (-10 / 20), 3);
    engine.handle({ type: 'mover', id: 2, share: 0.5 });
    expect(play(engine, 1024)[0][1000]).toBeCloseTo(0.5 * 10 ** (-30 / 20), 3);
  });
});

describe('movers of a build', () => {
  const build = newBuild(5, 'Hull', RATE);
  const cue: Cue = cueOf({ id: 1, trackId: 1, soundId: 1, at: anchorOf(build), anchor: 400, start: 0, end: 24_000 });
  const track: Track = { id: 1, sceneId: 5, order: 0, name: 'One', gain: -3, mute: false, solo: false };
  const effect: LineEffect = { id: 4, sceneId: 5, lineId: 1, order: 0, kind: 'filter', on: true, values: {} };
  const movers = [
    mover('wave', { speed: 3 }, [
      gainMove({ to: -3 }),
      { of: 'effect', id: 4, key: 'freq', from: 300, to: 3000, bend: 'late' },
    ]),
    mover('envelope', { attack: 100, decay: 300 }, [gainMove({ from: -3, to: 3 })], { id: 2 }),
  ];
  const state: SceneState = { tracks: [track], cues: [cue], effects: [effect], markers: [], movers };

  test('laid into a scene they are curves that do the same', () => {
    const scene = { ...newBuild(8, 'Scene', RATE), build: undefined };
    const materials = new Map([[1, Material.of([noise(24_000, 0.4, 9)], RATE)]]);
    const count = rowsFor(state);
    const ids = (n: number, from: number) => Array.from({ length: n }, (_, i) => from + i);
    const fresh = { tracks: ids(count.tracks, 50), cues: ids(count.cues, 60), effects: ids(count.effects, 70) };
    const rows = intoScene(build, state, scene, 60_000, 3, fresh);
    const of = <T>(table: string) => rows.filter((c) => c.table === table).map((c) => c.after as unknown as T);
    const there = heard(
      planOf(of<Track>('tracks'), of<Cue>('cues'), of<LineEffect>('effects')),
      materials,
      24_000,
      59_600,
    )[0];
    const plan = planOf(state.tracks, state.cues, state.effects, undefined, movingOf({ ...build, movers }, state.cues));
    const here = heard(plan, materials, 24_000, anchorOf(build) - 400)[0];
    expect(rms(here.map((v, i) => v - there[i])) / rms(here)).toBeLessThan(0.01);
    const still = heard(planOf(state.tracks, state.cues, state.effects), materials, 24_000, anchorOf(build) - 400)[0];
    expect(rms(here.map((v, i) => v - still[i])) / rms(here)).toBeGreaterThan(0.1);
  });

  test('carried elsewhere they move the same values under their other ids', () => {
    const follower = mover('follower', {}, [gainMove({ id: MAIN })], { id: 3, line: 1 });
    const rows = {
      scene: { ...build, movers: [...movers, follower] },
      ...{ tracks: [track], effects: [effect], cues: [cue] },
      markers: [],
      versions: [],
    };
    const to = Object.fromEntries(
      Object.entries(idsIn(rows)).map(([part, ids]) => [part, new Map(ids.map((id) => [id, id + 100]))]),
    ) as unknown as Parameters<typeof carriedOver>[1];
    const made = carriedOver(rows, { ...to, scene: 9 }).scene.movers!;
    expect(made[0].moves.map((m) => m.id)).toEqual([101, 104]);
    expect([made[2].line, made[2].moves[0].id]).toEqual([101, MAIN]);
  });
});
