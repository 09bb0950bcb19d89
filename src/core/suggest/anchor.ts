import type { Energies } from '@core/audio';

/** What a sound does over its time, as far as it matters to where it is lined up. */
export type AnchorKind = 'hit' | 'run' | 'swell' | 'rise' | 'bed' | 'silence';

/** The instant that should land on the picture event. */
export interface SuggestedAnchor {
  /** From the start. */
  frame: number;
  kind: AnchorKind;
  /** How likely it is where an editor would put it, 0 to 1. */
  sure: number;
}

/** Why an anchor is where it is, in words. */
export const anchorReasons: Readonly<Record<AnchorKind, string>> = {
  hit: 'a hit: where the strongest strike begins',
  run: 'a run of hits: the first of them',
  swell: 'a swell: where it is loudest',
  rise: 'a rise: where it ends',
  bed: 'goes on without a top: where it begins',
  silence: 'silence',
};

/** How often a suggestion of a kind is right where nothing speaks against it, as measured on sounds whose instants are known. */
const right: Readonly<Record<AnchorKind, number>> = { hit: 1, run: 0.65, swell: 0.65, rise: 0.65, bed: 1, silence: 1 };

/** How sure one is of something that is so from a border on: half at the border, nearly wholly at `wide` beyond it. */
const beyond = (by: number, wide: number): number => 0.5 + 0.5 * Math.max(0, Math.min(1, by / wide));

/** A rise from silence to its peak within this time is a strike; a slower one is a swell. Seconds. */
const STRIKE = 0.08;
/** What is quieter than the loudest by this factor of energy is no part of the sound: 20 dB. */
const PART = 0.01;
/** Smoothed by so much a sound has the course that one hears: seconds. */
const COURSE = 0.3;
/** From the loud parts of a run of hits to the quiet ones between them it falls so far, dB. */
const FALLS = 9;
/** Sounds that last shorter than this are one event. Seconds. */
const SHORT = 0.5;

/** Means over a moving window that is centred. */
function smoothed(energies: readonly number[], width: number): Float64Array {
  const out = new Float64Array(energies.length);
  const half = width >> 1;
  let sum = 0;
  let count = 0;
  for (let i = -half; i < energies.length; i++) {
    if (i + half < energies.length) {
      sum += energies[i + half];
      count++;
    }
    if (i - half - 1 >= 0) {
      sum -= energies[i - half - 1];
      count--;
    }
    if (i >= 0) out[i] = Math.max(0, sum) / count;
  }
  return out;
}

const dB = (ratio: number) => 10 * Math.log10(ratio + 1e-12);

function topOf(values: ArrayLike<number>): number {
  let top = 0;
  for (let i = 1; i < values.length; i++) if (values[i] > values[top]) top = i;
  return top;
}

function mean(values: Float64Array, from: number, to: number): number {
  let sum = 0;
  for (let i = from; i < to; i++) sum += values[i];
  return sum / Math.max(1, to - from);
}

/** Where a strike begins that ends in a peak: where the energy last stood 20 dB under it; undefined when it rises more slowly. */
function strikeAt(energies: readonly number[], peak: number, most: number): number | undefined {
  const back = Math.max(0, peak - most);
  for (let i = peak; i >= back; i--) {
    if (energies[i] < energies[peak] * PART) return i + 1;
    if (i === 0) return 0;
  }
  return undefined;
}

/** How many other strikes are about as strong as the strongest, three at most. @param apart what is nearer belongs to it */
function rivals(energies: readonly number[], strike: number, apart: number): number {
  let count = 0;
  for (let i = 0; i < energies.length && count < 3; i++) {
    if (Math.abs(i - strike) < apart || energies[i] < energies[strike] * 0.4) continue;
    count++;
    i += apart;
  }
  return count;
}

/**
 * Suggests the instant that should land on the picture event: of a hit the onset of the strongest strike, of a run of hits its first
 * onset, of a swell the top of its smoothed loudness, of a rise its end, of a bed its start. Which of these a sound is is told by how
 * its loudness, smoothed over 0.3 s, runs between where it begins and where it ends.
 * @param energy collected over the whole sound
 * @param onsets frames; see `findOnsets`
 */
export function suggestAnchor(energy: Energies, rate: number, onsets: readonly number[] = []): SuggestedAnchor {
  const { energies, span } = energy;
  const peak = energies[topOf(energies)] ?? 0;
  if (peak <= 1e-10) return { frame: 0, kind: 'silence', sure: 1 };
  const spans = (seconds: number) => Math.max(1, Math.round((seconds * rate) / span));
  const at = (i: number, kind: AnchorKind, sure: number): SuggestedAnchor => ({
    frame: Math.max(0, i) * span,
    kind,
    sure: Math.round(100 * right[kind] * Math.max(0.05, Math.min(0.99, sure))) / 100,
  });
  // Of several strikes about as strong as the strongest the first is the one an editor lines up.
  let strike = energies.findIndex((e) => e >= peak * 0.5);
  while (strike + 1 < energies.length && energies[strike + 1] > energies[strike]) strike++;
  const hit = strikeAt(energies, strike, spans(STRIKE));
  const near = smoothed(energies, spans(0.05));
  const loud = near[topOf(near)];
  const first = near.findIndex((e) => e >= loud * PART);
  const last = near.findLastIndex((e) => e >= loud * PART) + 1;
  const begin = energies.findIndex((e) => e >= peak * PART);
  const heard = energies.findIndex((e) => e >= peak * PART * PART);
  const course = smoothed(energies, Math.min(spans(COURSE), Math.max(1, (last - first) >> 2)));
  const top = topOf(course);
  const length = last - first;
  const alone = hit === undefined ? 0 : 0.98 - 0.12 * rivals(energies, strike, spans(0.15));
  if (length < spans(SHORT)) return hit === undefined ? at(top, 'swell', 0.5) : at(hit, 'hit', alone);
  const share = (part: number) => first + Math.round(length * part);
  const height = course[top];
  // The longer a sound is, the plainer its top has to be: wind comes and goes, and is a bed all the same.
  const plain = 9 * Math.max(0, Math.min(1, (length / spans(1) - 4) / 8));
  const under = (from: number, to: number) => dB(mean(course, share(from), share(to)) / height);
  // A hit and its tail: it strikes early, and what comes after is far quieter.
  const early = hit !== undefined && strike <= share(0.25);
  if (early && under(0.5, 1) < -9) return at(hit, 'hit', Math.min(alone, beyond(-9 - under(0.5, 1), 8)));
  if (top >= share(0.75) && under(0, 0.3) < -9 - plain) {
    // The last instant that is about as loud as the loudest.
    const fine = smoothed(energies, spans(0.02));
    const loudest = fine[topOf(fine)];
    return at(
      fine.findLastIndex((e) => e >= loudest * 0.5),
      'rise',
      beyond(-9 - plain - under(0, 0.3), 6),
    );
  }
  if (top > share(0.12) && top < share(0.9) && under(0, 0.15) < -6 - plain && under(0.85, 1) < -6 - plain) {
    const clear = Math.min(beyond(-6 - plain - under(0, 0.15), 8), beyond(-6 - plain - under(0.85, 1), 8));
    const above = dB(energies[strike] / height) - 12;
    return hit !== undefined && above > 0
      ? at(hit, 'hit', Math.min(alone, beyond(above, 6)))
      : at(top, 'swell', hit === undefined ? clear : Math.min(clear, beyond(-above, 6)));
  }
  if (hit !== undefined && onsets.length < 3 && under(0.6, 1) < -6) return at(hit, 'hit', 0.9 * alone);
  const start = onsets.find((frame) => frame >= (begin - spans(0.03)) * span);
  // Rain and wind have onsets, too, but nothing between them: what never falls silent is no run of hits.
  const step = Math.max(1, Math.floor(length / 20_000));
  const parts = near
    .slice(first, last)
    .filter((_, i) => i % step === 0)
    .sort();
  const falls = dB(parts[Math.floor(parts.length * 0.95)] / parts[Math.floor(parts.length * 0.2)]);
  return onsets.length >= 3 && falls > FALLS && start !== undefined && start < share(0.3) * span
    ? {
        ...at(0, 'run', Math.min(beyond(onsets.length - 3, 4), beyond(falls - FALLS, 6))),
        frame: Math.min(start, Math.max(0, begin) * span + Math.round(0.05 * rate)),
      }
    : at(heard, 'bed', hit !== undefined && onsets.length < 8 ? 0.4 : beyond(length / spans(1) - 3, 6));
}
