import { BLOCK, effectOf, paramsFor, type Block, type SoundNode } from '@core/effects';
import { apart, noise } from './signals';

/** What comes out of an effect. */
export interface Passed {
  planes: [Float32Array, Float32Array];
  /** Samples by which it is late. */
  latency: number;
  tail: number;
  /** The most that it turned down, dB. */
  reduction: number;
}

/** Hands an effect the whole of the sound that it is made of. */
export function answering(node: SoundNode, [left, right]: Block): void {
  node.begin(left.length);
  const unit = (plane: Float32Array, at: number) => {
    const part = new Float32Array(node.unit);
    part.set(plane.subarray(at, at + node.unit));
    return part;
  };
  for (let at = 0; node.missing > 0; at += node.unit) node.take([unit(left, at), unit(right, at)]);
  node.reset();
}

/** A recorded echo, as it might be: noise that dies away. */
export const echo = (frames: number, seed = 1): Float32Array =>
  noise(frames, 0.5, seed).map((x, i) => x * Math.exp((-6 * i) / frames));

/** Runs a signal through an effect. @param heard what it listens to instead, where it does */
export function run(
  kind: string,
  values: Record<string, number>,
  input: readonly [Float32Array, Float32Array],
  rate = 48_000,
  heard?: readonly [Float32Array, Float32Array],
): Passed {
  const effect = effectOf(kind)!;
  const node = effect.make(rate, paramsFor(effect, values, rate));
  if (effect.madeOf) {
    const own = echo(6000);
    answering(node as SoundNode, [own, own]);
  }
  const planes: [Float32Array, Float32Array] = [input[0].slice(), input[1].slice()];
  const block = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  const key = [new Float32Array(BLOCK), new Float32Array(BLOCK)];
  let reduction = 0;
  for (let at = 0; at < planes[0].length; at += BLOCK) {
    const count = Math.min(BLOCK, planes[0].length - at);
    planes.forEach((plane, c) => block[c].set(plane.subarray(at, at + count)));
    heard?.forEach((plane, c) => key[c].set(plane.subarray(at, at + count)));
    node.process(heard ? [block, key] : [block], block, at, count);
    planes.forEach((plane, c) => plane.set(block[c].subarray(0, count), at));
    reduction = Math.min(reduction, node.reduction ?? 0);
  }
  return { planes, latency: node.latency, tail: node.tail, reduction };
}

/** Effects whose place answers left and right each in its own way. */
const spatial = new Set(['reverb', 'distance', 'chorus']);

/** Runs a signal through an effect, left and right alike; what is late comes at its time. */
export function through(
  kind: string,
  values: Record<string, number>,
  plane: Float32Array,
  rate = 48_000,
): Float32Array {
  const late = run(kind, values, [plane, plane], rate).latency;
  const longer = new Float32Array(plane.length + late);
  longer.set(plane);
  const { planes } = run(kind, values, [longer, longer], rate);
  if (!spatial.has(kind)) expect(apart(planes[1], planes[0])).toBe(0);
  return planes[0].slice(late);
}
