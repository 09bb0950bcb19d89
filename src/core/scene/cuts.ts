/** Size of the small grey pictures that cuts are looked for in. Pixels */
export const CUT_SIZE = { width: 64, height: 36 } as const;

/** A place where one shot of a picture becomes another. */
export interface PictureCut {
  /** First frame of the new shot; of a dissolve, its middle. From the first frame of the picture */
  frame: number;
  kind: 'cut' | 'dissolve';
  /** How much changes there, 0 to 1: the mean difference of all pixels. */
  strength: number;
}

/** A place of the picture that a list tells of: where one shot becomes another. */
export interface ListedCut {
  /** Samples, from the scene's first frame on. */
  at: number;
  kind: 'cut' | 'dissolve';
  name: string;
}

/** Frames around one of which the usual change is measured, on each side. */
const AROUND = 8;
/** A cut changes at least so much, and so many times as much as is usual around it. Grey levels of 255 */
const [LEAST, TIMES, OVER] = [6, 3, 4];
/** Frames after which a cut still shows another shot; what is over by then was a flash. */
const FLASH = 3;
/** Half of the frames that are looked at for a dissolve. */
const HALF = 12;
/** A pixel has turned when it changed by so much within them; grey levels. At least this share of the picture turns in a dissolve. */
const [TURNED, PART] = [12, 0.3];
/** What a pixel of a mix may be off, as a share of its change and in grey levels; and how many of those that turned may be off by more. */
const [LOOSE, GRAIN, BENT] = [0.2, 5, 0.25];
/** Two pictures so much alike are one shot, unless most contrast goes or comes, as in a fade. A correlation; a ratio of variances */
const [ALIKE, FADED] = [0.9, 4];
/** What a mix may have more contrast than it should. A share of the variance of its ends */
const CLEAR = 0.12;

/** Pixels that are looked at across each pixel of the small picture, and as many down. */
const LOOKED = 3;

/**
 * A small picture of a plane of luma.
 * @param plane bytes, the first of which is the upper left pixel
 * @param stride bytes from one row to the next
 */
export function shrunk(
  plane: Uint8Array,
  { stride, wide, high }: { stride: number; wide: number; high: number },
  { width, height }: { width: number; height: number },
): Uint8Array {
  const out = new Uint8Array(width * height);
  const columns = Int32Array.from({ length: width * LOOKED }, (_, i) => ((i + 0.5) * wide) / (width * LOOKED));
  const rows = Int32Array.from({ length: height * LOOKED }, (_, i) => ((i + 0.5) * high) / (height * LOOKED));
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let j = 0; j < LOOKED; j++) {
        const row = rows[y * LOOKED + j] * stride;
        for (let i = 0; i < LOOKED; i++) sum += plane[row + columns[x * LOOKED + i]];
      }
      out[y * width + x] = sum / (LOOKED * LOOKED) + 0.5;
    }
  return out;
}

/** Mean difference of two pictures. Grey levels */
function apart(a: Uint8Array, b: Uint8Array): number {
  let sum = 0;
  for (let i = 0; i < a.length; i++) sum += Math.abs(a[i] - b[i]);
  return sum / a.length;
}

/** Covariance of two pictures, pixel by pixel; of one with itself, its variance. Squared grey levels */
function covariance(a: Uint8Array, b: Uint8Array): number {
  let [sumA, sumB, products] = [0, 0, 0];
  for (let i = 0; i < a.length; i++) {
    sumA += a[i];
    sumB += b[i];
    products += a[i] * b[i];
  }
  return (products - (sumA * sumB) / a.length) / a.length;
}

/** Whether a picture has as little contrast as a mix of two others has. What only moves keeps its own. */
function isMixed(first: Uint8Array, middle: Uint8Array, last: Uint8Array): boolean {
  // Flat pictures have no variance to divide by.
  const [a, b] = [covariance(first, first) + 1, covariance(last, last) + 1];
  const both = covariance(first, last);
  if (both / Math.sqrt(a * b) > ALIKE && Math.max(a / b, b / a) < FADED) return false;
  return covariance(middle, middle) < (a + b + 2 * both) / 4 + (CLEAR * (a + b)) / 2;
}

/**
 * How a picture turns into another one.
 * @param steps the first one, those a quarter, half and three quarters of the way, and the last
 * @returns mean change in grey levels, and the share of pixels that turned otherwise than by mixing; 1 where too few turned
 */
function turning(steps: readonly Uint8Array[]): { levels: number; bent: number } {
  const [first, quarter, middle, third, last] = steps;
  let [sum, turned, bent] = [0, 0, 0];
  if (!isMixed(first, middle, last)) return { levels: 0, bent: 1 };
  for (let i = 0; i < first.length; i++) {
    const by = last[i] - first[i];
    const size = Math.abs(by);
    sum += size;
    if (size < TURNED) continue;
    turned++;
    const may = GRAIN + LOOSE * size;
    const off = (x: number, share: number) => Math.abs(x - first[i] - share * by) > may;
    // Of a short dissolve the quarters are its ends, or near them.
    const straight =
      !off(middle[i], 0.5) &&
      (!off(quarter[i], 0.25) || !off(quarter[i], 0)) &&
      (!off(third[i], 0.75) || !off(third[i], 1));
    if (!straight) bent++;
  }
  return { levels: sum / first.length, bent: turned < PART * first.length ? 1 : bent / turned };
}

const medianOf = (values: number[]): number => values.sort((a, b) => a - b)[values.length >> 1] ?? 0;

/**
 * Finds cuts and dissolves in a picture, whose frames it is shown one after another. A cut changes far more than the frames around it do
 * and shows another shot afterwards, which a flash does not. In a dissolve every picture is a mix of an earlier and a later one; movement
 * is not. After: H. J. Zhang, A. Kankanhalli, S. W. Smoliar, “Automatic partitioning of full-motion video”, Multimedia Systems 1 (1993),
 * with the threshold following the picture, and the linear model of a dissolve in place of a second threshold.
 */
export class CutFinder {
  private readonly numbers: number[] = [];
  /** For each frame: its change from the one before, and from one as long ago as a flash lasts. */
  private readonly change: number[] = [];
  private readonly past: number[] = [];
  /** For the frames that end with it: how far they turn, and how much of that is no mixing. */
  private readonly turned: number[] = [];
  private readonly bent: number[] = [];
  private readonly last: Uint8Array[] = [];

  /**
   * @param frame its number in the picture
   * @param grey of {@link CUT_SIZE}, row by row; kept, so not to be written to again
   */
  push(frame: number, grey: Uint8Array): void {
    const { last } = this;
    last.push(grey);
    if (last.length > 2 * HALF + 1) last.shift();
    const back = (n: number): Uint8Array | undefined => last[last.length - 1 - n];
    this.numbers.push(frame);
    const before = back(1);
    this.change.push(before ? apart(before, grey) : 0);
    const longer = back(FLASH);
    this.past.push(longer ? apart(longer, grey) : 0);
    const steps = [2 * HALF, (3 * HALF) / 2, HALF, HALF / 2, 0].flatMap((n) => back(n) ?? []);
    const { levels, bent } = steps.length === 5 ? turning(steps) : { levels: 0, bent: 1 };
    this.turned.push(levels);
    this.bent.push(bent);
  }

  /** What was found, in the order of time. */
  finish(): PictureCut[] {
    const hard = this.hard();
    return [...hard.map((i) => this.told(i, 'cut', this.change[i])), ...this.soft(hard)].sort(
      (a, b) => a.frame - b.frame,
    );
  }

  private told(i: number, kind: PictureCut['kind'], levels: number): PictureCut {
    return { frame: this.numbers[i], kind, strength: Math.min(1, Math.round(levels * 4) / 255) };
  }

  private hard(): number[] {
    const { change, past } = this;
    const found: number[] = [];
    for (let i = 1; i < change.length; i++) {
      const now = change[i];
      if (now < LEAST) continue;
      const around = [...change.slice(Math.max(1, i - AROUND), i), ...change.slice(i + 1, i + AROUND + 1)];
      if (now < TIMES * medianOf(around) + OVER) continue;
      // The greatest change nearby; another one as great a moment later is a cut of its own.
      if (now < Math.max(change[i - 1], change[i + 1] ?? 0)) continue;
      // Back where it was a moment ago, or soon again: the end or the beginning of a flash.
      const after = past[i + FLASH - 1] ?? now;
      if (Math.min(after, i < FLASH ? now : past[i]) < 0.5 * now) continue;
      found.push(i);
    }
    return found;
  }

  private soft(hard: readonly number[]): PictureCut[] {
    const { turned, bent } = this;
    const found: PictureCut[] = [];
    let best = -1;
    let quiet = 0;
    const keep = (): void => {
      if (best >= 0) found.push(this.told(best - HALF, 'dissolve', turned[best]));
      best = -1;
    };
    let next = 0;
    for (let i = 2 * HALF; i < turned.length; i++) {
      while (next < hard.length && hard[next] <= i - 2 * HALF) next++;
      // A cut within is no mix.
      const cut = next < hard.length && hard[next] <= i;
      if (!cut && bent[i] < BENT) {
        if (best < 0 || turned[i] > turned[best]) best = i;
        quiet = 0;
      } else if (best >= 0 && ++quiet > HALF) keep();
    }
    keep();
    return found;
  }
}
