import { anchorOf, buildOfProject, layersOf, rowsOfProject } from '@core/build';
import { effectOf, moverOf } from '@core/effects';
import type { Change, Sound } from '@core/library';
import type { Cue, LineEffect, Scene, Track, Version } from '@core/scene';
import { checked, recordFault, validators, type ProjectFile } from '@core/schemas';
import { readFileSync } from 'node:fs';
import { soundOf } from '../helpers/catalogue';
import { RATE } from '../helpers/scene-graph';

describe('builds of a project file', () => {
  const file = JSON.parse(readFileSync('src/demo/project.json', 'utf8')) as unknown;
  const { builds = [] } = checked<ProjectFile>(file, validators.projectFile, 'the project');
  const idsFor = (made: (typeof builds)[number]) => {
    const { layers, effects } = rowsOfProject(made);
    const from = (first: number, count: number) => Array.from({ length: count }, (_, i) => first + i);
    return { build: 1, version: 2, tracks: from(10, layers), cues: from(30, layers), effects: from(50, effects) };
  };
  const ofTable = <T>(changes: readonly Change[], table: Change['table']) =>
    changes.flatMap((c) => (c.table === table ? [c.after as unknown as T] : []));
  const sound = { ...soundOf(3), marks: { ...soundOf(3).marks, anchor: 700 } };

  test('those of the demo are rows that can be kept, of values that their effects and movers have', () => {
    expect(builds.map((b) => b.layers.length)).toEqual([4, 2, 3]);
    for (const made of builds) {
      const changes = buildOfProject(made, idsFor(made), () => sound, RATE, 7);
      for (const { table, after } of changes.filter((c) => c.table !== 'sounds'))
        expect([made.name, recordFault(table, after!)]).toEqual([made.name, undefined]);
      const [build] = ofTable<Scene>(changes, 'scenes');
      const effects = ofTable<LineEffect>(changes, 'effects');
      for (const { kind, values } of effects)
        for (const [key, value] of Object.entries(values)) {
          const param = effectOf(kind)?.params.find((p) => p.key === key);
          expect([kind, key, param !== undefined && value >= param.least && value <= param.most]).toEqual([
            kind,
            key,
            true,
          ]);
        }
      for (const { kind, values, moves } of build.movers ?? []) {
        const keys = moverOf(kind)!.params.map((p) => p.key);
        expect(Object.keys(values).filter((key) => !keys.includes(key))).toEqual([]);
        expect(moves.length).toBeGreaterThan(0);
        for (const { of, id, key, from, to } of moves) {
          const param = effectOf(effects.find((e) => of === 'effect' && e.id === id)?.kind ?? 'gain')!.params.find(
            (p) => p.key === key,
          )!;
          expect([from, to].every((v) => v >= param.least && v <= param.most)).toBe(true);
        }
      }
      expect(
        layersOf(ofTable<Track>(changes, 'tracks'), ofTable<Cue>(changes, 'cues')).map((l) => l.track.name),
      ).toEqual(made.layers.map((l) => l.name));
    }
  });

  test('a layer lies as far beside the anchor as is said; without its sound it is left out, with what moves it', () => {
    const made = {
      ...{ name: 'Two', main: { gain: -3, effects: [{ kind: 'gain', values: { gain: 2 } }] } },
      layers: [
        {
          name: 'There',
          root: 'A',
          path: 'a.wav',
          offset: -250,
          gain: -6,
          backward: true,
          speed: 2,
          fadeIn: 0.5,
          until: 0.01,
        },
        { name: 'Gone', root: 'A', path: 'b.wav', effects: [{ kind: 'filter', values: {} }] },
      ],
      movers: [
        {
          ...{ kind: 'wave', values: {} },
          moves: [
            { layer: 'There', key: 'gain', from: -20, to: 0, bend: 'straight' as const },
            { layer: 'Gone', effect: 0, key: 'freq', from: 100, to: 900, bend: 'late' as const },
          ],
        },
      ],
    };
    const changes = buildOfProject(made, idsFor(made), ({ path }) => (path === 'a.wav' ? sound : undefined), RATE, 7);
    const [build] = ofTable<Scene>(changes, 'scenes');
    const [cue, ...others] = ofTable<Cue>(changes, 'cues');
    expect(others).toEqual([]);
    expect(cue).toMatchObject({
      at: anchorOf(build) - RATE / 4,
      anchor: 700,
      fadeIn: 0.5,
      soundId: 3,
      start: 0,
      end: sound.format.rate / 100,
    });
    expect(cue.shape).toMatchObject({ direction: 'backward', speed: 2 });
    expect(ofTable<Track>(changes, 'tracks')).toMatchObject([{ name: 'There', gain: -6 }]);
    expect(build).toMatchObject({ main: { gain: -3 }, movers: [{ moves: [{ of: 'line', id: 10, key: 'gain' }] }] });
    expect(build.movers![0].moves).toHaveLength(1);
    expect(ofTable<LineEffect>(changes, 'effects')).toMatchObject([{ lineId: 0, kind: 'gain', values: { gain: 2 } }]);
  });

  test('the sound that was made of it is told of its parents, the loudest first, and how the build was then is a version of it', () => {
    const layer = (path: string, gain: number) => ({ name: path, root: 'A', path, gain });
    const made = {
      ...{ name: 'Both', layers: [layer('soft', -9), layer('loud', -1), layer('gone', 0)] },
      kept: { root: 'Own', path: 'Both.wav' },
    };
    const [soft, loud, both] = [soundOf(3), soundOf(4), soundOf(5)];
    const there: Record<string, Sound> = { soft, loud, 'Both.wav': both };
    const changes = buildOfProject(made, idsFor(made), ({ path }) => there[path], RATE, 7);
    expect(changes.filter((c) => c.table === 'sounds')).toEqual([
      { table: 'sounds', id: 5, before: { built: undefined }, after: { built: { of: [4, 3], build: 1, version: 2 } } },
    ]);
    const [version] = ofTable<Version>(changes, 'versions');
    expect(version).toMatchObject({ id: 2, sceneId: 1, name: 'Both', at: 7 });
    expect(version.cues).toEqual(ofTable<Cue>(changes, 'cues'));
    expect(version.tracks).toEqual(ofTable<Track>(changes, 'tracks'));
    for (const { table, after } of changes)
      if (table !== 'sounds') expect([table, recordFault(table, after!)]).toEqual([table, undefined]);
    // A sound that is not there, or not any more, is told nothing.
    const without = buildOfProject(
      made,
      idsFor(made),
      ({ path }) => (path === 'Both.wav' ? undefined : there[path]),
      RATE,
      7,
    );
    expect(without).toEqual(changes.filter((c) => !['sounds', 'versions'].includes(c.table)));
  });
});
