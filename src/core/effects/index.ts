/** Effects, each an entry of one registry, and the values by which they are moved. */
import { chorus } from './chorus';
import { compressor } from './compressor';
import { convolution, CONVOLUTION_MOST } from './convolution';
import { delay } from './delay';
import { distance } from './distance';
import type { Effect } from './effect';
import { equaliser } from './equaliser';
import { filter } from './filter';
import { gain } from './gain';
import { gate } from './gate';
import { limiter } from './limiter';
import { reduction } from './reduction';
import { reverb } from './reverb';
import { ring } from './ring';
import { saturation } from './saturation';
import { send } from './send';
import { shift } from './shift';
import { transients } from './transients';
import { vocoder } from './vocoder';
import { width } from './width';
import { Param } from './param';

export { AROUND, BLOCK, copyBlock, fed, MIDDLE, PAIR, type Block, type Node, type SoundNode } from './node';
export { CONVOLUTION_MOST };
export { Convolver } from './convolver';
export { GLIDE, Param, type Breakpoint } from './param';
export { biquad, butterworth, responses, ringing, type Response } from './biquad';
export { airLoss } from './distance';
export { staticGain } from './compressor';
export { bent } from './saturation';
export type { Effect, ParamSpec } from './effect';
export * from './moved';
export * from './movers';

/** All effects: panels, schemas, files and documents derive from it. */
export const effects: readonly Effect[] = [
  ...[equaliser, filter, compressor, limiter, gate, transients, saturation, reduction, ring, vocoder],
  ...[distance, reverb, convolution, delay, chorus, shift, width, gain, send],
];

/** The effect of a kind; undefined for one that is not known here. */
export const effectOf = (kind: string): Effect | undefined => effects.find((e) => e.kind === kind);

/** All values of an effect: those that were kept, within their bounds, and what it begins with for the rest. */
export function valuesFor({ params }: Effect, values: Readonly<Record<string, number>>): Record<string, number> {
  return Object.fromEntries(
    params.map(({ key, least, most, initial }) => {
      const kept = Number.isFinite(values[key]) ? values[key] : initial;
      return [key, Math.max(least, Math.min(most, kept))];
    }),
  );
}

/** The values of an effect as params; see {@link valuesFor}. */
export function paramsFor(
  effect: Effect,
  values: Readonly<Record<string, number>>,
  rate: number,
): Record<string, Param> {
  const all = Object.entries(valuesFor(effect, values));
  return Object.fromEntries(all.map(([key, value]) => [key, new Param(value, rate)]));
}
