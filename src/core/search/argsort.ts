import { argsort } from './sweep';

/** Places of a digit of the sort. */
const SIZE = 2048;
/** So few numbers are put in order one by one. */
const FEW = 16;
/** Steps from the least to the greatest number: two digits of a key, so that numbers are sorted in two rounds. */
const STEPS = SIZE * SIZE - 1;

/** Puts a few slots in order, stably. */
function insertion(slots: Uint32Array, values: Float64Array, sign: number, from: number, to: number): void {
  for (let i = from + 1; i < to; i++) {
    const slot = slots[i];
    const own = sign * values[slot];
    let j = i;
    for (; j > from && sign * values[slots[j - 1]] > own; j--) slots[j] = slots[j - 1];
    slots[j] = slot;
  }
}

/** On which step a number lies; what has no end lies by itself at either end, the least and the greatest of the others next to it. */
function stepOf(value: number, least: number, most: number): number {
  if (value === -Infinity) return 0;
  if (value === Infinity) return STEPS;
  const span = most - least;
  // Of numbers that are too far apart for their distance to be one, halves are compared.
  const share = span < Infinity ? (value - least) / span : (value / 2 - least / 2) / (most / 2 - least / 2);
  return share > 0 ? 1 + Math.floor(share * (STEPS - 2)) : 1;
}

/**
 * Sorts slots by numbers, stably: by the step on which each lies between the least and the greatest, then those of one step
 * among themselves in the same way.
 * @param values by slot; never NaN for one of these slots
 */
export function argsortNumbers(slots: Uint32Array, values: Float64Array, down: boolean): void {
  const count = slots.length;
  const sign = down ? -1 : 1;
  if (count <= FEW) return insertion(slots, values, sign, 0, count);
  // Reading them once is worth the room: they are looked at five times.
  const numbers = new Float64Array(count);
  let [least, most] = [Infinity, -Infinity];
  for (let i = 0; i < count; i++) {
    const value = (numbers[i] = values[slots[i]]);
    if (value < least && value !== -Infinity) least = value;
    if (value > most && value !== Infinity) most = value;
  }
  const keys = new Uint32Array(count);
  for (let i = 0; i < count; i++) {
    const step = stepOf(numbers[i], least, most);
    keys[i] = down ? STEPS - step : step;
  }
  argsort(slots, keys);
  // Only those of one step can stand the wrong way round.
  for (let i = 0; i < count; i++) numbers[i] = values[slots[i]];
  for (let i = 1, end = 0; i < count; i++) {
    if (down ? numbers[i] <= numbers[i - 1] : numbers[i] >= numbers[i - 1]) continue;
    const step = stepOf(numbers[i], least, most);
    let from = i - 1;
    while (from > end && stepOf(numbers[from - 1], least, most) === step) from--;
    for (end = i + 1; end < count && stepOf(numbers[end], least, most) === step;) end++;
    if (end - from <= FEW) insertion(slots, values, sign, from, end);
    else argsortNumbers(slots.subarray(from, end), values, down);
    i = end;
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
