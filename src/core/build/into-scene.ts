import { MAIN } from '@core/engine';
import { additionOf, type Change } from '@core/library';
import { effectsOf, type LineEffect, type Scene, type SceneState, type Track } from '@core/scene';
import { anchorOf, layersOf } from './layers';

/** Ids for what comes into a scene. */
export interface FreshIds {
  tracks: readonly number[];
  cues: readonly number[];
  effects: readonly number[];
}

/** How many rows of each kind a build becomes in a scene. */
export function rowsFor(state: SceneState): Record<keyof FreshIds, number> {
  return {
    tracks: 1 + state.tracks.length,
    cues: layersOf(state.tracks, state.cues).length,
    // One more for the gain of the whole.
    effects: 1 + (state.effects ?? []).length,
  };
}

/**
 * The changes that lay a build into a scene as what it is: a track for each layer with its effects, all of them into a bus that has the effects of
 * the whole. Of a layer of several sounds it is the one that is heard.
 * @param at sample of the scene on which its anchor lands; @param order behind which its tracks stand
 */
export function intoScene(
  build: Scene,
  state: SceneState,
  scene: Scene,
  at: number,
  order: number,
  ids: FreshIds,
): Change[] {
  const layers = layersOf(state.tracks, state.cues);
  const [busId, ...trackIds] = ids.tracks;
  const lines = new Map([[MAIN, busId], ...state.tracks.map((t, i): [number, number] => [t.id, trackIds[i]])]);
  const main = state.main ?? { gain: 0 };
  const bus: Track = {
    ...{ id: busId, sceneId: scene.id, order, name: build.name, bus: true, mute: false, solo: false, gain: 0 },
    ...(main.place === undefined ? {} : { place: main.place }),
  };
  const tracks = state.tracks.map((t, i): Track => {
    const { points: _, ...plain } = t;
    return {
      ...plain,
      id: trackIds[i],
      sceneId: scene.id,
      order: order + 1 + i,
      into: lines.get(t.into ?? MAIN) ?? busId,
    };
  });
  const moved = at - anchorOf(build);
  const cues = layers.map(({ cues: [cue] }, i) => {
    const { tried: _, ...plain } = cue;
    return { ...plain, id: ids.cues[i], sceneId: scene.id, trackId: lines.get(cue.trackId)!, at: cue.at + moved };
  });
  const known = [MAIN, ...state.tracks.map((t) => t.id)].flatMap((id) => effectsOf(id, state.effects ?? []));
  const effects = known.map((e, i): LineEffect => {
    const { points: _, line, ...plain } = e;
    const other = line === undefined ? undefined : lines.get(line);
    return {
      ...{ ...plain, id: ids.effects[i], sceneId: scene.id, lineId: lines.get(e.lineId)! },
      ...(other === undefined ? {} : { line: other }),
    };
  });
  // The main line has its gain before its effects, a bus behind them: a limiter would have other work there.
  const gain: LineEffect = {
    ...{ id: ids.effects[known.length], sceneId: scene.id, lineId: busId, order: -1, kind: 'gain', on: true },
    values: { gain: main.gain },
  };
  if (main.gain !== 0) effects.unshift(gain);
  return [
    ...[bus, ...tracks].map((t) => additionOf('tracks', t)),
    ...effects.map((e) => additionOf('effects', e)),
    ...cues.map((c) => additionOf('cues', c)),
  ];
}
