import type { Energies } from '@core/audio';

/** What a sound does over its time, as far as it matters to where it is lined up. */
export type AnchorKind = 'hit' | 'run' | 'swell' | 'rise' | 'bed' | 'silence';

/** The instant that should land on the picture event. */
export interface SuggestedAnchor {
  /** From the start. */
  frame: number;
  kind: AnchorKind;
}

/** A rise from silence to its peak within this time is a strike; a slower one is a swell. Seconds. */
const STRIKE = 0.08;
/** What is quieter than the loudest by this factor of energy is no part of the sound: 20 dB. */
const PART = 0.01;
/** Smoothed by so much a sound has the course that one hears: seconds. */
const COURSE = 0.3;
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
  if (peak <= 1e-10) return { frame: 0, kind: 'silence' };
  const spans = (seconds: number) => Math.max(1, Math.round((seconds * rate) / span));
  const at = (i: number, kind: AnchorKind): SuggestedAnchor => ({ frame: Math.max(0, i) * span, kind });
  // Of several strikes about as strong as the strongest the first is the one an editor lines up.
  let strike = energies.findIndex((e) => e >= peak * 0.5);
  while (strike + 1 < energies.length && energies[strike + 1] > energies[strike]) strike++;
  const hit = strikeAt(energies, strike, spans(STRIKE));
  const near = smoothed(energies, spans(0.05));
  const loud = near[topOf(near)];
  const first = near.findIndex((e) => e >= loud * PART);
  const last = near.findLastIndex((e) => e >= loud * PART) + 1;
  const begin = energies.findIndex((e) => e >= peak * PART);
  const course = smoothed(energies, Math.min(spans(COURSE), Math.max(1, (last - first) >> 2)));
  const top = topOf(course);
  const length = last - first;
  if (length < spans(SHORT)) return hit === undefined ? at(top, 'swell') : at(hit, 'hit');
  const share = (part: number) => first + Math.round(length * part);
  const height = course[top];
  // The longer a sound is, the plainer its top has to be: wind comes and goes, and is a bed all the same.
  const plain = 9 * Math.max(0, Math.min(1, (length / spans(1) - 4) / 8));
  const under = (from: number, to: number) => dB(mean(course, share(from), share(to)) / height);
  // A hit and its tail: it strikes early, and what comes after is far quieter.
  const early = hit !== undefined && strike <= share(0.25);
  if (early && under(0.5, 1) < -9) return at(hit, 'hit');
  if (top >= share(0.75) && under(0, 0.3) < -9 - plain) {
    // The last instant that is about as loud as the loudest.
    const fine = smoothed(energies, spans(0.02));
    const loudest = fine[topOf(fine)];
    return at(
      fine.findLastIndex((e) => e >= loudest * 0.5),
      'rise',
    );
  }
  if (top > share(0.12) && top < share(0.9) && under(0, 0.15) < -6 - plain && under(0.85, 1) < -6 - plain) {
    return hit !== undefined && dB(energies[strike] / height) > 12 ? at(hit, 'hit') : at(top, 'swell');
  }
  if (hit !== undefined && onsets.length < 3 && under(0.6, 1) < -6) return at(hit, 'hit');
  const start = onsets.find((frame) => frame >= (begin - spans(0.03)) * span);
  return onsets.length >= 3 && start !== undefined && start < share(0.3) * span
    ? { frame: Math.min(start, Math.max(0, begin) * span + Math.round(0.05 * rate)), kind: 'run' }
    : at(begin, 'bed');
}
