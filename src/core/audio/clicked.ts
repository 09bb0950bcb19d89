/** Seconds that are heard before and behind the instant. */
export const AROUND = 0.35;
/** How the click dies away, seconds, and its pitch, Hz. */
const [DECAY, PITCH] = [0.004, 1500];
/** Edges of the excerpt are faded over so much, seconds. */
const EDGE = 0.008;

/**
 * A short excerpt around an instant with a click on it, several times over: whether the two strike as one is heard at once.
 * @param planes one array per channel, from `first` on
 * @param at the instant, in frames of `planes`
 * @returns planes of `times` excerpts, each as long as twice {@link AROUND}
 */
export function againstClick(planes: readonly Float32Array[], at: number, rate: number, times = 3): Float32Array[] {
  const half = Math.round(AROUND * rate);
  const length = 2 * half;
  const edge = Math.round(EDGE * rate);
  let peak = 0;
  for (const plane of planes)
    for (let i = Math.max(0, at - half); i < Math.min(plane.length, at + half); i++)
      peak = Math.max(peak, Math.abs(plane[i]));
  const level = Math.max(0.05, Math.min(0.5, peak * 0.7));
  // Both together stay under full scale.
  const gain = Math.min(1, 0.98 / Math.max(peak + level, 1e-6));
  return planes.map((plane) => {
    const one = new Float32Array(length);
    for (let i = 0; i < length; i++) {
      const x = plane[at - half + i] ?? 0;
      const fade = Math.min(1, i / edge, (length - 1 - i) / edge);
      const t = (i - half) / rate;
      const click = t < 0 ? 0 : level * Math.exp(-t / DECAY) * Math.cos(2 * Math.PI * PITCH * t);
      one[i] = gain * (x * fade + click);
    }
    const all = new Float32Array(length * times);
    for (let n = 0; n < times; n++) all.set(one, n * length);
    return all;
  });
}
