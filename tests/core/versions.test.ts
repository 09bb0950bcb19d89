import { applyChange, invert, type Change, type Edit, type Sound } from '@core/library';
import {
  changesTo,
  deal,
  differencesOf,
  endingAt,
  nextAnchor,
  nextMarker,
  passes,
  placed,
  spanOf,
  usesOf,
  type Cue,
  type Deal,
  type Marker,
  type Scene,
  type SceneState,
  type Track,
} from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';

// States of a scene and what lies between them; other sounds for many cues at once; several sounds placed at once.

const RATE = 48_000;
const scene: Scene = { id: 5, name: 'Ferry', fps: '24', startFrame: 0, sampleRate: RATE, length: RATE * 40 };

const ids = fc.integer({ min: 1, max: 6 });
const byId = <T extends { id: number }>(one: fc.Arbitrary<T>) =>
  fc.uniqueArray(one, { maxLength: 5, selector: (r) => r.id });
const trackOf: fc.Arbitrary<Track> = fc.record(
  {
    ...{
      id: ids,
      sceneId: fc.constant(5),
      order: fc.nat(3),
      name: fc.constantFrom('Deck', 'Air'),
      gain: fc.integer({ min: -9, max: 3 }),
    },
    ...{ mute: fc.boolean(), solo: fc.boolean(), place: fc.constantFrom(-1, 0.5), locked: fc.constant(true) },
    ...{ colour: fc.constantFrom('sky' as const, 'moss' as const), group: fc.constant('Feet') },
  },
  { requiredKeys: ['id', 'sceneId', 'order', 'name', 'gain', 'mute', 'solo'] },
);
const cueOf: fc.Arbitrary<Cue> = fc.record(
  {
    ...{ id: ids, sceneId: fc.constant(5), trackId: ids, soundId: ids, name: fc.constantFrom('Step', 'Rope') },
    ...{
      at: fc.nat(90_000),
      anchor: fc.nat(100),
      start: fc.nat(90),
      end: fc.integer({ min: 1000, max: 9000 }),
      rate: fc.constant(RATE),
    },
    ...{
      gain: fc.integer({ min: -9, max: 3 }),
      mute: fc.boolean(),
      fadeIn: fc.constantFrom(0, 0.1),
      fadeOut: fc.constantFrom(0, 0.1),
    },
    ...{
      shape: fc.constantFrom({ speed: 2 }, { direction: 'backward' as const }),
      colour: fc.constant('plum' as const),
    },
    ...{ place: fc.constantFrom(-1, 0.25), locked: fc.constant(true), tried: fc.constantFrom([3], [3, 4]) },
  },
  {
    requiredKeys: [
      'id',
      'sceneId',
      'trackId',
      'soundId',
      'name',
      'at',
      'anchor',
      'start',
      'end',
      'rate',
      'gain',
      'mute',
      'fadeIn',
      'fadeOut',
    ],
  },
);
const markerOf: fc.Arbitrary<Marker> = fc.record(
  {
    id: ids,
    sceneId: fc.constant(5),
    at: fc.nat(90_000),
    name: fc.constantFrom('In', 'Out'),
    colour: fc.constant('coral' as const),
  },
  { requiredKeys: ['id', 'sceneId', 'at', 'name'] },
);
const stateOf: fc.Arbitrary<SceneState> = fc.record(
  {
    tracks: byId(trackOf),
    cues: byId(cueOf),
    markers: byId(markerOf),
    loop: fc.constantFrom({ start: 1, end: 9 }, { start: 4, end: 8 }),
  },
  { requiredKeys: ['tracks', 'cues', 'markers'] },
);

/** A state after changes, its rows by id. */
function applied(state: SceneState, changes: readonly Change[]): SceneState {
  const tables = {
    tracks: new Map<number, object>(),
    cues: new Map<number, object>(),
    markers: new Map<number, object>(),
  };
  for (const table of ['tracks', 'cues', 'markers'] as const)
    for (const row of state[table]) tables[table].set(row.id, row);
  let whole: Scene = { ...scene, ...(state.loop ? { loop: state.loop } : {}) };
  for (const change of changes) {
    if (change.table === 'scenes') whole = applyChange(whole, change)!;
    else {
      const table = tables[change.table as keyof typeof tables];
      const row = applyChange(table.get(change.id) as { id: number } | undefined, change);
      if (row) table.set(change.id, row);
      else table.delete(change.id);
    }
  }
  // What was tried at a cue is a memory, not a state that one returns to.
  const rows = (t: Map<number, object>): object[] =>
    [...t].sort(([a], [b]) => a - b).map(([, r]) => ({ ...r, tried: undefined }));
  return {
    ...{
      tracks: rows(tables.tracks) as Track[],
      cues: rows(tables.cues) as Cue[],
      markers: rows(tables.markers) as Marker[],
    },
    ...(whole.loop ? { loop: whole.loop } : {}),
  };
}
const sorted = (state: SceneState) => applied(state, []);

describe('versions', () => {
  test('returning to any state from any other makes it whole again, and undo leads back', () => {
    fc.assert(
      fc.property(stateOf, stateOf, (now, then) => {
        const changes = changesTo({ ...scene, loop: now.loop }, now, then);
        expect(applied(now, changes)).toEqual(sorted(then));
        const edit: Edit = { label: 'Return', at: 0, undoable: true, changes };
        expect(applied(then, invert(edit).changes)).toEqual(sorted(now));
        expect(changesTo({ ...scene, loop: now.loop }, now, now)).toEqual([]);
      }),
    );
  });

  test('differences name every row that is other, and none that is the same', () => {
    const moved = (by: number) => `by ${by}`;
    fc.assert(
      fc.property(stateOf, stateOf, (now, then) => {
        const told = differencesOf(now, then, RATE, moved).map((d) => `${d.of}s ${d.id}`);
        // What is only named or anchored anew sounds and looks as it did.
        const rows = changesTo(scene, { ...now, loop: undefined }, { ...then, loop: undefined }).filter(
          ({ before, after }) =>
            !before || !after || Object.keys({ ...before, ...after }).some((k) => !['anchor', 'name'].includes(k)),
        );
        for (const { table, id } of rows) expect(told).toContain(`${table} ${id}`);
        expect(new Set(told).size).toBe(told.length);
        expect(differencesOf(now, now, RATE, moved)).toEqual([]);
      }),
    );
  });

  test('differences say what became of it', () => {
    const cue: Cue = {
      ...{ id: 1, sceneId: 5, trackId: 1, soundId: 7, name: 'Step', at: 4000, anchor: 0, start: 0, end: 9000 },
      ...{ rate: RATE, gain: -3, mute: false, fadeIn: 0, fadeOut: 0 },
    };
    const track: Track = { id: 1, sceneId: 5, order: 0, name: 'Deck', gain: 0, mute: false, solo: false };
    const now: SceneState = { tracks: [track], cues: [cue, { ...cue, id: 2 }], markers: [] };
    const then: SceneState = {
      tracks: [{ ...track, gain: -2, mute: true }],
      cues: [
        { ...cue, at: 6000, gain: 0, place: -0.5, end: 7000 },
        { ...cue, id: 3, at: 9, name: 'Rope' },
      ],
      markers: [{ id: 4, sceneId: 5, at: 90, name: 'Splash' }],
    };
    expect(differencesOf(now, then, RATE, (by) => `moved ${by}`).map((d) => [d.name, d.changes])).toEqual([
      ['Deck', ['2.0 dB softer', 'muted']],
      ['Rope', ['added']],
      ['Splash', ['added']],
      ['Step', ['gone']],
      ['Step', ['moved 2000', '3.0 dB louder', 'more left', 'shorter']],
    ]);
  });
});

/** Ten steps of rising force. */
const steps: Sound[] = Array.from({ length: 10 }, (_, i) =>
  soundOf(i + 1, { fxName: `Step ${i}`, force: i * 10 }, RATE),
);
const seatsFor = (count: number, pool: readonly Sound[] = steps) =>
  Array.from({ length: count }, (_, i) => ({ cueId: 100 + i, now: pool[i % pool.length], pool }));

describe('other sounds for many cues', () => {
  const how: fc.Arbitrary<Deal> = fc.oneof(
    fc.constantFrom<Deal>({ by: 1 }, { by: -1 }),
    fc.integer().map((seed): Deal => {
      const random = new Random(seed);
      return { random: () => random.next() };
    }),
  );

  test('each gets another one than it has; no two get the same while there are others, and no neighbours ever', () => {
    fc.assert(
      fc.property(how, fc.integer({ min: 1, max: 30 }), fc.integer({ min: 3, max: 10 }), (deals, count, size) => {
        const seats = seatsFor(count, steps.slice(0, size));
        const dealt = deal(seats, deals);
        expect(dealt.size).toBe(count);
        for (const { cueId, now } of seats) expect(dealt.get(cueId)!.id).not.toBe(now.id);
        const uses = [...dealt.values()].map((s) => s.id);
        // One may be kept from those that nobody has yet by standing in their way itself.
        if (count < size) expect(new Set(uses).size).toBe(count);
        for (let i = 1; i < uses.length; i++) expect([i, uses[i]]).not.toEqual([i, uses[i - 1]]);
      }),
    );
  });

  test('a step on and a step back lead to where it was; a list of one has nothing to give', () => {
    const seat = { cueId: 1, now: steps[3], pool: steps };
    const next = deal([seat], { by: 1 }).get(1)!;
    expect(next.id).toBe(steps[4].id);
    expect(deal([{ ...seat, now: next }], { by: -1 }).get(1)!.id).toBe(steps[3].id);
    expect(deal([{ ...seat, now: steps[9] }], { by: 1 }).get(1)!.id).toBe(steps[0].id);
    expect(deal([{ ...seat, pool: [steps[3]] }], { by: 1 }).size).toBe(0);
    // What does not stand in the list begins with its first.
    expect(deal([{ ...seat, now: soundOf(77) }], { by: 1 }).get(1)!.id).toBe(steps[0].id);
  });

  test('softer is the next one that hits less hard, harder the next that hits more; nobody invents one', () => {
    const at = (i: number, force: 'softer' | 'harder', pool: readonly Sound[] = steps) =>
      deal([{ cueId: 1, now: steps[i], pool }], { force }).get(1)?.fields.force;
    expect([at(5, 'softer'), at(5, 'harder'), at(0, 'softer'), at(9, 'harder')]).toEqual([
      40,
      60,
      undefined,
      undefined,
    ]);
    // A hair's breadth is no step.
    expect(at(5, 'harder', [soundOf(70, { force: 52 }), soundOf(71, { force: 58 })])).toBe(58);
  });

  test('bounds of force and length keep out what is beyond them, and what nobody measured', () => {
    const within = { force: { least: 30, most: 60 }, length: { least: 0.5, most: 1.5 } };
    expect(steps.filter((s) => passes(s, within)).map((s) => s.fields.force)).toEqual([30, 40, 50, 60]);
    expect(passes(soundOf(80, {}, RATE), within)).toBe(false);
    expect(passes(soundOf(80, {}, RATE), { length: within.length })).toBe(true);
    expect(passes(soundOf(80, { force: 40 }, RATE * 3), within)).toBe(false);
  });
});

describe('sounds placed', () => {
  const sounds = [3000, 20_000, 9000].map((frames, i) => ({
    ...soundOf(20 + i, {}, frames),
    marks: { anchor: 1000 * i },
  }));
  const ground = { sceneId: 5, rate: RATE, at: 48_000, trackIds: [1, 2], now: 7 };

  test('one behind another: the first anchor lands, each of the others begins where the one before it ends', () => {
    const cues = placed(sounds, [1, 2, 3], 'behind', ground);
    expect(cues[0]).toMatchObject({ at: 48_000, trackId: 1, made: 7 });
    for (let i = 1; i < cues.length; i++) expect(spanOf(cues[i], RATE).start).toBe(spanOf(cues[i - 1], RATE).end);
  });

  test('on tracks of their own, or as layers: all anchors at one instant', () => {
    const of = (way: 'tracks' | 'layers') => placed(sounds, [1, 2, 3], way, ground).map((c) => [c.at, c.trackId]);
    expect(of('tracks')).toEqual([
      [48_000, 1],
      [48_000, 2],
      [48_000, 2],
    ]);
    expect(of('layers').map(([, track]) => track)).toEqual([1, 1, 1]);
  });

  test('a rise ends where the next hit is; the next hit is none that is muted or the rise itself', () => {
    const [rise, hit, later] = placed(sounds, [1, 2, 3], 'layers', ground);
    const cues = [rise, { ...hit, at: 60_000, mute: true }, { ...later, at: 90_000 }];
    expect(nextAnchor(cues, 48_000 - 1, new Set([1]))).toBe(90_000);
    expect(nextAnchor(cues, 90_000, new Set())).toBeUndefined();
    expect(spanOf(endingAt(rise, 90_000, RATE)!, RATE).end).toBe(90_000);
    expect(endingAt(rise, 100, RATE)).toBeUndefined();
  });

  test('markers are met in order, and every sound of a scene is listed once', () => {
    const markers = [900, 100, 500].map((at, id): Marker => ({ id, sceneId: 5, at, name: `${at}` }));
    expect([nextMarker(markers, 100)?.at, nextMarker(markers, 99)?.at, nextMarker(markers, 900)?.at]).toEqual([
      500,
      100,
      undefined,
    ]);
    expect([nextMarker(markers, 500, -1)?.at, nextMarker(markers, 100, -1)?.at]).toEqual([100, undefined]);
    const cues = placed([sounds[0], sounds[1], sounds[0]], [1, 2, 3], 'behind', ground);
    expect(usesOf([...cues].reverse()).map((u) => [u.soundId, u.cues.map((c) => c.id)])).toEqual([
      [20, [1, 3]],
      [21, [2]],
    ]);
  });
});
