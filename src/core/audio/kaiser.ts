/** Modified Bessel function of the first kind, order 0, by its power series (Abramowitz and Stegun, 9.6.12). */
export function bessel(x: number): number {
  let sum = 1;
  let term = 1;
  for (let k = 1; term > sum * 1e-17; k++) {
    term *= (x / (2 * k)) ** 2;
    sum += term;
  }
  return sum;
}

/**
 * Kaiser's window: J. F. Kaiser, “Nonrecursive digital filter design using the I0-sinh window function”, ISCAS 1974.
 * @param share where in it, -1 to 1, 0 being its middle; @param beta how much it narrows: more takes away more of what leaks, and less steeply
 */
export const kaiser = (share: number, beta: number): number =>
  bessel(beta * Math.sqrt(Math.max(0, 1 - share ** 2))) / bessel(beta);
