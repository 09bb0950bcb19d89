/** A block of samples, one array per channel; how many of them count is told beside it. */
export type Block = readonly Float32Array[];

/** Nodes are asked for at most this many samples at once. */
export const BLOCK = 128;

/** Channels of a mix as it flows: left and right; with a middle; with a middle and two behind. */
export const [PAIR, MIDDLE, AROUND] = [2, 3, 5] as const;

/**
 * What the loudspeaker of a side gets. Left and right are the whole mix for two of them, of which those in the middle and behind play parts: what
 * they play is left out beside. Folded down after ITU-R BS.775 (at -3 dB each) all together are left and right again.
 * @param side 0 left, 1 right; @param i sample
 */
export function fed(block: Block, side: number, i: number): number {
  let value = block[side][i];
  if (block.length > PAIR) value -= block[2][i] * Math.SQRT1_2;
  if (block.length > MIDDLE) value -= block[3 + side][i] * Math.SQRT1_2;
  return value;
}

/** Something that makes samples of samples. It allocates nothing while it does so. */
export interface Node {
  /**
   * Makes the next samples.
   * @param inputs those of the nodes before it; the first may be `out` itself
   * @param at sample of the timeline on which the block begins
   */
  process(inputs: readonly Block[], out: Block, at: number, count: number): void;
  /** Forgets all that went in. */
  reset(): void;
  /** Samples by which what comes out is late. */
  readonly latency: number;
  /** Samples until what went in has died away to -90 dB. */
  readonly tail: number;
  /** By how much it turns down what comes in at the moment, dB; of those that do. */
  readonly reduction?: number;
}

/** A node that is made of a sound, which comes to it in units: until all of it is there, it is silent. */
export interface SoundNode extends Node {
  /** Begins anew with a sound of so many samples; with none, it is made of nothing. */
  begin(frames: number): void;
  /** Samples of the units in which it comes, and how many of them are to come still. */
  readonly unit: number;
  readonly missing: number;
  /** Takes the next unit, silence behind the end. */
  take(planes: Block): void;
}

/** Copies a block, where the two are not one. */
export function copyBlock(from: Block, to: Block, count: number): void {
  for (let c = 0; c < to.length; c++) {
    const [source, target] = [from[c], to[c]];
    if (source === target) continue;
    for (let i = 0; i < count; i++) target[i] = source[i];
  }
}
