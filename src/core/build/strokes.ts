import { MIDDLE } from '@core/effects';
import { clipSpan, type Line, type StruckClip } from '@core/engine';
import { clipOf, heardLines, linesOf, type Cue, type LineEffect, type MainLine, type Track } from '@core/scene';
import type { Layer } from './layers';

/** What a key makes of a build. */
export interface StruckNote {
  /** Frequency over that of the build as it is. */
  ratio: number;
  /** dB */
  gain: number;
}

/** A sound of a layer that a stroke takes, and the cue that it is in the build. */
export interface LayerClip extends StruckClip {
  cue: number;
}

/** Chooses of the sounds of each layer the one that a stroke takes: none again before all the others were. */
export class LayerDealer {
  private readonly used = new Map<number, number[]>();

  /** @param random 0 up to 1 */
  constructor(private readonly random: () => number = Math.random) {}

  next({ track, cues }: Layer): Cue {
    const before = (this.used.get(track.id) ?? []).filter((id) => cues.some((c) => c.id === id));
    const isRound = before.length >= cues.length;
    // Where a new round begins, the last one is not at once the first; of one alone there is no other.
    const out = isRound ? before.slice(-1) : before;
    const free = cues.length === 1 ? cues : cues.filter((c) => !out.includes(c.id));
    const chosen = free[Math.floor(this.random() * free.length)];
    this.used.set(track.id, [...(isRound ? [] : before), chosen.id]);
    return chosen;
  }
}

/** The layers that sound as a key goes down, or as it goes up. */
export const layersOn = (layers: readonly Layer[], key: 'down' | 'up'): Layer[] =>
  layers.filter(({ track }) => (track.struck?.on ?? 'down') === key);

/** Has keys choose of the sounds of each layer: the C in the middle the first, one key after another the next one. */
export const soundsByKey = (key: number): Pick<LayerDealer, 'next'> => ({
  next: ({ cues }) => cues[(((key - MIDDLE) % cues.length) + cues.length) % cues.length],
});

/**
 * What a stroke sounds: one sound of each layer that is heard. The first of them begins at the stroke, and they stand to one another as they do in the build:
 * higher keys run through it faster, as tape does, and the anchors still meet.
 * @param rate Hz of what comes out
 */
export function strokeOf(
  layers: readonly Layer[],
  effects: readonly LineEffect[],
  dealer: Pick<LayerDealer, 'next'>,
  { ratio, gain }: StruckNote,
  rate: number,
): LayerClip[] {
  const heard = heardLines(
    layers.map((l) => l.track),
    effects,
  );
  const chosen = layers
    .filter(({ track }) => heard.has(track.id))
    .map((l) => {
      const cue = dealer.next(l);
      const { voices: most } = l.track.struck ?? {};
      return { line: l.track.id, cue: cue.id, clip: clipOf(cue), ...(most === undefined ? {} : { most }) };
    });
  const faster = chosen.map(({ clip, ...of }) => {
    const shape = { ...clip.shape, speed: clip.shape.speed * ratio };
    return { ...of, clip: { ...clip, shape, at: clip.at / ratio, gain: clip.gain + gain } };
  });
  const first = Math.min(...faster.map(({ clip }) => clipSpan(clip, rate).start));
  return faster.map(({ clip, ...of }) => ({ ...of, clip: { ...clip, at: clip.at - first } }));
}

/** The lines of a build that is played: nothing in them follows a timeline, as there is none. */
export function playedLines(
  tracks: readonly Track[],
  effects: readonly LineEffect[],
  main: MainLine | undefined,
): Map<number, Line> {
  const lines = linesOf({ tracks, effects }, main);
  return new Map(
    [...lines].map(([id, { points: _, ...line }]) => [
      id,
      { ...line, inserts: line.inserts.map(({ points: _points, ...insert }) => insert) },
    ]),
  );
}

/** All that may be struck of a build, for whoever has to load it: as clips, each of its sounds by its cue. */
export const allStruck = (layers: readonly Layer[]): Map<number, StruckClip> =>
  new Map(layers.flatMap(({ track, cues }) => cues.map((cue) => [cue.id, { line: track.id, clip: clipOf(cue) }])));
