/**
 * Sine, powers and logarithms of nothing but additions, multiplications, divisions and `Math.floor`, which IEEE 754 rounds in one way only:
 * `Math.sin` and its siblings may differ from one engine to the next, and a sound that is made again is to have the same bytes everywhere.
 * Each is within 1e-11 of the truth, relative to its size.
 */

const HALF_PI = Math.PI / 2;
/** Of the sine's series up to the seventeenth power: on a quarter of a circle the rest is below 1e-13. */
const [S3, S5, S7, S9, S11] = [-1 / 6, 1 / 120, -1 / 5040, 1 / 362880, -1 / 39916800];
const [S13, S15, S17] = [1 / 6227020800, -1 / 1307674368000, 1 / 355687428096000];

/** The sine of an angle in turns: of 1 after a full circle. */
export function sinTurns(turns: number): number {
  let x = turns - Math.floor(turns + 0.5);
  if (x > 0.25) x = 0.5 - x;
  else if (x < -0.25) x = -0.5 - x;
  const y = x * 4 * HALF_PI;
  const z = y * y;
  const high = S9 + z * (S11 + z * (S13 + z * (S15 + z * S17)));
  return y * (1 + z * (S3 + z * (S5 + z * (S7 + z * high))));
}

/** The sine and cosine of an angle in radians. */
export const sin = (x: number): number => sinTurns(x / (2 * Math.PI));
export const cos = (x: number): number => sinTurns(x / (2 * Math.PI) + 0.25);

/** Powers of two, from 2 to the -1100th on. */
const LEAST = -1100;
const powers = new Float64Array(2200);
powers[-LEAST] = 1;
for (let i = 1 - LEAST; i < powers.length; i++) powers[i] = powers[i - 1] * 2;
for (let i = -LEAST - 1; i >= 0; i--) powers[i] = powers[i + 1] / 2;

/** Of e's series: 1 / k!. */
const [E2, E3, E4, E5, E6, E7] = [1 / 2, 1 / 6, 1 / 24, 1 / 120, 1 / 720, 1 / 5040];
const [E8, E9, E10, E11, E12] = [1 / 40320, 1 / 362880, 1 / 3628800, 1 / 39916800, 1 / 479001600];

/** 2 to the power of x. */
export function exp2(x: number): number {
  if (!(x > LEAST)) return x > LEAST || x !== x ? NaN : 0;
  if (x >= 1024) return Infinity;
  const n = Math.floor(x + 0.5);
  const y = (x - n) * Math.LN2;
  const high = E7 + y * (E8 + y * (E9 + y * (E10 + y * (E11 + y * E12))));
  return (1 + y * (1 + y * (E2 + y * (E3 + y * (E4 + y * (E5 + y * (E6 + y * high))))))) * powers[n - LEAST];
}

/** e to the power of x. */
export const exp = (x: number): number => exp2(x * Math.LOG2E);

/** Of the series of the inverse hyperbolic tangent. */
const [L3, L5, L7, L9, L11, L13, L15, L17] = [1 / 3, 1 / 5, 1 / 7, 1 / 9, 1 / 11, 1 / 13, 1 / 15, 1 / 17];

/** The natural logarithm of a positive number. */
export function log(x: number): number {
  if (!(x > 0)) return x === 0 ? -Infinity : NaN;
  let n = 0;
  while (x > Math.SQRT2) {
    x /= 2;
    n++;
  }
  while (x < Math.SQRT1_2) {
    x *= 2;
    n--;
  }
  const z = (x - 1) / (x + 1);
  const zz = z * z;
  const high = L9 + zz * (L11 + zz * (L13 + zz * (L15 + zz * L17)));
  return 2 * z * (1 + zz * (L3 + zz * (L5 + zz * (L7 + zz * high)))) + n * Math.LN2;
}

/** A positive number to any power. */
export const pow = (base: number, power: number): number => (base === 0 ? 0 : exp2(power * log(base) * Math.LOG2E));

/** What is bent into -1 to 1 the more gently the louder it is (Padé's approximation of tanh, held where it reaches 1). */
export function soft(x: number): number {
  if (x > 3) return 1;
  if (x < -3) return -1;
  return (x * (27 + x * x)) / (27 + 9 * x * x);
}
