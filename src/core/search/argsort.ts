const SIZE = 65536;

/**
 * Sorts slots by keys of one or two 32-bit words, stably: least significant digit first, 16 bits at a time. Words whose
 * bits are the same everywhere cost one look.
 * @param slots in the order that decides between equal keys; sorted in place
 * @param keys words by place in `slots`, the least significant word first
 */
export function argsort(slots: Uint32Array, keys: readonly Uint32Array[]): void {
  const count = slots.length;
  if (count < 2) return;
  let order = new Uint32Array(count);
  let next = new Uint32Array(count);
  for (let i = 0; i < count; i++) order[i] = i;
  const totals = new Uint32Array(SIZE);
  for (const words of keys) {
    for (const shift of [0, 16]) {
      totals.fill(0);
      for (let i = 0; i < count; i++) totals[(words[i] >>> shift) & 0xffff]++;
      if (totals[(words[0] >>> shift) & 0xffff] === count) continue;
      for (let d = 0, at = 0; d < SIZE; d++) {
        const n = totals[d];
        totals[d] = at;
        at += n;
      }
      for (let i = 0; i < count; i++) {
        const from = order[i];
        next[totals[(words[from] >>> shift) & 0xffff]++] = from;
      }
      [order, next] = [next, order];
    }
  }
  for (let i = 0; i < count; i++) next[i] = slots[order[i]];
  slots.set(next);
}

const float = new Float64Array(1);
const bits = new Uint32Array(float.buffer);
const littleEndian = new Uint8Array(Uint32Array.of(1).buffer)[0] === 1;
const [LOW, HIGH] = littleEndian ? [0, 1] : [1, 0];

/** Writes a number into two words whose unsigned order is the order of numbers. */
export function orderedBits(value: number, low: Uint32Array, high: Uint32Array, at: number): void {
  // Adding nothing makes one zero of the two.
  float[0] = value + 0;
  const negative = bits[HIGH] >>> 31 === 1;
  low[at] = negative ? ~bits[LOW] : bits[LOW];
  high[at] = negative ? ~bits[HIGH] : bits[HIGH] | 0x80000000;
}

/** The places of texts in their order by code units, found through their first eight letters. */
export function sortedTexts(texts: readonly string[]): Uint32Array {
  const count = texts.length;
  const order = Uint32Array.from({ length: count }, (_, i) => i);
  const high = new Uint32Array(count);
  const low = new Uint32Array(count);
  for (let i = 0; i < count; i++) {
    for (let c = 0; c < 8; c++) {
      const unit = c < texts[i].length ? texts[i].charCodeAt(c) : 0;
      const words = c < 4 ? high : low;
      words[i] = (words[i] << 8) | Math.min(255, unit);
      // Behind a letter that does not fit, the whole texts decide.
      if (unit < 255) continue;
      const left = c < 4 ? 3 - c : 7 - c;
      if (left > 0) words[i] <<= 8 * left;
      break;
    }
    // Letters that were not looked at leave the later word at nothing; short ones fill up with nothing.
  }
  argsort(order, [low, high]);
  for (let from = 0; from < count;) {
    let to = from + 1;
    const first = order[from];
    while (to < count && high[order[to]] === high[first] && low[order[to]] === low[first]) to++;
    if (to - from > 1) {
      const run = Array.from(order.subarray(from, to));
      run.sort((a, b) => (texts[a] < texts[b] ? -1 : texts[a] > texts[b] ? 1 : a - b));
      order.set(run, from);
    }
    from = to;
  }
  return order;
}
