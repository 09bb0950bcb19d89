import { fullShape } from '@core/audio';
import { effectOf, type ParamSpec } from '@core/effects';
import type { StruckClip } from '@core/engine';
import type { Cue, Scene, SceneState, ValueRange } from '@core/scene';

/** What of a layer may be left to chance, each beside where it stands; effects' values are in their registry. */
export const layerRanges: Readonly<Record<string, Pick<ParamSpec, 'label' | 'unit' | 'least' | 'most'>>> = {
  pitch: { label: 'Pitch', unit: '', least: -24, most: 24 },
  later: { label: 'Time', unit: 'ms', least: -2000, most: 2000 },
  gain: { label: 'Level', unit: 'dB', least: -24, most: 12 },
};

const between = ({ least, most }: ValueRange, random: () => number) => least + (most - least) * random();

/** What chance makes of each value that is left to it, by the row and the key. */
function thrown(ranges: readonly ValueRange[], of: ValueRange['of'], random: () => number) {
  const rows = new Map<number, Record<string, number>>();
  for (const range of ranges)
    if (range.of === of) rows.set(range.id, { ...rows.get(range.id), [range.key]: between(range, random) });
  return rows;
}

/**
 * A build whose values that are left to chance stand somewhere within their ranges, and whose layers are heard with any of their sounds: one of its variations.
 * @param random 0 up to 1
 */
export function rolled(
  build: Scene,
  state: SceneState,
  ranges: readonly ValueRange[],
  random: () => number,
): SceneState {
  const layers = thrown(ranges, 'layer', random);
  const effects = thrown(ranges, 'effect', random);
  const own = new Map<number, Cue[]>();
  for (const cue of state.cues) own.set(cue.trackId, [...(own.get(cue.trackId) ?? []), cue]);
  const first = new Map([...own].map(([track, cues]) => [track, cues[Math.floor(random() * cues.length)].id]));
  return {
    ...state,
    tracks: state.tracks.map((t) => ({ ...t, gain: t.gain + (layers.get(t.id)?.gain ?? 0) })),
    cues: state.cues.map((cue) => {
      const { pitch = 0, later = 0 } = layers.get(cue.trackId) ?? {};
      const speed = fullShape(cue.shape).speed * 2 ** (pitch / 12);
      return {
        ...cue,
        ...{ mute: cue.id !== first.get(cue.trackId), at: cue.at + Math.round((later / 1000) * build.sampleRate) },
        ...(pitch === 0 ? {} : { shape: { ...cue.shape, speed } }),
      };
    }),
    effects: (state.effects ?? []).map((e) => {
      const values = effects.get(e.id);
      const known = new Set(effectOf(e.kind)?.params.map((p) => p.key));
      const kept = Object.entries(values ?? {}).filter(([key]) => known.has(key));
      return kept.length > 0 ? { ...e, values: { ...e.values, ...Object.fromEntries(kept) } } : e;
    }),
  };
}

/** A stroke with what of its layers is left to chance. Its effects are those of the build: strokes share them. @param rate Hz of what comes out */
export function rolledStroke<T extends StruckClip>(
  struck: readonly T[],
  ranges: readonly ValueRange[],
  random: () => number,
  rate: number,
): T[] {
  const layers = thrown(ranges, 'layer', random);
  return struck.map((of) => {
    const { clip } = of;
    const { pitch = 0, later = 0, gain = 0 } = layers.get(of.line) ?? {};
    const shape = { ...clip.shape, speed: clip.shape.speed * 2 ** (pitch / 12) };
    return { ...of, clip: { ...clip, shape, at: clip.at + (later / 1000) * rate, gain: clip.gain + gain } };
  });
}

/** How many numbers of a vector of likeness make one step that one just notices. */
const STEP = 12;

/** How far apart two sounds are to the ear: in steps that one just notices. @param a and b see `likenessOf` */
export function noticed(a: Int8Array, b: Int8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += (a[i] - b[i]) ** 2;
  return Math.sqrt(sum) / STEP;
}
