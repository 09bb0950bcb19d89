import { fullShape } from '@core/audio';
import { additionOf, changeOf, type Change, type Sound } from '@core/library';
import type { ProjectBuild, ProjectEffect, ProjectPlace } from '@core/schemas';
import { MAIN } from '@core/engine';
import type { Mover } from '@core/effects';
import type { Cue, LineEffect, Scene, Track, Version } from '@core/scene';
import { soundsIn } from './kept';
import { anchorOf, layerOf, newBuild, withPart } from './layers';

/** How many rows a build of a project file needs beside its own. */
export const rowsOfProject = ({ layers, main }: ProjectBuild): { layers: number; effects: number } => ({
  layers: layers.length,
  effects: [main?.effects, ...layers.map((l) => l.effects)].reduce((sum, list) => sum + (list?.length ?? 0), 0),
});

/**
 * The changes that make a build of a project file. A layer whose sound is not found is left out, and so is what moves it.
 * The sound that was made of it is told so, where it is found, and how the build was then is a version of it.
 * @param ids of the build and of that version, and as many others as {@link rowsOfProject} says
 * @param find the sound at a place
 * @param rate Hz
 * @param now milliseconds since 1970
 */
export function buildOfProject(
  made: ProjectBuild,
  ids: {
    build: number;
    version: number;
    tracks: readonly number[];
    cues: readonly number[];
    effects: readonly number[];
  },
  find: (of: ProjectPlace) => Sound | undefined,
  rate: number,
  now: number,
): Change[] {
  const plain = newBuild(ids.build, made.name, rate);
  const fresh = [...ids.effects];
  const effectsOf = (lineId: number, list: readonly ProjectEffect[] = []): LineEffect[] =>
    list.map(({ kind, on = true, values }, order) => ({
      ...{ id: fresh.shift()!, sceneId: plain.id, lineId, order, kind, on, values },
    }));
  const mainEffects = effectsOf(MAIN, made.main?.effects);
  const layers = made.layers.flatMap((layer, order) => {
    const sound = find(layer);
    const effects = effectsOf(ids.tracks[order], layer.effects);
    if (!sound) return [];
    const [track, cue] = layerOf(plain, sound, { track: ids.tracks[order], cue: ids.cues[order] }, order).map(
      (change) => change.after!,
    ) as unknown as [Track, Cue];
    const { name, offset = 0, gain = 0, place, speed = 1, backward = false, until, fadeIn, fadeOut } = layer;
    const line: Track = { ...track, name, gain, ...(place === undefined ? {} : { place }) };
    const shape = {
      ...fullShape(cue.shape),
      speed,
      direction: backward ? ('backward' as const) : ('forward' as const),
    };
    const { frames, rate: perSecond } = sound.format;
    const part = until === undefined ? cue : withPart(cue, { start: cue.start, end: until * perSecond }, frames);
    const laid: Cue = {
      ...{ ...part, shape, at: anchorOf(plain) + Math.round((offset * rate) / 1000) },
      ...(fadeIn === undefined ? {} : { fadeIn }),
      ...(fadeOut === undefined ? {} : { fadeOut }),
    };
    return [{ line, cue: laid, effects }];
  });
  const named = new Map(layers.map((l) => [l.line.name, l]));
  const movers = (made.movers ?? []).map((mover, i): Mover => {
    const moves = mover.moves.flatMap(({ layer, effect, ...move }) => {
      const of = named.get(layer);
      const id = effect === undefined ? of?.line.id : of?.effects[effect]?.id;
      return id === undefined
        ? []
        : [{ ...move, of: effect === undefined ? ('line' as const) : ('effect' as const), id }];
    });
    return { id: i + 1, kind: mover.kind, values: mover.values, moves };
  });
  const build: Scene = {
    ...plain,
    ...(made.main ? { main: { gain: made.main.gain } } : {}),
    ...(movers.length > 0 ? { movers } : {}),
  };
  const rows = {
    tracks: layers.map((l) => l.line),
    cues: layers.map((l) => l.cue),
    effects: [...mainEffects, ...layers.flatMap((l) => l.effects)],
  };
  return [
    additionOf('scenes', build),
    ...layers.flatMap((l) => [additionOf('tracks', l.line), additionOf('cues', l.cue)]),
    ...rows.effects.map((e) => additionOf('effects', e)),
    ...kept(),
  ];

  function kept(): Change[] {
    const sound = made.kept && find(made.kept);
    if (!sound) return [];
    const sounds = new Map(made.layers.flatMap((l) => find(l) ?? []).map((s) => [s.id, s]));
    const of = soundsIn(rows, (id) => sounds.get(id)).map((p) => p.sound.id);
    const { main, movers: moving } = build;
    const whole = { ...rows, markers: [], ...(main ? { main } : {}), ...(moving ? { movers: moving } : {}) };
    const version: Version = { ...whole, id: ids.version, sceneId: build.id, name: made.name, at: now };
    const told = changeOf('sounds', sound, { built: { of, build: build.id, version: version.id } });
    return [additionOf('versions', version), ...(told ? [told] : [])];
  }
}
