/**
 * Adds noise of triangular distribution, two steps wide, so that rounding to whole steps leaves noise instead of distortion
 * (Lipshitz, Wannamaker, Vanderkooy, "Quantization and Dither", 1992). The same samples get the same noise every time.
 * @param bits to which the samples are going to be rounded
 */
export function dithered(planes: readonly Float32Array[], bits: number): Float32Array[] {
  const step = 2 ** (1 - bits);
  let state = 0x9e3779b9;
  const next = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) / 2 ** 32;
  };
  return planes.map((plane) => plane.map((x) => x + (next() - next()) * step));
}
