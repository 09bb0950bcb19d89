import { CUT_SIZE, type PictureCut } from './cuts';

/** Size of the grey pictures in which movement is looked for: three times {@link CUT_SIZE} each way. Pixels */
export const MOTION_SIZE = { width: 192, height: 108 } as const;

/** An instant at which something in the picture moves of a sudden, or comes to rest or turns. */
export interface MotionEvent {
  /** From the first frame of the picture. */
  frame: number;
  /** A peak sets in or jerks; a stop is where something that moved before stands for an instant, as a foot that meets the ground. */
  kind: 'peak' | 'stop';
  /** How much it stands out from what else moves there, 0 to 1. */
  strength: number;
  /** Where in the picture, as shares of its width and height from the upper left. */
  x: number;
  y: number;
}

/** How much moves in a picture. */
export interface PictureMotion {
  /** In the order of time; also those too weak to be offered unasked. */
  events: readonly MotionEvent[];
  /** The energy of change over time, see {@link energyOf}: a byte for each step, as base64. */
  curve: string;
  /** Frames of a step of it. */
  step: number;
}

/** Events of at least this strength are offered unless more, or fewer, are asked for. */
export const MOTION_DEFAULT = 0.55;
/** Weaker events are not kept. */
const KEPT = 0.3;

/** Pixels of a cell across and down; a block is two of them each way, and blocks overlap by half. */
const CELL = 6;
const [CELLS_X, CELLS_Y] = [MOTION_SIZE.width / CELL, MOTION_SIZE.height / CELL];
const [BLOCKS_X, BLOCKS_Y] = [CELLS_X - 1, CELLS_Y - 1];
const BLOCKS = BLOCKS_X * BLOCKS_Y;
/** Half of the square over which light is levelled out: a lamp that flickers lights much, but moves nothing. Pixels */
const LEVEL = 4;
/** Change that counts as one. Grey levels */
const UNIT = 1.5;
/** Blocks to each side within which what moves is still the same. */
const AROUND = 3;
/** Frames that are looked at before and after one. */
const [PAST, COMING] = [7, 6];
/** What nine blocks in ten stay below is movement of none: codecs renew whole pictures every now and then. */
const COMMON = 0.9;
/** What each of the four looks weighs. */
const [DIP, REST, RISE, JERK] = [0.75, 0.4, 1.25, 0.75];
/** The weighed sum that makes a strength of a half. */
const HALF_STRENGTH = 0.3;
/** Two events are at least so many frames apart. */
const APART = 5;
/** A change of the whole picture so much above what was usual is another shot. Grey levels; times */
const [SHOT_LEAST, SHOT_TIMES] = [6, 3];
/** Frames a second that are looked at; of more, every second, third and so on. */
const LOOKED = 30;
/** The curve has at most so many steps; of pictures with more frames than that it ends before they do. */
const [MOST_STEPS, MOST_FRAMES] = [20_000, 5_000_000];

/** The small picture of {@link CUT_SIZE} of one of {@link MOTION_SIZE}. */
export function thirdOf(grey: Uint8Array): Uint8Array {
  const { width, height } = CUT_SIZE;
  const out = new Uint8Array(width * height);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      let sum = 0;
      for (let j = 0; j < 3; j++) {
        const at = (3 * y + j) * MOTION_SIZE.width + 3 * x;
        sum += grey[at] + grey[at + 1] + grey[at + 2];
      }
      out[y * width + x] = sum / 9 + 0.5;
    }
  return out;
}

/** A frame as it is held while its neighbours are looked at. */
interface Looked {
  frame: number;
  shot: number;
  /** Whether it is the first of a shot: what changed before it is no movement. */
  first: boolean;
  /** Log of the change in each block, and the most of it around each. */
  change: Float32Array;
  around: Float32Array;
}

/**
 * Finds where things in a picture move of a sudden, stop or turn, from its frames, which it is shown one after another, and how much moves
 * all along. The light is levelled out, the change of overlapping blocks taken as logarithms, and each block compared with itself a
 * quarter of a second before and after. That bodies meet where their movement is least for an instant is how beats are found in dance:
 * T.-h. Kim, S. I. Park, S. Y. Shin, “Rhythmic-motion synthesis based on motion-beat analysis”, ACM Transactions on Graphics 22 (2003).
 */
export class MotionFinder {
  private readonly held: Looked[] = [];
  private readonly found: MotionEvent[] = [];
  private readonly energy: number[] = [];
  private readonly usual: number[] = [];
  private levelled?: Float32Array;
  private shot = 0;
  private pushed = 0;
  /** Every how many frames one is looked at. */
  private readonly every: number;

  /** @param fps frames a second of what is pushed */
  constructor(fps: number) {
    this.every = Math.max(1, Math.round(fps / LOOKED));
  }

  /**
   * @param frame its number in the picture
   * @param grey of {@link MOTION_SIZE}, row by row
   */
  push(frame: number, grey: Uint8Array): void {
    if (this.pushed++ % this.every > 0) return;
    const now = levelled(grey);
    const before = this.levelled;
    this.levelled = now;
    const change = new Float32Array(BLOCKS);
    let mean = 0;
    if (before) {
      const cells = cellsOf(before, now);
      for (const c of cells) mean += c / cells.length;
      logBlocks(cells, change);
    }
    const usual = [...this.usual].sort((a, b) => a - b)[this.usual.length >> 1] ?? mean;
    const first = !before || mean > SHOT_LEAST + SHOT_TIMES * usual;
    if (first) {
      this.shot++;
      this.usual.length = 0;
    } else {
      this.usual.push(mean);
      if (this.usual.length > PAST) this.usual.shift();
    }
    // Where a rate changes, frames are left out, and the curve stays in step with the picture.
    const step = Math.floor(frame / this.every);
    if (step < MOST_FRAMES) while (this.energy.length <= step) this.energy.push(first ? 0 : mean);
    this.held.push({ frame, shot: this.shot, first, change, around: mostAround(change) });
    if (this.held.length > PAST + COMING + 1) this.held.shift();
    if (this.held.length === PAST + COMING + 1) this.look();
  }

  /** Looks at the frame in the middle of those held. */
  private look(): void {
    const { held } = this;
    const at = held[PAST];
    if (at.first) return;
    const within = (of: 'change' | 'around', from: number, to: number) =>
      held.slice(PAST + from, PAST + to + 1).flatMap((h) => (h.shot === at.shot && !h.first ? [h[of]] : []));
    const [far, still, late] = [within('change', -7, -3), within('change', -1, 0), within('change', 2, 6)];
    const [past, coming] = [within('change', -6, -1), within('change', 0, 5)];
    if ([far, past, late].some((of) => of.length < 2)) return;
    // What begins or ends in a block is held against all around it, as it may only have moved on.
    const [before, after] = [within('around', -6, -1), within('around', 0, 5)];
    const beside = [...within('around', -5, -1), ...within('around', 1, 5)];
    const dip = new Float32Array(BLOCKS);
    const rest = new Float32Array(BLOCKS);
    const rise = new Float32Array(BLOCKS);
    const jerk = new Float32Array(BLOCKS);
    for (let b = 0; b < BLOCKS; b++) {
      dip[b] = Math.min(meanAt(far, b), meanAt(late, b)) - meanAt(still, b);
      rest[b] = Math.min(meanAt(past, b), secondAt(past, b)) - secondAt(after, b);
      rise[b] = Math.min(at.change[b], meanAt(coming, b)) - secondAt(before, b);
      jerk[b] = at.change[b] - secondAt(beside, b);
    }
    const [d, s, r, j] = [standsOut(dip), standsOut(rest), standsOut(rise), standsOut(jerk)];
    const [turns, stops, sets, jerks] = [DIP * d.by, REST * s.by, RISE * r.by, JERK * j.by];
    const sum = turns + stops + sets + jerks;
    const strength = Math.round((100 * sum) / (sum + HALF_STRENGTH)) / 100;
    if (strength < KEPT) return;
    const kind = turns + stops > sets + jerks ? 'stop' : 'peak';
    const block = kind === 'stop' ? (turns > stops ? d : s).block : sets > jerks ? r.block : j.block;
    const share = (cell: number, cells: number) => Math.round((100 * (cell + 1)) / cells) / 100;
    const [x, y] = [share(block % BLOCKS_X, CELLS_X), share(Math.floor(block / BLOCKS_X), CELLS_Y)];
    this.take({ frame: at.frame, kind, strength, x, y });
  }

  /** Keeps the strongest of those that lie close together. */
  private take(event: MotionEvent): void {
    const near = this.found.at(-1);
    if (near && event.frame - near.frame <= APART * this.every) {
      if (near.strength >= event.strength) return;
      this.found.pop();
    }
    this.found.push(event);
  }

  /** What was found. @param cuts where one shot becomes another, which is no movement */
  finish(cuts: readonly PictureCut[] = []): PictureMotion {
    while (this.held.length > PAST + 1) {
      this.held.shift();
      this.look();
    }
    const around = { cut: 2, dissolve: 8 };
    const events = this.found.filter((e) => !cuts.some((c) => Math.abs(c.frame - e.frame) <= around[c.kind]));
    const joined = Math.max(1, Math.ceil(this.energy.length / MOST_STEPS));
    const steps = new Uint8Array(Math.ceil(this.energy.length / joined));
    this.energy.forEach((e, i) => {
      const at = Math.floor(i / joined);
      steps[at] = Math.max(steps[at], levelOf(e));
    });
    return { events, curve: btoa(String.fromCharCode(...steps)), step: joined * this.every };
  }
}

/** The energy of change in each step of a picture, 0 to 1; logarithmic, so that little and much of it are seen in one curve. */
export function energyOf({ curve }: PictureMotion): Float32Array {
  return Float32Array.from(atob(curve), (c) => c.charCodeAt(0) / 255);
}

/** A picture without its slow light: what each pixel is above the mean of those around it. */
function levelled(grey: Uint8Array): Float32Array {
  const { width, height } = MOTION_SIZE;
  const wide = width + 1;
  // Sums of all that lies to the upper left of each pixel.
  const sums = new Int32Array(wide * (height + 1));
  for (let y = 0; y < height; y++)
    for (let x = 0, row = 0; x < width; x++) {
      row += grey[y * width + x];
      sums[(y + 1) * wide + x + 1] = sums[y * wide + x + 1] + row;
    }
  const out = new Float32Array(width * height);
  for (let y = 0; y < height; y++) {
    const [top, bottom] = [Math.max(0, y - LEVEL) * wide, Math.min(height, y + LEVEL + 1) * wide];
    for (let x = 0; x < width; x++) {
      const [left, right] = [Math.max(0, x - LEVEL), Math.min(width, x + LEVEL + 1)];
      const sum = sums[bottom + right] - sums[top + right] - sums[bottom + left] + sums[top + left];
      out[y * width + x] = grey[y * width + x] - (sum * wide) / ((bottom - top) * (right - left));
    }
  }
  return out;
}

/** Mean change of each cell. */
function cellsOf(before: Float32Array, now: Float32Array): Float32Array {
  const cells = new Float32Array(CELLS_X * CELLS_Y);
  for (let y = 0, i = 0; y < MOTION_SIZE.height; y++) {
    const row = Math.floor(y / CELL) * CELLS_X;
    for (let x = 0; x < MOTION_SIZE.width; x++, i++)
      cells[row + Math.floor(x / CELL)] += Math.abs(now[i] - before[i]) / (CELL * CELL);
  }
  return cells;
}

function logBlocks(cells: Float32Array, out: Float32Array): void {
  for (let y = 0, b = 0; y < BLOCKS_Y; y++)
    for (let x = 0; x < BLOCKS_X; x++, b++) {
      const at = y * CELLS_X + x;
      const sum = cells[at] + cells[at + 1] + cells[at + CELLS_X] + cells[at + CELLS_X + 1];
      out[b] = Math.log1p(sum / 4 / UNIT);
    }
}

/** The most in the blocks around each one: what moves on from block to block is one movement. */
function mostAround(of: Float32Array): Float32Array {
  const rows = new Float32Array(BLOCKS);
  const out = new Float32Array(BLOCKS);
  for (let y = 0, b = 0; y < BLOCKS_Y; y++)
    for (let x = 0; x < BLOCKS_X; x++, b++)
      for (let i = Math.max(0, x - AROUND); i <= Math.min(BLOCKS_X - 1, x + AROUND); i++)
        rows[b] = Math.max(rows[b], of[y * BLOCKS_X + i]);
  for (let y = 0, b = 0; y < BLOCKS_Y; y++)
    for (let x = 0; x < BLOCKS_X; x++, b++)
      for (let j = Math.max(0, y - AROUND); j <= Math.min(BLOCKS_Y - 1, y + AROUND); j++)
        out[b] = Math.max(out[b], rows[j * BLOCKS_X + x]);
  return out;
}

function meanAt(of: readonly Float32Array[], block: number): number {
  let sum = 0;
  for (const one of of) sum += one[block];
  return of.length === 0 ? 0 : sum / of.length;
}

/** The second largest: one frame may be out of the ordinary. */
function secondAt(of: readonly Float32Array[], block: number): number {
  let [most, second] = [0, 0];
  for (const one of of) {
    const value = one[block];
    if (value > most) [most, second] = [value, most];
    else if (value > second) second = value;
  }
  return second;
}

/** The block that stands out most, and by how much above what most do. */
function standsOut(values: Float32Array): { block: number; by: number } {
  let block = 0;
  for (let b = 1; b < values.length; b++) if (values[b] > values[block]) block = b;
  const common = Math.max(0, Float32Array.from(values).sort()[Math.floor(COMMON * (values.length - 1))]);
  return { block, by: Math.max(0, values[block] - common) };
}

/** A step of the curve for a mean change in grey levels. */
const levelOf = (energy: number): number => Math.min(255, Math.round(32 * Math.log2(1 + 16 * energy)));
