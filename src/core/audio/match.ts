import type { Print } from './print';
import { PRINT_RATE } from './print';

/** A sound as the search for copies takes it. */
export interface Printed {
  id: number;
  /** See `ExactHash`; absent while not measured. */
  hash?: string;
  print: Print;
}

/** Sounds that are the same recording. */
export interface CopyGroup {
  /** `exact`: the same samples. `near`: the same recording at another rate, level, codec or length. */
  kind: 'exact' | 'near';
  ids: number[];
}

/** Frames this far under the loudest one, dB, are noise and rounding: they tell nothing. */
const QUIET = 50;
/** Two recordings are one when fewer than this share of their bits differ; chance alone gives a half. */
const SAME = 0.28;
/** Frames that must overlap for a judgement: 0.13 s; under 0.4 s the bits must agree better. */
const LEAST = Math.round(0.13 * PRINT_RATE);
const FEW = Math.round(0.4 * PRINT_RATE);
const SAME_OF_FEW = 0.2;
/** Frames of a sound by which it is looked up, and those by which it can be found. */
const KEYS = 64;
const FOUND_BY = 320;
/** A word that stands in this many places is no key. */
const COMMON = 300;

function bitCount(word: number): number {
  let w = word - ((word >>> 1) & 0x55555555);
  w = (w & 0x33333333) + ((w >>> 2) & 0x33333333);
  return Math.imul((w + (w >>> 4)) & 0x0f0f0f0f, 0x01010101) >>> 24;
}

/** Share of differing bits with `b` shifted by `offset` frames, over frames that are loud in both; 1 for too few of them. */
export function bitsApart(a: Print, b: Print, offset: number): number {
  let frames = 0;
  let bits = 0;
  const from = Math.max(1, 1 - offset);
  const to = Math.min(a.words.length, b.words.length - offset);
  for (let i = from; i < to; i++) {
    if (a.under[i] > QUIET || b.under[i + offset] > QUIET) continue;
    frames++;
    bits += bitCount(a.words[i] ^ b.words[i + offset]);
  }
  const loud = (p: Print) => p.under.reduce((n, u) => n + (u <= QUIET ? 1 : 0), 0);
  const apart = bits / (32 * frames);
  if (frames < Math.max(LEAST, 0.5 * Math.min(loud(a), loud(b)))) return 1;
  return frames < FEW ? Math.min(1, (apart * SAME) / SAME_OF_FEW) : apart;
}

/** The smallest share of differing bits at offsets near the given ones. */
function closest(a: Print, b: Print, offsets: Iterable<number>): number {
  let best = 1;
  for (const offset of offsets)
    for (let o = offset - 1; o <= offset + 1; o++) best = Math.min(best, bitsApart(a, b, o));
  return best;
}

/** Up to `most` frames of a sound that tell something, its loudest ones, in the order of time. */
function loudFrames({ words, under }: Print, most: number): number[] {
  const loud = [...words.keys()].slice(1).filter((i) => under[i] <= QUIET);
  if (loud.length <= most) return loud;
  return loud
    .sort((a, b) => under[a] - under[b] || a - b)
    .slice(0, most)
    .sort((a, b) => a - b);
}

/** Where each word stands: a table sorted by the words' upper bits, in typed arrays, for millions of frames. */
class WordTable {
  private readonly starts: Uint32Array;
  private readonly words: Uint32Array;
  private readonly sounds: Uint32Array;
  private readonly frames: Uint16Array;
  private readonly shift: number;

  constructor(prints: readonly Print[]) {
    const kept = prints.map((p) => loudFrames(p, FOUND_BY));
    const total = kept.reduce((sum, k) => sum + k.length, 0);
    this.shift = 32 - Math.max(8, Math.min(22, Math.ceil(Math.log2(total + 1))));
    this.starts = new Uint32Array(2 ** (32 - this.shift) + 1);
    this.words = new Uint32Array(total);
    this.sounds = new Uint32Array(total);
    this.frames = new Uint16Array(total);
    kept.forEach((frames, n) => frames.forEach((i) => this.starts[(prints[n].words[i] >>> this.shift) + 1]++));
    for (let b = 1; b < this.starts.length; b++) this.starts[b] += this.starts[b - 1];
    const next = this.starts.slice();
    kept.forEach((frames, n) => {
      for (const i of frames) {
        const at = next[prints[n].words[i] >>> this.shift]++;
        this.words[at] = prints[n].words[i];
        this.sounds[at] = n;
        this.frames[at] = i;
      }
    });
  }

  /** Calls `found` for each place of a word, unless it is a common one. */
  each(word: number, found: (sound: number, frame: number) => void): void {
    const bucket = word >>> this.shift;
    const until = this.starts[bucket + 1];
    let count = 0;
    for (let at = this.starts[bucket]; at < until; at++) if (this.words[at] === word) count++;
    if (count === 0 || count > COMMON) return;
    for (let at = this.starts[bucket]; at < until; at++)
      if (this.words[at] === word) found(this.sounds[at], this.frames[at]);
  }
}

/** Joins what belongs together. */
class Sets {
  private readonly parent = new Map<number, number>();

  find(id: number): number {
    const up = this.parent.get(id);
    if (up === undefined || up === id) return id;
    const top = this.find(up);
    this.parent.set(id, top);
    return top;
  }

  join(a: number, b: number): void {
    this.parent.set(this.find(a), this.find(b));
  }
}

/** Sounds that are compared closely, of those that share words. */
const LIKELY = 24;

/** Prints among which the same recording is looked for: words of the loudest frames in one table. */
export class PrintIndex {
  private readonly table: WordTable;

  constructor(private readonly prints: readonly Print[]) {
    this.table = new WordTable(prints);
  }

  /**
   * Those that share words with a print at one and the same distance, most of them first, with the likely distances.
   * @param but one that is left out
   * @param nearly whether words count that differ in one bit: a codec turns a bit here and there
   */
  likely(print: Print, but?: number, nearly = true): { at: number; offsets: number[] }[] {
    const votes = new Map<number, Map<number, number>>();
    const vote = (i: number) => (other: number, frame: number) => {
      if (other === but) return;
      const own = votes.get(other) ?? new Map<number, number>();
      own.set(frame - i, (own.get(frame - i) ?? 0) + 1);
      votes.set(other, own);
    };
    for (const i of loudFrames(print, KEYS)) {
      const word = print.words[i];
      const found = vote(i);
      this.table.each(word, found);
      if (!nearly) continue;
      for (let bit = 0; bit < 32; bit++) this.table.each((word ^ (1 << bit)) >>> 0, found);
    }
    const total = (own: Map<number, number>) => [...own.values()].reduce((a, b) => a + b, 0);
    return [...votes]
      .sort(([, a], [, b]) => total(b) - total(a))
      .slice(0, LIKELY)
      .map(([at, offsets]) => ({
        at,
        offsets: [...offsets]
          .sort(([, x], [, y]) => y - x)
          .slice(0, 3)
          .map(([o]) => o),
      }));
  }

  /** Whether a print is that of the same recording, at one of these distances. */
  isSame(print: Print, at: number, offsets: readonly number[]): boolean {
    return closest(print, this.prints[at], offsets) < SAME;
  }

  /** The place of the same recording; undefined where it is not among them. Of several, the one that agrees best. */
  find(print: Print): number | undefined {
    // Most copies share whole words: the many that nearly agree are looked for where none does.
    return this.best(print, this.likely(print, undefined, false)) ?? this.best(print, this.likely(print));
  }

  private best(print: Print, likely: readonly { at: number; offsets: number[] }[]): number | undefined {
    let [best, least] = [-1, SAME];
    for (const { at, offsets } of likely) {
      const apart = closest(print, this.prints[at], offsets);
      if (apart < least) [best, least] = [at, apart];
    }
    return best < 0 ? undefined : best;
  }
}

/**
 * Finds the copies among sounds: exact ones by their hashes, near ones by their fingerprints.
 *
 * Words of the loudest frames go into one table; sounds that share words at one and the same distance are compared bit by
 * bit there. A group in which all are exact copies is `exact`.
 * @param progress called with 0..1
 */
export function findCopies(
  sounds: readonly Printed[],
  progress: (share: number) => void = () => undefined,
): CopyGroup[] {
  const sets = new Sets();
  const byHash = new Map<string, number>();
  const single: Printed[] = [];
  for (const sound of sounds) {
    const other = sound.hash === undefined ? undefined : byHash.get(sound.hash);
    if (other !== undefined) sets.join(sound.id, other);
    else {
      if (sound.hash !== undefined) byHash.set(sound.hash, sound.id);
      single.push(sound);
    }
  }
  const index = new PrintIndex(single.map((s) => s.print));
  const compared = new Set<number>();
  single.forEach((sound, n) => {
    if (n % 64 === 0) progress(n / single.length);
    for (const { at: other, offsets } of index.likely(sound.print, n)) {
      const pair = Math.min(n, other) * single.length + Math.max(n, other);
      const [a, b] = [sound.id, single[other].id];
      if (compared.has(pair) || sets.find(a) === sets.find(b)) continue;
      compared.add(pair);
      if (index.isSame(sound.print, other, offsets)) sets.join(a, b);
    }
  });
  const groups = new Map<number, Printed[]>();
  for (const sound of sounds) {
    const top = sets.find(sound.id);
    const group = groups.get(top);
    if (group) group.push(sound);
    else groups.set(top, [sound]);
  }
  return [...groups.values()]
    .filter((group) => group.length > 1)
    .map((group) => ({
      kind: new Set(group.map((s) => s.hash ?? s.id)).size === 1 ? 'exact' : 'near',
      ids: group.map((s) => s.id),
    }));
}
