type Numbers = Uint8Array | Uint16Array | Uint32Array | Float64Array;

/** From here on room grows by a quarter at a time: what is copied more often is less than what would lie empty. */
const LARGE = 65_536;

/** Room for what is to hold `size` when it holds `now`, with some to spare. */
export const roomFor = (size: number, now: number): number =>
  Math.max(1024, size, now < LARGE ? now * 2 : Math.ceil(now * 1.25));

/** An array with room for `size` numbers: the same one while it has that, else a longer copy. */
export function grown<T extends Numbers>(array: T, size: number): T {
  if (size <= array.length) return array;
  const made = new (array.constructor as new (n: number) => T)(roomFor(size, array.length));
  made.set(array as never);
  return made;
}
