import { Random } from '@core/synth';

/** A sine of full scale times `level`. @param frequency Hz */
export function sine(frequency: number, rate: number, frames: number, level = 0.5): Float32Array {
  return Float32Array.from({ length: frames }, (_, i) => level * Math.sin((2 * Math.PI * frequency * i) / rate));
}

/** Silence with single full-scale samples. */
export function clicks(frames: number, at: readonly number[], level = 0.9): Float32Array {
  const out = new Float32Array(frames);
  for (const i of at) out[i] = level;
  return out;
}

/** Root mean square. */
export function rms(x: ArrayLike<number>): number {
  let sum = 0;
  for (let i = 0; i < x.length; i++) sum += x[i] * x[i];
  return Math.sqrt(sum / Math.max(1, x.length));
}

/** The index of the first sample above a level; -1 when there is none. */
export function firstAbove(x: ArrayLike<number>, level: number): number {
  for (let i = 0; i < x.length; i++) if (Math.abs(x[i]) > level) return i;
  return -1;
}

/** The largest difference between two signals. */
export function apart(a: ArrayLike<number>, b: ArrayLike<number>): number {
  let most = 0;
  for (let i = 0; i < Math.max(a.length, b.length); i++) most = Math.max(most, Math.abs((a[i] ?? 0) - (b[i] ?? 0)));
  return most;
}

/** The frequency of a tone by where it crosses zero upward. Hz */
export function crossings(x: ArrayLike<number>, rate: number): number {
  const at: number[] = [];
  for (let i = 1; i < x.length; i++) if (x[i - 1] < 0 && x[i] >= 0) at.push(i - x[i] / (x[i] - x[i - 1]));
  return ((at.length - 1) * rate) / (at[at.length - 1] - at[0]);
}

/** Parts after one another. */
export function joined(...parts: Float32Array[]): Float32Array {
  const out = new Float32Array(parts.reduce((n, p) => n + p.length, 0));
  let at = 0;
  for (const part of parts) {
    out.set(part, at);
    at += part.length;
  }
  return out;
}

/** White noise of a level, the same for the same seed. */
export function noise(frames: number, level = 0.5, seed = 1): Float32Array {
  const random = new Random(seed);
  return Float32Array.from({ length: frames }, () => level * random.noise());
}

/** A decaying hit of noise and a tone. */
export function hit(rate: number, seconds: number, level = 0.8, pitch = 220, seed = 1): Float32Array {
  const random = new Random(seed);
  return Float32Array.from(
    { length: Math.round(rate * seconds) },
    (_, i) =>
      level *
      Math.exp((-12 * i) / rate) *
      (0.6 * Math.sin((2 * Math.PI * pitch * i) / rate) + 0.4 * random.noise() * Math.exp((-60 * i) / rate)),
  );
}

/** Adds a signal into another one. */
export function addAt(into: Float32Array, part: Float32Array, frame: number, gain = 1): void {
  for (let i = 0; i < part.length && frame + i < into.length; i++)
    if (frame + i >= 0) into[frame + i] += gain * part[i];
}

/** How loud one frequency is in a signal, as the amplitude of a sine. */
export function amplitude(x: Float32Array, freq: number, rate = 48_000): number {
  let [re, im, all] = [0, 0, 0];
  for (let i = 0; i < x.length; i++) {
    const window = 0.5 - 0.5 * Math.cos((2 * Math.PI * i) / x.length);
    re += window * x[i] * Math.cos((2 * Math.PI * freq * i) / rate);
    im += window * x[i] * Math.sin((2 * Math.PI * freq * i) / rate);
    all += window;
  }
  return (2 * Math.hypot(re, im)) / all;
}
