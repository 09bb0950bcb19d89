import { effectOf, movedTo, MoverNode, type Breakpoint, type Move } from '@core/effects';
import { BLOCK, MAIN } from '@core/engine';
import { additionOf, type Change } from '@core/library';
import { effectsOf, movingOf, type Cue, type LineEffect, type Scene, type SceneState, type Track } from '@core/scene';
import { anchorOf, layersOf, type Layer } from './layers';
import { spanOfPlayed, type Played } from './passes';

/** Ids for what comes into a scene. */
export interface FreshIds {
  tracks: readonly number[];
  cues: readonly number[];
  effects: readonly number[];
}

/** The cues that come into a scene: of a layer that which is heard, of a pass all. */
const laid = ({ tracks, cues, strikes }: Played): readonly Cue[] =>
  strikes ? cues : layersOf(tracks, cues).map((l: Layer) => l.cues[0]);

/** How many rows of each kind a build becomes in a scene, at the most. */
export function rowsFor(state: Played): Record<keyof FreshIds, number> {
  return {
    tracks: 1 + state.tracks.length,
    cues: laid(state).length,
    // One more for the gain of the whole.
    effects: 1 + (state.effects ?? []).length,
  };
}

/** A curve has a point each so many samples, and at the most so many points. */
const [STEP, MOST] = [480, 2000];

const targetOf = ({ of, id, key }: Pick<Move, 'of' | 'id' | 'key'>) => `${of} ${id} ${key}`;

/** Where a value stands that nobody moves, and how its handle runs; undefined where it is gone or a choice. */
function standing(state: SceneState, { of, id, key }: Move) {
  if (of === 'line') {
    const line = id === MAIN ? (state.main ?? { gain: 0 }) : state.tracks.find((t) => t.id === id);
    return line && { value: (key === 'gain' ? line.gain : line.place) ?? 0, curve: 'even' as const };
  }
  const effect = state.effects?.find((e) => e.id === id);
  const spec = effectOf(effect?.kind ?? '')?.params.find((p) => p.key === key);
  if (!effect || !spec || spec.choices) return undefined;
  return { value: effect.values[key] ?? spec.initial, curve: spec.curve };
}

/** What movers do to values of a build, as curves along it, by target. Those that follow levels stand where they stand. */
function curvesOf(build: Scene, state: Played): Map<string, Breakpoint[]> {
  const { movers = [], strikes = [], turns } = movingOf({ ...build, ...state }, state.cues);
  const span = spanOfPlayed(state, build);
  const length = span.end - span.start;
  const begins = strikes[0]?.at ?? 0;
  const step = Math.max(STEP, Math.ceil(length / MOST / BLOCK) * BLOCK);
  const curves = new Map<string, Breakpoint[]>();
  for (const mover of movers) {
    if (mover.kind === 'follower') continue;
    const node = new MoverNode(mover, build.sampleRate);
    node.follow(strikes, turns);
    const shares: { at: number; share: number }[] = [];
    for (let at = begins; at <= begins + length; at += step) {
      node.reset();
      node.render(at, 1);
      shares.push({ at, share: node.now });
    }
    for (const move of mover.moves) {
      const own = standing(state, move);
      if (!own) continue;
      const known = curves.get(targetOf(move));
      // Of several movers, each moves a value as far from where it was set.
      const points = shares.map(({ at, share }, i) => {
        const value = movedTo(move, own.curve, share);
        return { at, value: known ? known[i].value + value - own.value : value };
      });
      curves.set(targetOf(move), points);
    }
  }
  return curves;
}

/**
 * The changes that lay a build into a scene as what it is: a track for each layer with its effects, all of them into a bus that has the effects of
 * the whole, and what moves values as curves. Of a layer of several sounds it is the one that is heard, of a pass all that were struck.
 * @param at sample of the scene on which its anchor lands; @param order behind which its tracks stand
 */
export function intoScene(
  build: Scene,
  state: Played,
  scene: Scene,
  at: number,
  order: number,
  ids: FreshIds,
): Change[] {
  const [busId, ...trackIds] = ids.tracks;
  const lines = new Map([[MAIN, busId], ...state.tracks.map((t, i): [number, number] => [t.id, trackIds[i]])]);
  const main = state.main ?? { gain: 0 };
  const moved = at - anchorOf(build);
  const curves = curvesOf(build, state);
  const curve = (of: Move['of'], id: number, key: string) =>
    curves.get(`${of} ${id} ${key}`)?.flatMap((p) => (p.at + moved < 0 ? [] : { ...p, at: p.at + moved }));
  /** The curves of a row, where it has any. */
  const pointsOf = (of: Move['of'], id: number, keys: readonly string[]) => {
    const own = keys.flatMap((key) => {
      const points = curve(of, id, key);
      return points?.length ? [[key, points] as const] : [];
    });
    return own.length > 0 ? { points: Object.fromEntries(own) } : {};
  };
  const bus: Track = {
    ...{ id: busId, sceneId: scene.id, order, name: build.name, bus: true, mute: false, solo: false, gain: 0 },
    ...(main.place === undefined ? {} : { place: main.place }),
    ...pointsOf('line', MAIN, ['place']),
  };
  const tracks = state.tracks.map((t, i): Track => {
    const { points: _, struck: _struck, ...plain } = t;
    return {
      ...{
        ...plain,
        id: trackIds[i],
        sceneId: scene.id,
        order: order + 1 + i,
        into: lines.get(t.into ?? MAIN) ?? busId,
      },
      ...pointsOf('line', t.id, ['gain', 'place']),
    };
  });
  const cues = laid(state).map((cue, i) => {
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
      ...pointsOf(
        'effect',
        e.id,
        (effectOf(e.kind)?.params ?? []).map((p) => p.key),
      ),
    };
  });
  // The main line has its gain before its effects, a bus behind them: a limiter would have other work there.
  const gain: LineEffect = {
    ...{ id: ids.effects[known.length], sceneId: scene.id, lineId: busId, order: -1, kind: 'gain', on: true },
    values: { gain: main.gain },
    ...pointsOf('line', MAIN, ['gain']),
  };
  if (main.gain !== 0 || gain.points) effects.unshift(gain);
  return [
    ...[bus, ...tracks].map((t) => additionOf('tracks', t)),
    ...effects.map((e) => additionOf('effects', e)),
    ...cues.map((c) => additionOf('cues', c)),
  ];
}
