import type { Bitset } from './bitset';
import type { Column, NumberColumn } from './columns';

/** A measured fact by which a word is heard: its field, whether much or little of it is meant, and how that compares in words. */
interface Side {
  key: string;
  up: boolean;
  than: string;
}

const side = (text: string): Side => {
  const [, sign, key, than] = /^([+-])(\w+) (.+)$/.exec(text)!;
  return { key, up: sign === '+', than };
};

/** Adjectives that a measured fact answers, and by which; folded words before the colon, facts with `+` for much and `-` for little behind it. */
const lines = [
  'bright brilliant crisp sparkling glassy: +brightness brighter',
  'dark dull muffled dim: -brightness darker',
  'deep bassy boomy low rumbling subby: +lows deeper',
  'thin tinny: -lows thinner',
  'shrill piercing sharp: +brightness brighter | -attack quicker to rise',
  'sudden abrupt snappy punchy: -attack quicker to rise',
  'gradual: +attack slower to rise',
  'soft gentle light delicate: -force gentler',
  'hard forceful violent heavy powerful strong: +force harder',
  'swelling rising growing building: +trend swelling more',
  'fading dying falling: -trend fading more',
  'steady constant even continuous uniform: -unrest steadier',
  'uneven restless erratic irregular: +unrest less steady',
  'pulsing throbbing fluttering wobbling: +pulseDepth pulsing more deeply',
  'dense busy rapid fast frantic: +density denser',
  'sparse scattered slow: -density sparser',
  'hissy hissing airy: +noisiness noisier | +brightness brighter',
  'noisy: +noisiness noisier',
  'tonal pitched musical: -noisiness more tonal',
  'hollow: -noisiness more tonal | -brightness darker',
  'ringing resonant: +decay slower to die away | -noisiness more tonal',
  'dry dead: +clarity drier',
  'wet reverberant roomy echoing: -clarity wetter',
  'close near intimate: +clarity drier | +brightness brighter',
  'distant far faraway remote: -clarity wetter | -brightness darker',
  'short brief: -length shorter',
  'long lengthy lasting: +length longer',
  'loud: +loudness louder',
  'quiet faint: -loudness quieter',
  'wide spacious broad: +width wider',
  'narrow: -width narrower',
  'high: +pitch higher',
  'dynamic: +loudnessRange wider in its loudness',
  'clean: -noiseFloor quieter in its pauses',
  'clipped distorted overloaded: +clipped more clipped',
];

/** Words of the ear, folded, each with the facts that answer it. */
export const earWords: ReadonlyMap<string, readonly Side[]> = new Map(
  lines.flatMap((line) => {
    const [words, facts] = line.split(': ');
    const sides = facts.split(' | ').map(side);
    return words.split(' ').map((word) => [word, sides] as const);
  }),
);

/** A fact of a sound against that of others: `brighter` than a share of them, 0 to 1. */
export interface Comparison {
  than: string;
  share: number;
}

/** Values are compared with so many others, taken evenly from all of them. */
const SAMPLE = 2048;
/** A word is heard where a fact is above this share of the others; of two facts, each above the second. */
const [ONE, TWO] = [2 / 3, 0.55];
/** From this share on and in steps up to all of the others, a sound answers better. */
const STEPS = 8;

/** How the sounds of a set compare by facts with others. */
export class Ear {
  private readonly sorted = new Map<string, Float64Array>();

  /** @param others slots, rising, with which sounds are compared */
  constructor(
    private readonly columns: ReadonlyMap<string, Column>,
    private readonly others: Uint32Array,
  ) {}

  /** Values of others by size, such that more of what is meant comes later. */
  private sample({ key, up }: Side): Float64Array {
    const name = `${key} ${up}`;
    let values = this.sorted.get(name);
    if (!values) {
      const column = this.columns.get(key) as NumberColumn;
      const step = Math.max(1, this.others.length / SAMPLE);
      const taken: number[] = [];
      for (let i = 0; i < this.others.length; i += step) {
        const value = column.at(this.others[Math.floor(i)]);
        if (!Number.isNaN(value)) taken.push(up ? value : -value);
      }
      values = Float64Array.from(taken).sort();
      this.sorted.set(name, values);
    }
    return values;
  }

  /** How a slot compares with others by the facts of a word; nothing where one of them is not known. */
  compare(word: string, slot: number): Comparison[] {
    const made: Comparison[] = [];
    for (const at of earWords.get(word) ?? []) {
      const values = this.sample(at);
      const own = (this.columns.get(at.key) as NumberColumn).at(slot);
      if (Number.isNaN(own) || values.length < 2) return [];
      const below = values.findIndex((v) => v >= (at.up ? own : -own));
      made.push({ than: at.than, share: (below < 0 ? values.length : below) / values.length });
    }
    return made;
  }

  /**
   * Takes slots out of a set that do not sound as a word says, in place.
   * @param kept slots that stay in any case: they are labelled so
   * @param scores of all slots: those that stay gain up to 32, the better they answer
   */
  keep(word: string, set: Bitset, kept: Bitset, scores: Uint16Array): void {
    const sides = earWords.get(word) ?? [];
    const least = sides.length > 1 ? TWO : ONE;
    const tests = sides.map((at) => {
      const values = this.sample(at);
      const limits = Array.from(
        { length: STEPS },
        (_, i) => values[Math.floor(values.length * (least + ((1 - least) * i) / STEPS))],
      );
      return { column: this.columns.get(at.key) as NumberColumn, sign: at.up ? 1 : -1, limits, flat: values[0] };
    });
    set.each((slot) => {
      let gain = 0;
      for (const { column, sign, limits, flat } of tests) {
        const value = sign * column.at(slot);
        // Where all are alike, none is more so than others.
        let steps = value > flat ? limits.findIndex((limit) => !(value >= limit)) : 0;
        if (steps < 0) steps = STEPS;
        if (steps === 0) {
          if (!kept.has(slot)) set.delete(slot);
          return;
        }
        gain += steps;
      }
      scores[slot] += Math.round((4 * gain) / tests.length);
    });
  }
}
