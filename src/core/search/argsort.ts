/** Bits of a digit: with so few, the places that are written to stay in the processor's cache. */
const DIGIT = 11;
const SIZE = 1 << DIGIT;

/**
 * Sorts slots by keys of 32 bits, stably: least significant digit first. Digits that are the same everywhere cost one look.
 * @param slots in the order that decides between equal keys; sorted in place
 * @param keys by place in `slots`; used up
 */
export function argsort(slots: Uint32Array, keys: Uint32Array): void {
  const count = slots.length;
  if (count < 2) return;
  let from: Uint32Array = slots;
  let to: Uint32Array = new Uint32Array(count);
  let keysFrom: Uint32Array = keys;
  let keysTo: Uint32Array = new Uint32Array(count);
  const totals = new Uint32Array(SIZE);
  for (let shift = 0; shift < 32; shift += DIGIT) {
    totals.fill(0);
    for (let i = 0; i < count; i++) totals[(keysFrom[i] >>> shift) & (SIZE - 1)]++;
    if (totals[(keysFrom[0] >>> shift) & (SIZE - 1)] === count) continue;
    for (let d = 0, at = 0; d < SIZE; d++) {
      const n = totals[d];
      totals[d] = at;
      at += n;
    }
    for (let i = 0; i < count; i++) {
      const key = keysFrom[i];
      const at = totals[(key >>> shift) & (SIZE - 1)]++;
      to[at] = from[i];
      keysTo[at] = key;
    }
    [from, to, keysFrom, keysTo] = [to, from, keysTo, keysFrom];
  }
  if (from !== slots) slots.set(from);
}

/** So few numbers are put right one by one. */
const FEW = 16;

/**
 * Sorts slots by numbers, stably.
 * @param values by slot; never NaN for one of these slots
 */
export function argsortNumbers(slots: Uint32Array, values: Float64Array, down: boolean): void {
  const count = slots.length;
  const sign = down ? -1 : 1;
  const singles = new Float32Array(count);
  // Adding nothing makes one zero of the two. The order of single precision is put right below.
  for (let i = 0; i < count; i++) singles[i] = sign * values[slots[i]] + 0;
  const keys = new Uint32Array(singles.buffer);
  for (let i = 0; i < count; i++) keys[i] ^= (keys[i] >> 31) | 0x80000000;
  argsort(slots, keys);
  const sorted = new Float64Array(count);
  for (let i = 0; i < count; i++) sorted[i] = sign * values[slots[i]];
  for (let from = 0; from < count;) {
    const single = Math.fround(sorted[from]);
    let to = from + 1;
    let risen = true;
    for (; to < count && Math.fround(sorted[to]) === single; to++) if (sorted[to] < sorted[to - 1]) risen = false;
    if (!risen && to - from <= FEW)
      for (let i = from + 1; i < to; i++)
        for (let j = i; j > from && sorted[j] < sorted[j - 1]; j--) {
          [sorted[j], sorted[j - 1]] = [sorted[j - 1], sorted[j]];
          [slots[j], slots[j - 1]] = [slots[j - 1], slots[j]];
        }
    else if (!risen) {
      const run = Array.from(slots.subarray(from, to), (slot, i) => ({ slot, i, key: sorted[from + i] }));
      run.sort((a, b) => a.key - b.key || a.i - b.i);
      run.forEach(({ slot }, i) => (slots[from + i] = slot));
    }
    from = to;
  }
}

/** Texts that are looked at before others have a turn. */
const STEP = 8192;

/** The places of texts in their order by code units, found through their first eight letters, in steps of a few milliseconds. */
export function* sortedTexts(texts: readonly string[]): Generator<void, Uint32Array> {
  const count = texts.length;
  const order = Uint32Array.from({ length: count }, (_, i) => i);
  const high = new Uint32Array(count);
  const low = new Uint32Array(count);
  for (let i = 0; i < count; i++) {
    if (i % STEP === STEP - 1) yield;
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
  const lows = low.slice();
  argsort(order, lows);
  argsort(
    order,
    order.map((i) => high[i]),
  );
  for (let from = 0, looked = 0; from < count;) {
    let to = from + 1;
    const first = order[from];
    while (to < count && high[order[to]] === high[first] && low[order[to]] === low[first]) to++;
    if (to - from > 1) {
      const run = Array.from(order.subarray(from, to));
      run.sort((a, b) => (texts[a] < texts[b] ? -1 : texts[a] > texts[b] ? 1 : a - b));
      order.set(run, from);
    }
    from = to;
    if (from - looked > STEP) {
      looked = from;
      yield;
    }
  }
  return order;
}

/** Does all steps at once. @returns what they lead to */
export function allSteps<T>(steps: Generator<void, T>): T {
  for (;;) {
    const { done, value } = steps.next();
    if (done) return value;
  }
}
