import {
  anchorOf,
  intoScene,
  layersOf,
  layersOn,
  newBuild,
  partOf,
  passOf,
  playedLines,
  rowsFor,
  spanOfPlayed,
  strokeOf,
  type PassStroke,
} from '@core/build';
import { MoverNode, type Mover, type Strike, type Turn } from '@core/effects';
import { BLOCK, Engine, LET_GO, Material } from '@core/engine';
import {
  movingOf,
  planOf,
  spanOf,
  type Cue,
  type LineEffect,
  type PlayedBy,
  type Scene,
  type SceneState,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { cueOf } from '../helpers/cues';
import { give, heard, play, RATE } from '../helpers/scene-graph';
import { apart, noise } from '../helpers/signals';

// Passes: a build that is played by keys, written down, and heard again from its timeline as it was played.

const build = newBuild(5, 'Hull', RATE);
const anchor = anchorOf(build);
const tracks: Track[] = [1, 2].map((id) => ({
  ...{ id, sceneId: 5, order: id, name: `Layer ${id}`, gain: -3 * id, mute: false, solo: false },
}));
const cues = [1, 2].map((id): Cue =>
  cueOf({ id, trackId: id, soundId: id, at: anchor + 100 * (id - 1), anchor: 1000, start: 0, end: 9000, rate: RATE }),
);
const effects: LineEffect[] = [
  { id: 1, sceneId: 5, lineId: 1, order: 0, kind: 'saturation', on: true, values: { drive: 9 } },
];
const movers: Mover[] = [
  {
    ...{ id: 1, kind: 'envelope', values: { attack: 30, hold: 0, decay: 60, level: 20, release: 40 } },
    moves: [{ of: 'line', id: 1, key: 'gain', from: -20, to: 0, bend: 'straight' }],
  },
  {
    ...{ id: 2, kind: 'velocity', values: { at: 50 } },
    moves: [{ of: 'effect', id: 1, key: 'drive', from: 0, to: 20, bend: 'straight' }],
  },
  {
    ...{ id: 3, kind: 'controller', values: { number: 1, at: 100 } },
    moves: [{ of: 'line', id: 2, key: 'gain', from: -40, to: 0, bend: 'straight' }],
  },
];
const state: SceneState = { tracks, cues, effects, markers: [], movers };
const sounds = new Map([1, 2].map((id) => [id, noise(9000, 0.2, id)]));
const materials = new Map([...sounds].map(([id, x]) => [id, Material.of([x], RATE)]));
const playsOn: PlayedBy = { voices: 16, gives: 'first', keyUp: 'plays on' };
const frames = () => 9000;
const strokeAt = (
  at: number,
  more: Partial<PassStroke> & { ratio?: number; gain?: number; of?: readonly Track[] } = {},
): PassStroke => {
  const { ratio = 1, gain = -2, of = tracks, ...rest } = more;
  const dealt = { next: (l: { cues: readonly Cue[] }) => l.cues[0] };
  const own = layersOn(layersOf(of, cues), rest.rings ? 'up' : 'down');
  const clips = strokeOf(own, effects, dealt, { ratio, gain }, RATE);
  return { at, key: 60, velocity: 0.7, clips, ...rest };
};
const pass = [
  // As hard as its mover stands: nothing has to get there first.
  strokeAt(0, { velocity: 0.5 }),
  strokeAt(40 * BLOCK, { ratio: 2, velocity: 0.2, key: 72 }),
  strokeAt(90 * BLOCK, { velocity: 1 }),
];

/** Which strokes gave way, as the engine tells, and when. */
const told: [number, NonNullable<PassStroke['gave']>[number]][] = [];
/** What the engine gives while it is played live. */
function live(
  strokes: readonly PassStroke[],
  count: number,
  { voices, gives } = playsOn,
  turns: readonly Turn[] = [],
): Float32Array {
  const engine = new Engine(RATE);
  engine.handle({ type: 'strikes', limit: voices, gives });
  for (const [id, x] of sounds) give(engine, id, [x]);
  const lines = [...playedLines(tracks, effects, undefined).values()].map((line) => ({ do: 'line' as const, line }));
  engine.handle({ type: 'build', changes: [...lines, { do: 'movers', movers }] });
  const out: number[] = [];
  for (let at = 0; at < count; at += BLOCK) {
    for (const s of strokes) if (s.lifted === at) engine.handle({ type: 'strike off', key: s.key, lasts: false });
    for (const t of turns) if (t.at === at) engine.handle({ type: 'mover', id: t.mover, share: t.share });
    for (const s of strokes) if (s.at === at) engine.handle({ type: 'strike', ...s });
    out.push(...play(engine, BLOCK)[0]);
    for (const { stroke, ...how } of engine.status().gave ?? []) told.push([stroke, how]);
  }
  return Float32Array.from(out);
}
const again = (
  strokes: readonly PassStroke[],
  by: PlayedBy,
  count: number,
  turns: readonly Turn[] = [],
): Float32Array => {
  const made = passOf(build, state, { strokes, turns }, by, frames);
  return heard(
    planOf(tracks, made.cues, effects, undefined, movingOf({ ...build, ...made }, made.cues)),
    materials,
    count,
    anchor,
  )[0];
};

test('a pass is heard again as it was played, its strokes, their pitch, and what moves with them', () => {
  const count = 160 * BLOCK;
  const [first, other] = [live(pass, count), again(pass, playsOn, count)];
  expect(Math.max(...first.map(Math.abs))).toBeGreaterThan(0.05);
  expect(apart(first, other)).toBeLessThan(2e-4);
});

test('a key that goes up ends its stroke as softly as live, and nothing is heard of what it had still to come', () => {
  const short = pass.map((s) => ({ ...s, lifted: s.at + 20 * BLOCK }));
  const by: PlayedBy = { ...playsOn, keyUp: 'ends' };
  const count = 130 * BLOCK;
  const [first, other] = [live(short, count), again(short, by, count)];
  for (const { at, lifted } of short) {
    expect(apart(first.subarray(at, lifted), other.subarray(at, lifted))).toBeLessThan(2e-4);
    const still = lifted + Math.ceil(LET_GO * RATE) + BLOCK;
    if (still < at + 40 * BLOCK)
      expect(Math.max(...other.subarray(still, at + 40 * BLOCK).map(Math.abs))).toBeLessThan(1e-4);
  }
});

test('a layer that sounds as its key goes up is a stroke of its own then, which no key ends and no mover begins again with', () => {
  const of = tracks.map((t) => (t.id === 2 ? { ...t, struck: { on: 'up' as const } } : t));
  const [at, up, next] = [0, 20 * BLOCK, 60 * BLOCK];
  const strokes = [
    strokeAt(at, { of, velocity: 0.5, lifted: up }),
    strokeAt(up, { of, velocity: 0.5, rings: true }),
    // The same key once more, let go of while what it left behind still rings.
    strokeAt(next, { of, velocity: 0.5, lifted: next + 10 * BLOCK }),
  ];
  expect(strokes.map((s) => s.clips.map((c) => c.line))).toEqual([[1], [2], [1]]);
  const count = 130 * BLOCK;
  const [first, other] = [live(strokes, count), again(strokes, { ...playsOn, keyUp: 'ends' }, count)];
  const still = up + Math.ceil(LET_GO * RATE) + BLOCK;
  expect(Math.max(...first.subarray(still, next).map(Math.abs))).toBeGreaterThan(0.02);
  expect(apart(first.subarray(still, next), other.subarray(still, next))).toBeLessThan(2e-4);
  const made = passOf(build, state, { strokes }, { ...playsOn, keyUp: 'ends' }, frames);
  expect(made.strikes.map((s) => s.at - anchor)).toEqual([at, next]);
  expect(made.cues.find((c) => c.trackId === 2)).toMatchObject({ end: 9000 });
});

test('of a layer no more strokes sound at once than it may have, live and in the pass; the others ring on', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 3, max: 30 }), { minLength: 2, maxLength: 8 }),
      fc.integer({ min: 1, max: 3 }),
      (gaps, voices) => {
        const of = tracks.map((t) => (t.id === 1 ? { ...t, struck: { voices } } : t));
        let at = 0;
        const strokes = gaps.map((gap, i) => strokeAt((at += i === 0 ? 0 : gap * BLOCK), { of, velocity: 0.5 }));
        // What would be over before it has died away fades with its end there: that is another fade than live.
        fc.pre(strokes.every((a) => strokes.every((b) => Math.abs(b.at - a.at - 9000) > 600)));
        const made = passOf(build, state, { strokes }, playsOn, frames);
        for (const stroke of strokes) {
          const now = anchor + stroke.at + Math.round(0.0055 * RATE);
          const sounding = (id: number) =>
            made.cues.filter((c) => c.trackId === id && spanOf(c, RATE).start <= now && spanOf(c, RATE).end > now);
          expect(sounding(1).length).toBeLessThanOrEqual(voices);
        }
        expect(made.cues.filter((c) => c.trackId === 2 && c.end === 9000)).toHaveLength(strokes.length);
        const count = at + 40 * BLOCK;
        expect(apart(live(strokes, count), again(strokes, playsOn, count))).toBeLessThan(5e-4);
      },
    ),
    { numRuns: 25 },
  );
});

test('no more strokes sound at once than may, and each that gives way is cut where the next begins', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 3, max: 60 }), { minLength: 1, maxLength: 12 }),
      fc.integer({ min: 1, max: 4 }),
      (gaps, voices) => {
        let at = 0;
        const strokes = gaps.map((gap, i) => strokeAt((at += i === 0 ? 0 : gap * BLOCK)));
        const made = passOf(build, state, { strokes }, { ...playsOn, voices }, frames);
        const spans = made.cues.map((c) => spanOf(c, RATE));
        for (const stroke of strokes) {
          const now = anchor + stroke.at + Math.round(0.0055 * RATE);
          // Two layers each.
          expect(spans.filter((s) => s.start <= now && s.end > now).length).toBeLessThanOrEqual(2 * voices);
        }
        const { start, end } = spanOfPlayed(made, build);
        expect(start).toBe(Math.floor(Math.min(...spans.map((s) => s.start))) - anchor);
        expect(end).toBe(Math.ceil(Math.max(...spans.map((s) => s.end))) - anchor);
      },
    ),
  );
});

test('where the quietest gives way, on the whole or on a layer of its own limit, it does so again in the pass', () => {
  const gains = fc.array(fc.constantFrom(-30, -18, -6), { minLength: 3, maxLength: 8 });
  fc.assert(
    fc.property(gains, fc.integer({ min: 1, max: 3 }), fc.boolean(), (levels, voices, isOne) => {
      const of = tracks.map((t) => (isOne && t.id === 1 ? { ...t, struck: { voices } } : t));
      const by: PlayedBy = { ...playsOn, gives: 'quietest', voices: isOne ? 16 : voices };
      const strokes = levels.map((gain, i) => strokeAt(13 * i * BLOCK, { of, gain, velocity: 0.5, id: i + 1 }));
      const count = 13 * levels.length * BLOCK;
      told.length = 0;
      const first = live(strokes, count, by);
      expect(told.length).toBeGreaterThanOrEqual(Math.max(0, Math.min(levels.length, 5) - voices));
      for (const [, { line }] of told) expect(line).toBe(isOne ? 1 : undefined);
      const kept = strokes.map((s) => ({ ...s, gave: told.filter(([id]) => id === s.id).map(([, how]) => how) }));
      expect(apart(first, again(kept, by, count))).toBeLessThan(5e-4);
    }),
    { numRuns: 30 },
  );
});

test('a pass of which nothing is heard until later begins at its anchor', () => {
  const late = passOf(build, state, { strokes: [strokeAt(20 * BLOCK)] }, playsOn, frames);
  expect(partOf(late, build)).toMatchObject({ from: anchor, anchor: 0 });
  expect(partOf(state, build)).toMatchObject({ from: anchor - 1000, anchor: 1000 });
});

const turned = fc
  .array(fc.record({ block: fc.integer({ min: 1, max: 150 }), share: fc.double({ min: 0, max: 1, noNaN: true }) }), {
    maxLength: 12,
  })
  .map((all) => [
    { at: 0, mover: 3, share: 1 },
    ...all.sort((a, b) => a.block - b.block).map(({ block, share }): Turn => ({ at: block * BLOCK, mover: 3, share })),
  ]);

test('what a hand turned meanwhile moves the pass as it moved what was played', () => {
  const count = 160 * BLOCK;
  const still = live(pass, count);
  fc.assert(
    fc.property(turned, (turns) => {
      const first = live(pass, count, playsOn, turns);
      expect(apart(first, again(pass, playsOn, count, turns))).toBeLessThan(5e-4);
      if (turns.some((t) => t.at < 100 * BLOCK && t.share < 0.5)) expect(apart(first, still)).toBeGreaterThan(5e-4);
    }),
    { numRuns: 25 },
  );
});

test('a hand that turned something is a curve in a scene, and wherever one jumps to it stands there', () => {
  fc.assert(
    fc.property(turned, fc.nat(150), (turns, block) => {
      const whole = new MoverNode(movers[2], RATE);
      const jumped = new MoverNode(movers[2], RATE);
      for (const node of [whole, jumped]) node.follow([{ at: 0 }], turns);
      for (let at = 0; at <= block * BLOCK; at += BLOCK) whole.render(at, BLOCK);
      jumped.render(140 * BLOCK, BLOCK);
      jumped.render(block * BLOCK, BLOCK);
      // But for what is still on its way there.
      fc.pre(turns.every((t) => t.at === 0 || t.at > block * BLOCK || t.at < (block - 6) * BLOCK));
      expect(jumped.now).toBeCloseTo(whole.now, 6);
    }),
  );
  const turns = [
    { at: 0, mover: 3, share: 1 },
    { at: 4800, mover: 3, share: 0.25 },
  ];
  const made = passOf(build, state, { strokes: pass, turns }, playsOn, frames);
  const scene: Scene = { ...newBuild(8, 'Scene', RATE), build: undefined };
  const { cues, effects, tracks } = rowsFor(made);
  const ids = (n: number) => Array.from({ length: n }, (_, i) => 100 + i);
  const fresh = { cues: ids(cues), effects: ids(effects), tracks: ids(tracks) };
  const changes = intoScene(build, made, scene, 48_000, 3, fresh);
  const rows = changes.map((c) => c.after as unknown as Track & LineEffect);
  const at = (of: string, key: string, sample: number) =>
    rows
      .find((row) => row.name === of || row.kind === of)!
      .points![key].filter((p) => p.at <= 48_000 + sample)
      .at(-1)!.value;
  const gains = [4000, 6000].map((sample) => at('Layer 2', 'gain', sample));
  expect(gains).toEqual([expect.closeTo(0), expect.closeTo(-30)]);
  // As hard as each stroke was.
  const drive = pass.map((s) => expect.closeTo(20 * s.velocity) as number);
  expect(pass.map((s) => at('saturation', 'drive', s.at + 8 * BLOCK))).toEqual(drive);
});

test('laid into a scene all its strokes are cues there, heard as they were played', () => {
  const scene: Scene = { ...newBuild(8, 'Scene', RATE), build: undefined };
  const made = passOf(build, { ...state, movers: [] }, { strokes: pass }, playsOn, frames);
  const count = rowsFor(made);
  expect(count.cues).toBe(6);
  const ids = (n: number, from: number) => Array.from({ length: n }, (_, i) => from + i);
  const changes = intoScene(build, made, scene, 48_000, 3, {
    tracks: ids(count.tracks, 100),
    cues: ids(count.cues, 200),
    effects: ids(count.effects, 300),
  });
  const of = <T>(table: string) => changes.filter((c) => c.table === table).map((c) => c.after as unknown as T);
  const there = heard(
    planOf(of<Track>('tracks'), of<Cue>('cues'), of<LineEffect>('effects')),
    materials,
    9000,
    48_000,
  )[0];
  const here = heard(planOf(tracks, made.cues, effects), materials, 9000, anchor)[0];
  expect(apart(there, here)).toBeLessThan(1e-6);
});

test('a mover that follows a list of strikes is where it would be if it were struck by hand, in blocks of any size and after any jump', () => {
  const kinds = ['envelope', 'wave', 'drift', 'key', 'velocity'];
  const strike = fc.record({
    at: fc.nat(8000),
    key: fc.integer({ min: 30, max: 90 }),
    velocity: fc.double({ min: 0, max: 1, noNaN: true }),
    lifted: fc.option(fc.nat(9000), { nil: undefined }),
  });
  fc.assert(
    fc.property(
      fc.constantFrom(...kinds),
      fc.array(strike, { minLength: 1, maxLength: 5 }),
      fc.array(fc.integer({ min: 1, max: BLOCK }), { minLength: 1, maxLength: 4 }),
      fc.nat(7000),
      (kind, list, cuts, from) => {
        const strikes: Strike[] = list
          .map((s) => ({ ...s, lifted: s.lifted === undefined ? undefined : Math.max(s.lifted, s.at + 1) }))
          .sort((a, b) => a.at - b.at);
        const of: Mover = { id: 1, kind, values: kind === 'wave' ? { speed: 40, begins: 1 } : {}, moves: [] };
        const whole = new MoverNode(of, RATE);
        whole.follow(strikes);
        const all: number[] = [];
        for (let at = 0, n = 0; at < 9000; n++) {
          const part = Math.min(cuts[n % cuts.length], 9000 - at);
          whole.render(at, part);
          all.push(...whole.line.subarray(0, part));
          at += part;
        }
        expect(all.every((x) => x >= 0 && x <= 1)).toBe(true);
        if (kind !== 'envelope') return;
        // Where an envelope is follows from the sample alone.
        const jumped = new MoverNode(of, RATE);
        jumped.follow(strikes);
        jumped.render(8000, 8);
        jumped.render(from, BLOCK);
        for (let i = 0; i < BLOCK; i++) expect(jumped.line[i]).toBeCloseTo(all[from + i], 9);
      },
    ),
  );
});
