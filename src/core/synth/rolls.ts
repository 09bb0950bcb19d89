import { TruePeakMeter } from '@core/audio';
import { exp2, log, pow } from './exact';
import type { Settings } from './family';
import { held } from './generators';
import { patches, type Patch, type PatchName, type PatchValue } from './patches';
import { Random, seedOf } from './random';
import type { Rendered } from './render';

/** A sound that is made from nothing: its family, its numbers, and the chance in it. The same roll is the same samples everywhere. */
export interface Roll {
  family: PatchName;
  /** Of the chance in the sound itself: a whole number below 2^32. */
  seed: number;
  values: Settings;
}

/** Seconds in which whatever still sounds at the end goes out, so that it does not click. */
const END = 0.006;
/** True peak of what is made, dBTP. */
const TOP = -1;

const TENS = [1, 10, 100];
const log2 = (x: number) => log(x) * Math.LOG2E;

/** Where in its range a number is, 0 to 1. */
export function shareOf({ from, to, byRatio }: PatchValue, value: number): number {
  return byRatio ? log2(value / from) / log2(to / from) : (value - from) / (to - from);
}

/** The number at a place of its range, with as many digits as it is shown with. @param share 0 to 1 */
export function valueAt({ from, to, byRatio, digits = 0 }: PatchValue, share: number): number {
  const x = Math.max(0, Math.min(1, share));
  const value = byRatio ? from * exp2(x * log2(to / from)) : from + (to - from) * x;
  const steps = TENS[digits];
  return Math.max(from, Math.min(to, Math.floor(value * steps + 0.5) / steps));
}

/** A roll of a family. @param locked numbers that stay as they are */
export function rollOf(family: PatchName, seed: number, locked: Settings = {}): Roll {
  const random = new Random(seed);
  const values = Object.fromEntries(
    (patches[family] as Patch).values.map((v) => {
      // Drawn for locked ones, too: locking one leaves what chance gives the others.
      const drawn = valueAt(v, random.next());
      return [v.key, locked[v.key] ?? drawn];
    }),
  );
  return { family, seed: seed >>> 0, values };
}

/** So many rolls of a family. */
export function rollsOf(family: PatchName, count: number, seed: number, locked: Settings = {}): Roll[] {
  return Array.from({ length: count }, (_, i) => rollOf(family, seedOf(`${family} ${seed} ${i}`), locked));
}

/** A sound between two of one family: each number somewhere between theirs, the chance in it that of either. */
export function between(a: Roll, b: Roll, seed: number): Roll {
  const random = new Random(seed);
  const values = Object.fromEntries(
    (patches[a.family] as Patch).values.map((v) => {
      const [one, other] = [a, b].map((r) => shareOf(v, r.values[v.key]));
      return [v.key, valueAt(v, one + (other - one) * random.next())];
    }),
  );
  return { family: a.family, seed: random.next() < 0.5 ? a.seed : b.seed, values };
}

/** So many sounds between two. */
export const manyBetween = (a: Roll, b: Roll, count: number, seed: number): Roll[] =>
  Array.from({ length: count }, (_, i) => between(a, b, seedOf(`between ${seed} ${i}`)));

/** The same sound with one number turned; held within its range. */
export function turned(roll: Roll, key: string, value: number): Roll {
  const spec = (patches[roll.family] as Patch).values.find((v) => v.key === key);
  if (!spec) return roll;
  return { ...roll, values: { ...roll.values, [key]: valueAt(spec, shareOf(spec, Math.max(spec.from, value))) } };
}

/**
 * A roll as it was written somewhere, each number held within its range and what is missing set to the middle of it;
 * undefined where there is no such family.
 */
export function rollFrom(written: { family: string; seed: number; values: Settings }): Roll | undefined {
  if (!Object.hasOwn(patches, written.family)) return undefined;
  const family = written.family as PatchName;
  const values = Object.fromEntries(
    (patches[family] as Patch).values.map((v) => {
      const value = written.values[v.key];
      return [v.key, Number.isFinite(value) ? valueAt(v, shareOf(v, Math.max(v.from, value))) : valueAt(v, 0.5)];
    }),
  );
  return { family, seed: written.seed >>> 0, values };
}

/** Makes the sound of a roll: stereo, exactly as long as it says, its true peak at -1 dBTP. @param rate Hz */
export function renderRoll(roll: Roll, rate: number): Rendered {
  const { length, ...settings } = roll.values;
  const random = new Random(roll.seed);
  const sketch = (patches[roll.family] as Patch).make({ random, rate, seconds: length }, settings);
  const planes = sketch.dry;
  for (const plane of planes)
    for (let i = Math.max(0, plane.length - Math.round(END * rate)); i < plane.length; i++)
      plane[i] *= held(i / rate, length, 0, END);
  const meter = new TruePeakMeter(rate, planes.length);
  meter.push(planes);
  // A hundredth of a decibel above what was measured: the last digits of a measurement differ between engines, those of the gain do not.
  const peak = meter.done();
  const gain = Number.isFinite(peak) ? pow(10, (TOP - Math.ceil(peak * 100) / 100) / 20) : 0;
  for (const plane of planes) for (let i = 0; i < plane.length; i++) plane[i] *= gain;
  const last = length - 1 / rate;
  return {
    planes,
    events: sketch.events.filter((e) => e < length),
    anchor: Math.max(0, Math.min(last, sketch.anchor ?? sketch.events[0] ?? 0)),
  };
}
