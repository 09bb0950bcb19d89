import { FRAME_RATE } from './onsets';

/** A tempo and how sure it is. */
export interface Tempo {
  /** Beats a minute. */
  bpm: number;
  /** 0 to 1: how regularly the onsets return after a beat. */
  confidence: number;
}

const SLOWEST = 50;
const FASTEST = 210;
/** Where a beat lies that hands clap to, when the sound leaves it open. */
const LIKELY = 108;

/** How well a signal repeats after each number of frames, up to `most`: the mean of its products with itself that much later. */
function repeats(flux: Float32Array, most: number): Float64Array {
  const frames = flux.length;
  // Most frames have no onset in them.
  const rising = new Int32Array(frames);
  let count = 0;
  for (let i = 0; i < frames; i++) if (flux[i] > 0) rising[count++] = i;
  const made = new Float64Array(most + 1);
  for (let lag = 0; lag <= most; lag++) {
    let sum = 0;
    for (let k = 0; k < count && rising[k] + lag < frames; k++) sum += flux[rising[k]] * flux[rising[k] + lag];
    made[lag] = sum / (frames - lag);
  }
  return made;
}

/**
 * Tempo from onset strength: the lag at which it repeats best, seen together with its multiples, weighted by how likely a
 * beat of that length is (Ellis, JNMR 2007). A loop holds whole beats, mostly a multiple of four: that makes it exact.
 * @param strength per frame of {@link FRAME_RATE}
 * @param loopLength seconds, if the sound is a loop
 * @returns undefined for sounds of less than 2 s or without a rhythm
 */
export function tempoOf(strength: Float32Array, onsets: number, loopLength?: number): Tempo | undefined {
  const frames = strength.length;
  if (frames < 2 * FRAME_RATE || onsets < 4) return undefined;
  const mean = strength.reduce((sum, s) => sum + s, 0) / frames;
  const flux = strength.map((s) => Math.max(0, s - mean));
  const most = Math.min(frames - 1, Math.ceil((4.2 * 60 * FRAME_RATE) / SLOWEST));
  const repeat = repeats(flux, most);
  // Onsets fall between frames: what repeats a frame earlier or later is the same beat.
  const around = (lag: number) => {
    const i = Math.round(lag);
    return i + 1 > most ? 0 : Math.max(repeat[i], 0.9 * Math.max(repeat[i - 1], repeat[i + 1]));
  };
  const zero = Math.max(1e-9, repeat[0]);
  const score = (bpm: number) => {
    const lag = (60 * FRAME_RATE) / bpm;
    let sum = 0;
    let count = 0;
    for (let k = 1; k <= 4 && k * lag + 1 < Math.min(most, frames * 0.75); k++, count++) sum += around(k * lag);
    return count === 0 ? 0 : sum / count / zero;
  };
  const prior = (bpm: number) => Math.exp(-0.5 * (Math.log2(bpm / LIKELY) / 0.8) ** 2);
  let best = { bpm: 0, value: 0, score: 0 };
  const consider = (bpm: number, bonus = 1) => {
    const s = score(bpm);
    // Cubed, how well a beat fits counts for more than how usual it is.
    const value = s ** 3 * prior(bpm) * bonus;
    if (value > best.value) best = { bpm, value, score: s };
  };
  if (loopLength) {
    for (let beats = 1; beats < 400; beats++) {
      const bpm = (60 * beats) / loopLength;
      if (bpm >= SLOWEST && bpm <= FASTEST) consider(bpm, beats % 4 === 0 ? 1.15 : beats % 2 === 0 ? 1.05 : 1);
    }
  }
  if (best.score < 0.15) for (let bpm = SLOWEST; bpm <= FASTEST; bpm *= 1.004) consider(bpm);
  return best.score < 0.1 ? undefined : { bpm: refine(best.bpm, loopLength), confidence: Math.min(1, best.score) };

  /** Sharpens a tempo at the highest multiple of its beat that still repeats. */
  function refine(bpm: number, exact?: number): number {
    if (exact && Math.abs(((bpm * exact) / 60) % 1) < 1e-6) return bpm;
    let lag = (60 * FRAME_RATE) / bpm;
    for (let k = 1; k * lag + 2 < Math.min(most, frames * 0.75); k++) {
      const near = Math.round(k * lag);
      let top = near;
      for (let i = near - 2; i <= near + 2; i++) if (i > 0 && i < most && repeat[i] > repeat[top]) top = i;
      if (top < 1 || top >= most) break;
      const bend = repeat[top - 1] - 2 * repeat[top] + repeat[top + 1];
      lag = (top + (bend < 0 ? (0.5 * (repeat[top - 1] - repeat[top + 1])) / bend : 0)) / k;
    }
    return (60 * FRAME_RATE) / lag;
  }
}
