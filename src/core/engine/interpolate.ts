/** Taps on either side of a position. */
export const REACH = 16;
const PHASES = 512;

/** Modified Bessel function of the first kind, order 0, by its series. */
function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > sum * 1e-12; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/** A windowed-sinc kernel (Kaiser, beta 9) for each of 512 places between two frames; rows sum to one. */
function makeKernel(cutoff: number): Float32Array {
  const width = 2 * REACH;
  const kernel = new Float32Array((PHASES + 1) * width);
  const beta = 9;
  for (let phase = 0; phase <= PHASES; phase++) {
    let sum = 0;
    for (let tap = 0; tap < width; tap++) {
      const x = tap - REACH + 1 - phase / PHASES;
      const window = Math.abs(x) >= REACH ? 0 : bessel(beta * Math.sqrt(1 - (x / REACH) ** 2)) / bessel(beta);
      const sinc = x === 0 ? 1 : Math.sin(Math.PI * cutoff * x) / (Math.PI * cutoff * x);
      sum += kernel[phase * width + tap] = sinc * window;
    }
    for (let tap = 0; tap < width; tap++) kernel[phase * width + tap] /= sum;
  }
  return kernel;
}

const kernels = new Map<number, Float32Array>();

/** The kernel for reading with this step; narrower than the band when several frames are passed at once. */
export function kernelFor(step: number): Float32Array {
  const cutoff = Math.round(Math.min(1, 1 / Math.abs(step)) * 0.97 * 64) / 64;
  let kernel = kernels.get(cutoff);
  if (!kernel) kernels.set(cutoff, (kernel = makeKernel(cutoff)));
  return kernel;
}

/**
 * Reads samples at fractional positions.
 * @param source frames; `source[i]` is the frame `base + i`
 * @param position of the first output, in frames of the source; `REACH` frames on either side must be in `source`
 * @param step frames per output sample
 */
export function interpolate(
  source: Float32Array,
  base: number,
  position: number,
  step: number,
  out: Float32Array,
  count: number,
): void {
  if (step === 1 && Number.isInteger(position)) {
    out.set(source.subarray(position - base, position - base + count));
    return;
  }
  const kernel = kernelFor(step);
  const width = 2 * REACH;
  for (let i = 0; i < count; i++) {
    const at = position + i * step;
    const whole = Math.floor(at);
    const row = Math.round((at - whole) * PHASES) * width;
    const first = whole - base - REACH + 1;
    let sum = 0;
    for (let tap = 0; tap < width; tap++) sum += kernel[row + tap] * source[first + tap];
    out[i] = sum;
  }
}
