/** What the ear compares sounds by, measured from their audio. */
export interface Heard {
  /** Hz. */
  rate: number;
  /** A contour, see `Peaks`: frames a span, and lowest and highest of each. */
  span: number;
  pairs: Int8Array;
  /** Mean level of 48 bands that are equally wide to the ear, dB. */
  spectrum: Float32Array;
  /** Frames from the start. */
  onsets: ArrayLike<number>;
  /** Wiener entropy, 0 tone-like to 1 noise-like. */
  noisiness?: number;
  /** Hz, and how sure it is, 0 to 1. */
  pitch?: number;
  pitchSure?: number;
}

const BANDS = 16;
/** Beats a second of which each number says how strong the level moves about there: slow swells to the roughness of a rattle. */
const PULSES = [0.7, 1.4, 2.8, 5.6, 11, 22];
/** Seconds from the onset at which the envelope is looked at. */
const MOMENTS = [0.01, 0.02, 0.04, 0.08, 0.16, 0.32, 0.64, 1.28, 2.56, 5.12];
const parts = {
  timbre: BANDS,
  envelope: MOMENTS.length,
  pulses: PULSES.length,
  evenness: 1,
  tone: 1,
  attack: 1,
  length: 1,
  density: 1,
  noise: 1,
  brightness: 1,
  pitch: 1,
};
type Part = keyof typeof parts;

/** Where each part of a vector begins. */
const starts = Object.fromEntries(
  Object.keys(parts).map((name, i) => [
    name,
    Object.values(parts)
      .slice(0, i)
      .reduce((sum, n) => sum + n, 0),
  ]),
) as Record<Part, number>;

/** Rises when vectors are made differently: those of an older one are not compared. */
export const LIKENESS_VERSION = 2;

/** Numbers in the vector of a sound: a multiple of eight. */
export const LIKENESS_SIZE = Object.values(parts).reduce((sum, n) => sum + n, 0);

/** A step of a vector is this much of what one just notices; limits keep any one number from deciding alone. */
const SCALE = 12;
const LENGTH_WEIGHT = 1.1;
const clamped = (value: number) => Math.max(-127, Math.min(127, Math.round(value)));
const log2 = (value: number) => Math.log2(Math.max(value, 1e-6));
const db = (share: number) => 20 * Math.log10(Math.max(share, 1e-4));

/** Highest magnitude of each span, 0 to 1. */
function levels({ pairs }: Heard): Float32Array {
  const out = new Float32Array(pairs.length >> 1);
  for (let i = 0; i < out.length; i++) out[i] = Math.max(-pairs[2 * i], pairs[2 * i + 1]) / 127;
  return out;
}

/**
 * How strongly the level moves at each of some rates: the level in dB, meaned over a quarter of a beat, compared half a beat apart.
 * In units of 6 dB.
 */
function pulsesOf(level: Float32Array, begin: number, end: number, seconds: number): number[] {
  const loud = Float32Array.from(level.subarray(begin, end + 1), (l) => Math.max(-40, db(l)));
  const sums = new Float64Array(loud.length + 1);
  loud.forEach((l, i) => (sums[i + 1] = sums[i] + l));
  const mean = (from: number, to: number) => (sums[to] - sums[from]) / (to - from);
  return PULSES.map((rate) => {
    const half = Math.max(1, Math.round(0.5 / rate / seconds));
    const width = Math.max(1, half >> 1);
    if (loud.length < 3 * half) return 0;
    let total = 0;
    let count = 0;
    for (let i = 0; i + half + width <= loud.length; i += width) {
      total += Math.abs(mean(i, i + width) - mean(i + half, i + half + width));
      count++;
    }
    return total / count / 6;
  });
}

/**
 * The vector of a sound for {@link nearest}: spectrum, envelope from the first onset on, how the level pulses, evenness, tone, attack, length, density, noise, brightness
 * and pitch, each in steps of about what one just notices, so that their distances add up. Level does not count.
 */
export function likenessOf(heard: Heard): Int8Array {
  const vector = new Int8Array(LIKENESS_SIZE);
  const put = (part: Part, i: number, value: number, weight: number) => {
    vector[starts[part] + i] = clamped(value * weight * SCALE);
  };
  const { spectrum, rate, span } = heard;
  const each = spectrum.length / BANDS;
  const bands = Array.from({ length: BANDS }, (_, b) => {
    let power = 0;
    for (let i = 0; i < each; i++) power += 10 ** (spectrum[b * each + i] / 10);
    return 10 * Math.log10(Math.max(power / each, 1e-12));
  });
  const loudest = Math.max(...bands);
  const held = bands.map((b) => Math.max(-60, b - loudest));
  const middle = held.reduce((sum, b) => sum + b, 0) / BANDS;
  held.forEach((b, i) => put('timbre', i, (b - middle) / 12, 1.3));

  const level = levels(heard);
  const hasTone = heard.pitch !== undefined && (heard.pitchSure ?? 0) > 0.5;
  const top = level.reduce((most, l) => Math.max(most, l), 0) || 1;
  const begin = Math.max(
    0,
    level.findIndex((l) => l > top * 0.05),
  );
  const end = level.findLastIndex((l) => l > top * 0.02);
  const seconds = (spans: number) => (spans * span) / rate;
  const peak = level.findIndex((l) => l > top * 0.7);
  MOMENTS.forEach((moment, i) => {
    const from = begin + Math.floor(((moment / 1.5) * rate) / span);
    const to = Math.max(from + 1, begin + Math.ceil((moment * 1.5 * rate) / span));
    let most = 0;
    for (let s = from; s < Math.min(to, level.length); s++) most = Math.max(most, level[s]);
    put('envelope', i, Math.max(-48, db(most / top)) / 16, 0.6);
  });
  const length = Math.max(0.02, seconds(end - begin + 1));
  pulsesOf(level, begin, end, span / rate).forEach((strength, i) => put('pulses', i, strength, 1));
  let loud = 0;
  for (let s = begin; s <= end; s++) if (level[s] > top * 0.25) loud++;
  put('evenness', 0, loud / Math.max(1, end - begin + 1), 2);
  put('tone', 0, hasTone ? heard.pitchSure! : 0, 1.5);
  put('attack', 0, log2(0.002 + seconds(Math.max(0, peak - begin))), 0.35);
  put('length', 0, log2(length), LENGTH_WEIGHT);
  put('density', 0, log2(0.25 + heard.onsets.length / length), 0.6);
  put('noise', 0, heard.noisiness ?? 0.5, 4);
  const powers = held.map((b) => 10 ** (b / 10));
  const total = powers.reduce((sum, p) => sum + p, 0);
  put('brightness', 0, powers.reduce((sum, p, i) => sum + p * i, 0) / total, 0.45);
  put('pitch', 0, hasTone ? log2(heard.pitch! / 200) : 0, 0.8 * (heard.pitchSure ?? 0));
  return vector;
}

/** How much each number of a vector counts, for sounds done with the voice. */
export type Weights = Float32Array;

/**
 * What counts when a sound is done with the voice: its course in time above all, and how rough and how bright it is. A voice has its own
 * pitch, and formants where the sound has its timbre: of those only the coarse shape is compared.
 */
export const voiceWeights: Weights = (() => {
  const weights = new Float32Array(LIKENESS_SIZE);
  const of: Record<Part, number> = {
    timbre: 0.12,
    envelope: 1,
    pulses: 1.6,
    evenness: 1,
    tone: 1,
    attack: 0.8,
    length: 1,
    density: 1,
    noise: 0.6,
    brightness: 0.25,
    pitch: 0,
  };
  for (const part of Object.keys(parts) as Part[]) weights.fill(of[part], starts[part], starts[part] + parts[part]);
  return weights;
})();

/** From this length on nobody goes on with the voice for as long as the sound does: any longer one is as good. Seconds. */
const LONG_BREATH = 2;

/** Squared distance of a sound to one that is done with the voice. */
function weighted(a: Int8Array, b: Int8Array, from: number, weights: Weights): number {
  let sum = 0;
  let [pulsesA, pulsesB] = [0, 0];
  for (let i = starts.pulses; i < starts.pulses + parts.pulses; i++) {
    pulsesA += a[i];
    pulsesB += b[from + i];
  }
  // A mouth close to the microphone makes deeper pauses than any machine in a room: what counts is at which rates it beats.
  const deep = pulsesA > 0 ? Math.max(0.3, Math.min(1, pulsesB / pulsesA)) : 1;
  for (let i = 0; i < LIKENESS_SIZE; i++) {
    const own = i >= starts.pulses && i < starts.pulses + parts.pulses ? a[i] * deep : a[i];
    sum += weights[i] * (own - b[from + i]) ** 2;
  }
  const length = starts.length;
  const breath = a[length] >= log2(LONG_BREATH) * LENGTH_WEIGHT * SCALE && b[from + length] > a[length];
  return breath ? sum - weights[length] * (a[length] - b[from + length]) ** 2 : sum;
}

/** Squared distance of two vectors, given up once it is beyond `most`. Written out eight at a time: it is what takes the time. */
function distance(a: Int8Array, b: Int8Array, from: number, most: number): number {
  let sum = 0;
  for (let i = 0; i < LIKENESS_SIZE; i += 8) {
    const at = from + i;
    const d0 = a[i] - b[at];
    const d1 = a[i + 1] - b[at + 1];
    const d2 = a[i + 2] - b[at + 2];
    const d3 = a[i + 3] - b[at + 3];
    const d4 = a[i + 4] - b[at + 4];
    const d5 = a[i + 5] - b[at + 5];
    const d6 = a[i + 6] - b[at + 6];
    const d7 = a[i + 7] - b[at + 7];
    sum += d0 * d0 + d1 * d1 + d2 * d2 + d3 * d3 + d4 * d4 + d5 * d5 + d6 * d6 + d7 * d7;
    if (sum > most) return sum;
  }
  return sum;
}

/**
 * The slots whose vectors lie nearest to one, nearest first.
 * @param vectors of all slots, one after another
 * @param among the slots to look at
 * @param weights all numbers count alike when absent
 */
export function nearest(
  vector: Int8Array,
  vectors: Int8Array,
  among: Uint32Array,
  most: number,
  weights?: Weights,
): Uint32Array {
  const slots = new Uint32Array(most);
  const far = new Float64Array(most).fill(Infinity);
  let count = 0;
  for (let i = 0; i < among.length; i++) {
    const from = among[i] * LIKENESS_SIZE;
    const d = weights ? weighted(vector, vectors, from, weights) : distance(vector, vectors, from, far[most - 1]);
    if (d >= far[most - 1]) continue;
    let at = Math.min(count, most - 1);
    // Later ones of the same distance stand behind.
    for (; at > 0 && far[at - 1] > d; at--) {
      far[at] = far[at - 1];
      slots[at] = slots[at - 1];
    }
    far[at] = d;
    slots[at] = among[i];
    count = Math.min(most, count + 1);
  }
  return slots.slice(0, count);
}

const worded: readonly [Part, string, string][] = [
  ['brightness', 'darker', 'brighter'],
  ['length', 'shorter', 'longer'],
  ['attack', 'quicker attack', 'slower attack'],
  ['density', 'fewer hits', 'more hits'],
  ['noise', 'more tonal', 'noisier'],
  ['pitch', 'lower', 'higher'],
];

/** In what a sound differs from another, in words, the most striking first; empty where nothing strikes. */
export function differencesHeard(from: Int8Array, to: Int8Array): string[] {
  return worded
    .map(([part, less, more]) => ({ by: to[starts[part]] - from[starts[part]], less, more }))
    .filter(({ by }) => Math.abs(by) >= SCALE * 0.75)
    .sort((a, b) => Math.abs(b.by) - Math.abs(a.by))
    .slice(0, 3)
    .map(({ by, less, more }) => (by < 0 ? less : more));
}
