import { MAIN } from '@core/engine';
import {
  carriedOver,
  idsIn,
  isSameSound,
  madeOf,
  readSceneFile,
  sceneFileOf,
  sceneParts,
  soundIn,
  soundsIn,
  type OtherIds,
  type SceneRows,
} from '@core/scene';
import { recordFault } from '@core/schemas';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { cueOf } from '../helpers/cues';

const sounds = [11, 12, 13];
const ids = (n: number, from: number) => Array.from({ length: n }, (_, i) => from + i);

/** Scenes with buses, sends, versions that have rows of their own, takes aside, pads of every kind. */
const scenes: fc.Arbitrary<SceneRows> = fc
  .record({
    tracks: fc.integer({ min: 1, max: 4 }),
    cues: fc.array(fc.record({ track: fc.nat(5), sound: fc.constantFrom(...sounds), tried: fc.boolean() }), {
      maxLength: 8,
    }),
    only: fc.integer({ min: 0, max: 3 }),
    into: fc.array(fc.nat(5), { minLength: 4, maxLength: 4 }),
    effects: fc.array(fc.record({ line: fc.nat(5), to: fc.nat(5), kind: fc.constantFrom('send', 'gain') }), {
      maxLength: 5,
    }),
    pads: fc.array(fc.constantFrom('hand', 'pull', 'query'), { maxLength: 4 }),
  })
  .map(({ tracks: n, cues: drawn, only, into, effects: sent, pads }) => {
    const lineIds = ids(n, 30);
    const lineOf = (i: number) => lineIds[i % n];
    const tracks = lineIds.map((id, i) => ({
      ...{ id, sceneId: 5, order: i, name: `Line ${i}`, gain: 0, mute: false, solo: false },
      ...(into[i] < n && into[i] !== i ? { into: lineOf(into[i]), bus: i % 2 === 0 } : {}),
    }));
    const cues = drawn.map(({ track, sound, tried }, i) => ({
      ...cueOf({ id: 50 + i, sceneId: 5, trackId: lineOf(track), soundId: sound, at: i * 100 }),
      ...(tried ? { tried: [...sounds] } : {}),
    }));
    const effects = sent.map(({ line, to, kind }, i) => ({
      ...{
        id: 80 + i,
        sceneId: 5,
        lineId: i === 0 ? MAIN : lineOf(line),
        order: i,
        kind,
        on: true,
        values: { gain: -3 },
      },
      ...(kind === 'send' ? { line: lineOf(to) } : {}),
    }));
    const markers = [{ id: 90, sceneId: 5, at: 4, name: 'Dawn' }];
    // What only a version still has.
    const gone = ids(only, 200).map((id) =>
      cueOf({ id: id, sceneId: 5, trackId: lineIds[0], soundId: sounds[0], at: id }),
    );
    const version = {
      id: 95,
      sceneId: 5,
      name: 'First',
      at: 1,
      tracks,
      effects,
      cues: [...cues, ...gone],
      markers: [{ ...markers[0], id: 91 }],
    };
    const source = (kind: string) =>
      kind === 'hand'
        ? { by: 'hand' as const, soundIds: sounds }
        : kind === 'pull'
          ? { by: 'pull' as const, pullId: 70 }
          : { by: 'query' as const, text: 'rope' };
    return {
      scene: {
        ...{ id: 5, name: 'Ferry', fps: '24', startFrame: 0, sampleRate: 48_000, length: 48_000 },
        picture: { rootId: 3, path: 'a/b.webm', name: 'b', frames: 24 },
        cuts: { of: '3/a/b.webm/77', found: [] },
        allowed: [{ soundId: 12, note: 'asked' }],
        pads: pads.map((kind, slot) => ({
          ...{ slot, source: source(kind), trackId: lineOf(slot), gain: { least: -9, most: 0 }, ends: 'all' as const },
        })),
        takes: [
          {
            id: 1,
            name: 'Take 1',
            at: 5,
            aside: [cueOf({ id: 300, sceneId: 5, trackId: lineIds[0], soundId: sounds[1], at: 9 })],
          },
        ],
      },
      ...{ tracks, cues, effects, markers, versions: [version] },
    };
  });

/** Ids that are those of the rows, and so much more. */
function shifted(rows: SceneRows, by: number): OtherIds {
  const own = idsIn(rows);
  return {
    scene: rows.scene.id + by,
    ...(Object.fromEntries(sceneParts.map((p) => [p, new Map(own[p].map((id) => [id, id + by]))])) as unknown as Omit<
      OtherIds,
      'scene'
    >),
    sounds: new Map([...soundsIn(rows)].map((id) => [id, id + by])),
    pulls: new Map([70, 1070].map((id) => [id, id + by])),
  };
}

test('a scene under other ids, and back under its own, is what it was; every record of it is one that the store takes', () => {
  fc.assert(
    fc.property(scenes, (rows) => {
      const away = carriedOver(rows, shifted(rows, 1000));
      expect(carriedOver(away, shifted(away, -1000))).toEqual(JSON.parse(JSON.stringify(rows)));
      for (const { table, after } of madeOf(away)) expect(recordFault(table, after)).toBeUndefined();
      // Nothing of it names what it named before.
      const named = [
        ...soundsIn(away),
        ...Object.values(idsIn(away)).flat(),
        ...away.versions.flatMap((v) => v.cues.map((c) => c.trackId)),
      ];
      expect(Math.min(...named)).toBeGreaterThanOrEqual(1000);
    }),
    { numRuns: 300 },
  );
});

test('what is not there is left out wherever it is named, and nothing else', () => {
  fc.assert(
    fc.property(scenes, fc.subarray(sounds), fc.nat(3), (rows, known, lost) => {
      const other = shifted(rows, 1000);
      const tracks = new Map([...other.tracks].filter(([id]) => id !== 30 + lost));
      const kept = new Map([...other.sounds!].filter(([id]) => known.includes(id)));
      const made = carriedOver(
        { ...rows, tracks: rows.tracks.filter((t) => tracks.has(t.id)) },
        { ...other, tracks, sounds: kept, pulls: new Map() },
      );
      const wanted = (cues: SceneRows['cues']) =>
        cues.filter((c) => known.includes(c.soundId) && tracks.has(c.trackId)).map((c) => c.id + 1000);
      expect(made.cues.map((c) => c.id)).toEqual(wanted(rows.cues));
      expect(made.versions[0].cues.map((c) => c.id)).toEqual(wanted(rows.versions[0].cues));
      expect([...soundsIn(made)].every((id) => known.includes(id - 1000))).toBe(true);
      const lines = new Set([MAIN, ...tracks.values()]);
      for (const t of made.tracks) if (t.into !== undefined) expect(lines.has(t.into)).toBe(true);
      for (const e of made.effects)
        expect([lines.has(e.lineId), e.kind !== 'send' || lines.has(e.line!)]).toEqual([true, true]);
      for (const { source } of made.scene.pads!) expect(source.by === 'pull').toBe(false);
    }),
    { numRuns: 300 },
  );
});

test('cuts go with the picture to where it lies', () => {
  const [rows] = fc.sample(scenes, 1);
  const ids = shifted(rows, 1000);
  const picture = { ...rows.scene.picture!, rootId: 9, path: 'c.webm' };
  expect(carriedOver(rows, ids, picture).scene.cuts).toEqual({ of: '9/c.webm/77', found: [] });
  expect(
    carriedOver({ ...rows, scene: { ...rows.scene, cuts: { of: '4/else/1', found: [] } } }, ids, picture).scene.cuts,
  ).toBeUndefined();
});

const goods = {
  roots: new Map([
    [3, 'Reels: A/B'],
    [4, 'reels_ a_b'],
  ]),
  tags: new Map([[4, 'rusty']]),
  pulls: [],
  pictures: new Map([['3/a/b.webm', 77]]),
};

test('a scene file reads back as what was written; names in it suit every file system, and no two meet', () => {
  fc.assert(
    fc.property(scenes, (rows) => {
      const of = (id: number, rootId: number, path: string) => ({ ...soundOf(id, { tags: [4] }), rootId, path });
      const all = [of(11, 3, 'x/Clank?.wav'), of(12, 4, 'X/clank_.wav'), of(13, 3, 'x/Clank?.wav')];
      const file = sceneFileOf([rows], { ...goods, sounds: all }, { sounds: true, pictures: true }, new Date(5));
      const read = readSceneFile(JSON.stringify(file), 'Ferry.cormorant');
      expect(read).toEqual(JSON.parse(JSON.stringify(file)));
      expect(read.sounds.map((s) => [s.media, s.tags])).toEqual([
        ['Reels_ A_B/x/Clank_.wav', ['rusty']],
        ['reels_ a_b/X/clank_ 2.wav', ['rusty']],
        ['Reels_ A_B/x/Clank_.wav', ['rusty']],
      ]);
      expect(read.pictures).toEqual([{ rootId: 3, path: 'a/b.webm', size: 77, media: 'Reels_ A_B/a/b.webm' }]);
    }),
    { numRuns: 50 },
  );
});

test('a scene file that is broken in any one place is refused in words, or is still a good one', () => {
  const [rows] = fc.sample(scenes, { seed: 4, numRuns: 1 });
  const of = (id: number) => ({ ...soundOf(id, {}), rootId: 3 });
  const text = JSON.stringify(
    sceneFileOf([rows], { ...goods, sounds: sounds.map(of) }, { sounds: true, pictures: true }, new Date(5)),
  );
  fc.assert(
    fc.property(fc.nat(text.length - 1), fc.constantFrom('', '"', '9', '{', ']', '-', 'null'), (at, put) => {
      let read;
      try {
        read = readSceneFile(text.slice(0, at) + put + text.slice(at + 1), 'Ferry.cormorant');
      } catch (error) {
        expect((error as Error).message).toMatch(/^Ferry\.cormorant (is|was|holds) /);
        return;
      }
      for (const r of read.scenes) {
        const made = carriedOver(r, shifted(r, 1000));
        for (const { table, after } of madeOf(made)) expect(recordFault(table, after)).toBeUndefined();
      }
    }),
    { numRuns: 2000 },
  );
});

test('a sound is the same by its audio where both were measured, else by its form', () => {
  const [a, b] = [soundOf(1, {}), soundOf(2, {})];
  expect(isSameSound(a, b)).toBe(true);
  expect(isSameSound({ ...a, hash: 'aa' }, { ...b, hash: 'bb' })).toBe(false);
  expect(isSameSound({ ...a, hash: 'aa' }, { ...b, format: { ...b.format, frames: b.format.frames + 1 } })).toBe(false);
  const longer = { ...b, hash: 'aa', format: { ...b.format, frames: 9 } };
  expect(isSameSound({ ...a, hash: 'aa' }, longer)).toBe(true);
});

test('a sound that comes in belongs to its new root, with its takes, and is where its file lies', () => {
  const sound = {
    ...soundOf(7),
    rootId: 3,
    path: 'steps/a?.wav',
    fields: { takeGroup: '3/steps/boot', file: 'a?.wav', folder: 'steps', state: 'Missing' },
  };
  const own = { id: 70, rootId: 33, intakeId: 2, tags: [9] };
  const made = soundIn(sound, own, { path: 'steps/a_.wav', size: 5, modified: 6 });
  expect(made).toMatchObject({ id: 70, rootId: 33, intakeId: 2, path: 'steps/a_.wav', size: 5, modified: 6 });
  expect(made.fields).toEqual({ takeGroup: '33/steps/boot', file: 'a_.wav', folder: 'steps', tags: [9] });
  expect(soundIn(sound, { ...own, tags: [] }).fields).toEqual({
    takeGroup: '33/steps/boot',
    file: 'a?.wav',
    folder: 'steps',
  });
});
