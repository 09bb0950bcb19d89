/** What the course of a sound's level tells. A fact that does not apply, such as the decay of what never decays, is undefined. */
export interface EnvelopeFacts {
  /** Seconds in which the level rises to its top: from -20 dB to 90 % (attack time as in Peeters 2004, of the amplitude). */
  attack?: number;
  /** Reverberation time T20 after each event, seconds (ISO 3382-1, from -5 to -20 dB); the median of the events. */
  decay?: number;
  /** Clarity C50, dB: the first 50 ms of an event against what follows (ISO 3382-1); the median of the events, at most 40. */
  clarity?: number;
  /** The rate at which the level pulses, Hz, from 0.5 to 20, where it does. */
  pulse?: number;
  /** How deep that pulse goes, 0 to 1. */
  pulseDepth?: number;
  /** Level of the last third against the first, dB. */
  trend?: number;
  /** Standard deviation of the level of 100 ms stretches, dB. */
  unrest?: number;
}

const mean = (values: ArrayLike<number>, from: number, to: number) => {
  let sum = 0;
  for (let i = from; i < to; i++) sum += values[i];
  return sum / Math.max(1, to - from);
};
const db = (power: number) => 10 * Math.log10(power + 1e-14);
const median = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1] as number | undefined;

/** Means over `width` values, one for each place, as far as there are values. */
function smoothed(values: readonly number[], width: number): Float64Array {
  const made = new Float64Array(values.length);
  let sum = 0;
  for (let i = 0; i < values.length; i++) {
    sum += values[i] - (i >= width ? values[i - width] : 0);
    made[i] = sum / Math.min(width, i + 1);
  }
  return made;
}

function attackOf(smooth: Float64Array, span: number): number {
  let peak = 0;
  for (let i = 0; i < smooth.length; i++) if (smooth[i] > smooth[peak]) peak = i;
  let low = peak;
  while (low >= 0 && smooth[low] > smooth[peak] * 0.01) low--;
  let high = low + 1;
  while (smooth[high] < smooth[peak] * 0.81) high++;
  return (high - low) * span;
}

/** The loudest events are looked at, no more than so many. */
const EVENTS = 32;
/** What follows an event has to fall so far, so that a decay is there. */
const FALLS = 10 ** (-18 / 10);

/** Decay and clarity of what follows one onset; undefined where it does not die away before the next. */
function decayOf(energies: readonly number[], from: number, to: number, span: number) {
  let top = from;
  for (let i = from; i < to; i++) if (energies[i] > energies[top]) top = i;
  const end = to - Math.min(5, (to - top) >> 1);
  if (to - top < 8 || mean(energies, end, to) > energies[top] * FALLS) return undefined;
  // Backward integration after Schroeder (1965).
  const left = new Float64Array(to - top + 1);
  for (let i = to - 1; i >= top; i--) left[i - top] = left[i - top + 1] + energies[i];
  const levels = left.map((l) => 10 * Math.log10((l + 1e-30) / left[0]));
  const first = levels.findIndex((l) => l <= -5);
  const last = levels.findIndex((l) => l <= -20);
  const n = last - first + 1;
  let [x, y, xx, xy] = [0, 0, 0, 0];
  for (let i = first; i <= last; i++) {
    x += i;
    y += levels[i];
    xx += i * i;
    xy += i * levels[i];
  }
  const slope = n > 1 ? (n * xy - x * y) / (n * xx - x * x) / span : (levels[last] - levels[last - 1]) / span;
  const early = Math.min(to, from + Math.round(0.05 / span));
  const [before, after] = [mean(energies, from, early) * (early - from), mean(energies, early, to) * (to - early)];
  return {
    level: energies[top],
    decay: -60 / slope,
    clarity: Math.max(-40, Math.min(40, db(before) - db(after))),
  };
}

/** Steps of 20 ms in a stretch that is looked at for pulses, and how many stretches are, at most. */
const [STRETCH, STRETCHES] = [400, 6];
/** Rates that are looked for, Hz. */
const [SLOWEST, FASTEST] = [0.5, 20];

/**
 * The rate at which the level pulses, and the depth, where one rate stands out of all others. In decibels, where what dies away is a
 * straight line, and is taken out as one.
 */
function pulseOf(energies: readonly number[], from: number, to: number, span: number) {
  const step = Math.max(1, Math.round(0.02 / span));
  const levels: number[] = [];
  const floor = db(mean(energies, from, to)) - 30;
  for (let i = from; i + step <= to; i += step) levels.push(Math.max(floor, db(mean(energies, i, i + step))));
  const seconds = step * span;
  if (levels.length * seconds < 1) return undefined;
  const size = Math.min(STRETCH, levels.length);
  const count = Math.min(STRETCHES, Math.ceil(levels.length / size));
  // Half as far apart as a stretch can tell them; less than three turns are no pulse.
  const apart = 1 / (2 * size * seconds);
  const slowest = Math.max(SLOWEST, 6 * apart);
  const rates = Array.from(
    { length: Math.max(0, Math.ceil((FASTEST - slowest) / apart)) },
    (_, i) => slowest + i * apart,
  );
  /** How far the level swings to either side, dB. */
  const depths = new Float64Array(rates.length);
  for (let s = 0; s < count; s++) {
    const begin = count === 1 ? 0 : Math.round((s * (levels.length - size)) / (count - 1));
    const part = levels.slice(begin, begin + size);
    const middle = mean(part, 0, size);
    let tilt = 0;
    let turns = 0;
    for (let i = 0; i < size; i++) {
      tilt += (i - (size - 1) / 2) * part[i];
      turns += (i - (size - 1) / 2) ** 2;
    }
    const windowed = Float64Array.from(part, (level, i) => {
      const flat = level - middle - (tilt / turns) * (i - (size - 1) / 2);
      return flat * (1 - Math.cos((2 * Math.PI * (i + 0.5)) / size));
    });
    rates.forEach((rate, r) => {
      // Goertzel (1958).
      const c = 2 * Math.cos(2 * Math.PI * rate * seconds);
      let a = 0;
      let b = 0;
      for (let i = 0; i < size; i++) {
        const next = windowed[i] + c * a - b;
        b = a;
        a = next;
      }
      depths[r] += (2 * Math.sqrt(Math.max(0, a * a + b * b - c * a * b))) / size / count;
    });
  }
  const best = depths.indexOf(Math.max(...depths));
  const usual = median([...depths]) ?? 0;
  if (!(depths[best] >= 1) || depths[best] < 4 * usual) return undefined;
  const ratio = 10 ** (depths[best] / 10);
  return { pulse: rates[best], pulseDepth: (ratio - 1) / (ratio + 1) };
}

/**
 * What the course of the level tells of a sound.
 * @param energies mean squares of spans, @param span seconds of each
 * @param onsets where events begin, in spans, rising
 */
export function envelopeFacts(energies: readonly number[], span: number, onsets: readonly number[]): EnvelopeFacts {
  let top = 0;
  for (const e of energies) top = Math.max(top, e);
  if (top < 1e-12) return {};
  const head = energies.findIndex((e) => e > top * 1e-6);
  const end = energies.findLastIndex((e) => e > top * 1e-6) + 1;
  const long = (end - head) * span;
  const begins = onsets.length > 0 ? onsets.map((at) => Math.min(end - 1, Math.max(head, at))) : [head];
  const events = begins
    .flatMap((at, i) => decayOf(energies, at, i + 1 < begins.length ? begins[i + 1] : end, span) ?? [])
    .sort((a, b) => b.level - a.level)
    .slice(0, EVENTS);
  const third = Math.floor((end - head) / 3);
  const tenth = Math.round(0.1 / span);
  const levels: number[] = [];
  for (let i = head; i + tenth <= end; i += tenth)
    levels.push(Math.max(db(top) - 60, db(mean(energies, i, i + tenth))));
  const usual = mean(levels, 0, levels.length);
  return {
    attack: attackOf(smoothed(energies, Math.max(1, Math.round(0.01 / span))), span),
    decay: median(events.map((e) => e.decay)),
    clarity: median(events.map((e) => e.clarity)),
    ...pulseOf(energies, head, end, span),
    trend: long < 0.3 ? undefined : db(mean(energies, end - third, end)) - db(mean(energies, head, head + third)),
    unrest:
      levels.length < 5
        ? undefined
        : Math.sqrt(
            mean(
              levels.map((l) => (l - usual) ** 2),
              0,
              levels.length,
            ),
          ),
  };
}
