/** Seconds of one look at the level. */
const LOOK = 0.01;
/** What stands above the quiet of the room by this much, and is not further below the loudest, is taken for voice. dB. */
const [ABOVE_ROOM, BELOW_TOP] = [9, 34];
/** Seconds kept around it. */
const MARGIN = 0.02;

/**
 * Cuts the stretch out of a recording in which somebody makes a sound: from the first to the last moment that stands clear of
 * the room, at full level. A recording in which nothing does is handed back empty.
 * @param samples mono
 * @param rate Hz
 */
export function voicePart(samples: Float32Array, rate: number): Float32Array {
  const span = Math.max(1, Math.round(rate * LOOK));
  const levels = Array.from({ length: Math.floor(samples.length / span) }, (_, i) => {
    let power = 0;
    for (let s = i * span; s < (i + 1) * span; s++) power += samples[s] ** 2;
    return 10 * Math.log10(power / span + 1e-12);
  });
  const sorted = [...levels].sort((a, b) => a - b);
  const room = sorted[Math.floor(sorted.length * 0.1)] ?? -120;
  const top = sorted[sorted.length - 1] ?? -120;
  if (top < -70) return new Float32Array(0);
  // A recording that is voice from end to end has no quiet to stand out of.
  const least = Math.max(top - BELOW_TOP, Math.min(room + ABOVE_ROOM, top - 12));
  const first = levels.findIndex((l) => l > least);
  const last = levels.findLastIndex((l) => l > least);
  const margin = Math.round(MARGIN * rate);
  const from = Math.max(0, first * span - margin);
  const part = samples.slice(from, Math.min(samples.length, (last + 1) * span + margin));
  const peak = part.reduce((most, s) => Math.max(most, Math.abs(s)), 0) || 1;
  return part.map((s) => s / peak);
}
