/** What a section of a filter does. */
export type Response = 'low cut' | 'low shelf' | 'bell' | 'notch' | 'high shelf' | 'high cut';
export const responses: readonly Response[] = ['low cut', 'low shelf', 'bell', 'notch', 'high shelf', 'high cut'];

/**
 * Coefficients of a second-order section, by R. Bristow-Johnson, "Cookbook formulae for audio equalizer biquad filter coefficients".
 * @param rate Hz
 * @param freq Hz; held below half the rate
 * @param gain dB, of shelves and bells
 * @param into b0, b1, b2, a1, a2, divided by a0
 */
export function biquad(
  response: Response,
  rate: number,
  freq: number,
  gain: number,
  q: number,
  into: Float64Array,
): void {
  const w = (2 * Math.PI * Math.min(freq, rate * 0.49)) / rate;
  const cos = Math.cos(w);
  const alpha = Math.sin(w) / (2 * q);
  const a = 10 ** (gain / 40);
  const root = 2 * Math.sqrt(a) * alpha;
  let [b0, b1, b2, a0, a1, a2] = [1, 0, 0, 1 + alpha, -2 * cos, 1 - alpha];
  if (response === 'low cut') [b0, b1, b2] = [(1 + cos) / 2, -(1 + cos), (1 + cos) / 2];
  else if (response === 'high cut') [b0, b1, b2] = [(1 - cos) / 2, 1 - cos, (1 - cos) / 2];
  else if (response === 'notch') [b0, b1, b2] = [1, -2 * cos, 1];
  else if (response === 'bell')
    [b0, b1, b2, a0, a2] = [1 + alpha * a, -2 * cos, 1 - alpha * a, 1 + alpha / a, 1 - alpha / a];
  else {
    // The two shelves are each other's mirror.
    const s = response === 'low shelf' ? 1 : -1;
    b0 = a * (a + 1 - s * (a - 1) * cos + root);
    b1 = s * 2 * a * (a - 1 - s * (a + 1) * cos);
    b2 = a * (a + 1 - s * (a - 1) * cos - root);
    a0 = a + 1 + s * (a - 1) * cos + root;
    a1 = -s * 2 * (a - 1 + s * (a + 1) * cos);
    a2 = a + 1 + s * (a - 1) * cos - root;
  }
  into[0] = b0 / a0;
  into[1] = b1 / a0;
  into[2] = b2 / a0;
  into[3] = a1 / a0;
  into[4] = a2 / a0;
}

/** Qualities of the sections whose chain is a Butterworth filter of twice their number of poles. */
export function butterworth(sections: number): number[] {
  return Array.from({ length: sections }, (_, k) => 1 / (2 * Math.cos(((2 * k + 1) * Math.PI) / (4 * sections))));
}

/** How much louder a section makes a tone. @param section as `biquad` gives it; @param freq Hz; @returns dB */
export function gainOf([b0, b1, b2, a1, a2]: Float64Array, rate: number, freq: number): number {
  const w = (2 * Math.PI * freq) / rate;
  const [once, twice] = [2 * Math.cos(w), 2 * Math.cos(2 * w)];
  const above = b0 * b0 + b1 * b1 + b2 * b2 + (b0 * b1 + b1 * b2) * once + b0 * b2 * twice;
  const below = 1 + a1 * a1 + a2 * a2 + (a1 + a1 * a2) * once + a2 * twice;
  return 10 * Math.log10(Math.max(1e-20, above / below));
}

/** Natural logarithm of -90 dB. */
const GONE = Math.log(10 ** (-90 / 20));

/** Samples in which what a section rings with dies away to -90 dB, by its slowest pole. */
export function ringing(section: Float64Array): number {
  const [, , , a1, a2] = section;
  const under = a1 * a1 - 4 * a2;
  const radius = under < 0 ? Math.sqrt(a2) : (Math.abs(a1) + Math.sqrt(under)) / 2;
  return radius <= 0 ? 2 : radius >= 1 ? Infinity : Math.ceil(GONE / Math.log(radius)) + 2;
}
