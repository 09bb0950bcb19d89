import { MAIN } from '@core/engine';
import {
  busesFor,
  changesTo,
  differencesOf,
  effectName,
  heardBy,
  heardLines,
  linesOf,
  planOf,
  stemsOf,
  treeOf,
  withoutLine,
  type Cue,
  type LineEffect,
  type Scene,
  type SceneState,
  type Track,
} from '@core/scene';
import { applyChange, type Change } from '@core/library';
import { plainShape } from '@core/audio';
import fc from 'fast-check';

// What the sound of a scene goes through: who is heard, what may flow where, and what becomes of it when a line goes.

const track = (id: number, more: Partial<Track> = {}): Track => ({
  ...{ id, sceneId: 1, order: id, name: `Line ${id}`, gain: 0, mute: false, solo: false },
  ...more,
});
const effect = (id: number, lineId: number, kind = 'gain', more: Partial<LineEffect> = {}): LineEffect => ({
  ...{ id, sceneId: 1, lineId, order: id, kind, on: true, values: {} },
  ...more,
});
/** Steps and Winch flow into Ship, that into Deck; Air stands alone; Steps sends to Hall. */
const [steps, winch, air] = [track(1, { into: 4 }), track(2, { into: 4 }), track(3)];
const [ship, deck, hall] = [track(4, { bus: true, into: 5 }), track(5, { bus: true }), track(6, { bus: true })];
const all = [steps, winch, air, ship, deck, hall];
const sent = effect(20, 1, 'send', { line: 6 });
const heard = (changed: Track[], effects: LineEffect[] = [sent]) =>
  [
    ...heardLines(
      all.map((t) => changed.find((c) => c.id === t.id) ?? t),
      effects,
    ),
  ].sort();

test('a solo is heard in its place: with its buses, what flows into it, and where it sends', () => {
  expect(heard([])).toEqual([1, 2, 3, 4, 5, 6]);
  expect(heard([{ ...steps, solo: true }])).toEqual([1, 4, 5, 6]);
  expect(heard([{ ...ship, solo: true }])).toEqual([1, 2, 4, 5, 6]);
  expect(heard([{ ...air, solo: true }])).toEqual([3]);
  // A send that is off leads nowhere; mute wins.
  expect(heard([{ ...steps, solo: true }], [{ ...sent, on: false }])).toEqual([1, 4, 5]);
  expect(
    heard([
      { ...steps, solo: true },
      { ...ship, mute: true },
    ]),
  ).toEqual([1, 5, 6]);
});

test('lines are told with their effects in order, and the main one is always among them', () => {
  const lines = linesOf(
    {
      tracks: all,
      effects: [effect(8, 2, 'gate', { order: 3 }), effect(9, 2, 'width', { order: 1 }), effect(7, MAIN)],
    },
    { gain: -2 },
  );
  expect(lines.get(2)).toMatchObject({
    into: 4,
    inserts: [
      { id: 9, kind: 'width' },
      { id: 8, kind: 'gate' },
    ],
  });
  expect(lines.get(MAIN)).toMatchObject({ gain: -2, place: 0, open: true, inserts: [{ id: 7 }] });
  expect(planOf([], []).lines.get(MAIN)).toMatchObject({ gain: 0, inserts: [] });
});

test('no way is offered that would come round', () => {
  const own = { tracks: all, effects: [sent, effect(21, 6, 'compressor', { line: 3 })] };
  const ids = (list: Track[]) => list.map((t) => t.id);
  expect(ids(busesFor(1, own))).toEqual([4, 5, 6]);
  expect(ids(busesFor(5, own))).toEqual([6]);
  // Hall hears of Steps; Steps may not listen to it, nor may Air, which it listens to.
  expect(ids(heardBy(1, own))).toEqual([2, 3]);
  expect(ids(busesFor(6, own))).toEqual([4, 5]);
  expect(ids(heardBy(MAIN, own))).toEqual([1, 2, 3, 4, 5, 6]);
});

test('the tree has every line once, whatever flows where', () => {
  expect(treeOf(all).map((r) => [r.track.id, r.depth])).toEqual([
    ...[
      [5, 0],
      [4, 1],
      [1, 2],
      [2, 2],
    ],
    ...[
      [6, 0],
      [3, 0],
    ],
  ]);
  const into = fc.option(fc.integer({ min: 1, max: 9 }), { nil: undefined });
  fc.assert(
    fc.property(fc.array(fc.record({ into, bus: fc.boolean() }), { maxLength: 8 }), (wild) => {
      const tracks = wild.map((w, i) => track(i + 1, w));
      expect(
        treeOf(tracks)
          .map((r) => r.track.id)
          .sort(),
      ).toEqual(tracks.map((t) => t.id));
    }),
  );
});

test('a line that goes takes its effects and sends along, and leaves nothing that names it', () => {
  const effects = [
    sent,
    effect(21, 2, 'gate', { line: 4 }),
    effect(22, 4),
    effect(23, 3, 'send', { line: 4 }),
    effect(24, 3),
  ];
  const gone = withoutLine(ship, { tracks: all, effects });
  expect(gone.removed.map((e) => e.id)).toEqual([22, 23]);
  expect(gone.tracks.map((t) => [t.id, t.into])).toEqual([
    [1, 5],
    [2, 5],
  ]);
  expect(gone.effects).toEqual([{ ...effects[1], line: undefined }]);
});

const cue = (id: number, trackId: number): Cue => ({
  ...{ id, sceneId: 1, trackId, soundId: 9, name: 'Clack', at: 0, anchor: 0, start: 0, end: 100, rate: 48_000 },
  ...{ gain: 0, mute: false, fadeIn: 0, fadeOut: 0, shape: plainShape },
});
test('stems of buses hold what flows into them; each goes through the buses that are heard', () => {
  const stems = stemsOf(all, [cue(1, 1), cue(2, 2), cue(3, 3)], 'bus', [sent]);
  expect(stems.map((s) => [s.name, s.cues.map((c) => c.id), s.tracks.map((t) => t.id)])).toEqual([
    ['Line 5', [1, 2], [4, 5, 6, 1, 2]],
    ['Line 3', [3], [4, 5, 6, 3]],
  ]);
});

test('a state is returned to with its effects and its main line; differences are told by the line that they are on', () => {
  const scene = { id: 1, name: 'Ferry', length: 100, sampleRate: 48_000 } as Scene;
  const now: SceneState = {
    tracks: all,
    cues: [],
    markers: [],
    effects: [sent, effect(22, 4), effect(24, 3, 'limiter')],
    main: { gain: -1 },
  };
  const then: SceneState = {
    ...now,
    tracks: all.map((t) => (t.id === 3 ? { ...t, into: 5 } : t)),
    effects: [{ ...sent, values: { gain: -3 } }, effect(23, MAIN, 'width'), effect(24, 3, 'limiter', { on: false })],
    main: undefined,
  };
  const rows = new Map<string, object | undefined>([
    ['scenes 1', { ...scene, main: now.main }],
    ...[
      ...now.tracks.map((t) => [`tracks ${t.id}`, t] as const),
      ...now.effects!.map((e) => [`effects ${e.id}`, e] as const),
    ],
  ]);
  const apply = ({ table, id, ...rest }: Change) =>
    rows.set(`${table} ${id}`, applyChange(rows.get(`${table} ${id}`), { table, id, ...rest }));
  changesTo({ ...scene, main: now.main }, now, then).forEach(apply);
  const left = [...rows].flatMap(([key, row]) => (key.startsWith('effects') && row ? [row] : []));
  expect(left).toEqual(expect.arrayContaining([...then.effects!]));
  expect(left).toHaveLength(3);
  expect(rows.get('scenes 1')).not.toHaveProperty('main');
  // A state kept before there were effects has none.
  expect(
    changesTo(scene, { ...now, main: undefined }, { tracks: all, cues: [], markers: [] }).map((c) => [
      c.table,
      c.after,
    ]),
  ).toEqual(now.effects!.map(() => ['effects', undefined]));
  const told = differencesOf(now, then, 48_000, () => '').map((d) => `${d.name}: ${d.changes.join(', ')}`);
  expect(told.sort()).toEqual(
    [
      'Gain on Line 4: gone',
      'Line 3: into Line 5',
      'Limiter on Line 3: off',
      'Send to Line 6 on Line 1: set otherwise',
      'Width on the main line: added',
    ].sort(),
  );
  expect(effectName(effect(1, 2, 'gate', { line: 3 }), () => 'Steps')).toBe('Gate, by Steps');
  expect(effectName(effect(1, 2, 'of a later time'), () => undefined)).toBe('of a later time');
});
