type Numbers = Uint8Array | Uint16Array | Uint32Array | Float64Array;

/** An array with room for `size` numbers: the same one while it has that, else a copy that is at least twice as long. */
export function grown<T extends Numbers>(array: T, size: number): T {
  if (size <= array.length) return array;
  const made = new (array.constructor as new (n: number) => T)(Math.max(1024, size, array.length * 2));
  made.set(array as never);
  return made;
}
