import { irregularForms } from '@core/naming';
import { words as packedWords, near as packedNear } from '../generated/meaning';

/** How a near word stands to the one that was looked up: what is made of it, a synonym, a kind or a part of it, what it is part of, what it is a kind of. */
export type Kinship = 'form' | 'same' | 'kind' | 'part' | 'whole' | 'general';
const KINSHIPS: readonly Kinship[] = ['form', 'same', 'kind', 'part', 'whole', 'general'];

/** A word that stands near another one. */
export interface NearWord {
  word: string;
  kinship: Kinship;
  /** 1 for another form to 7 for what is far. */
  distance: number;
}

/** Regular endings and what stands in their place (morphy(7WN)). */
const ENDINGS: readonly (readonly [ending: string, base: string])[] = [
  ['ies', 'y'],
  ['ves', 'f'],
  ['es', ''],
  ['s', ''],
  ['ied', 'y'],
  ['ed', ''],
  ['ed', 'e'],
  ['ing', ''],
  ['ing', 'e'],
  ['y', ''],
  ['y', 'e'],
];

/** What a word may be a regular or irregular form of, itself first, whether or not there are such words. */
export function bases(word: string): string[] {
  const found = [word];
  const irregular = irregularForms.get(word);
  if (irregular) found.push(irregular);
  for (const [ending, base] of ENDINGS) {
    if (!word.endsWith(ending) || word.length - ending.length < 2 || (ending === 's' && word.endsWith('ss'))) continue;
    const rest = word.slice(0, -ending.length);
    if (ending === 'es' && !/([sxzo]|ch|sh)$/.test(rest)) continue;
    found.push(rest + base);
    // To drip, dripping.
    const last = rest[rest.length - 1];
    if (base === '' && !ending.endsWith('s') && last === rest[rest.length - 2]) found.push(rest.slice(0, -1));
  }
  return found;
}

/** The lexicon, read where it lies: words in order, and what stands near each in one text. */
export class Meaning {
  private readonly words: readonly string[];
  private readonly starts: Uint32Array;
  private readonly kept = new Map<string, readonly NearWord[]>();

  /** @param words in order, by spaces @param near of each word: how many, then pairs of a word's number and its kinship with its distance */
  constructor(
    words: string,
    private readonly near: string,
  ) {
    this.words = words.split(' ');
    this.starts = new Uint32Array(this.words.length);
    let at = 0;
    for (let n = 0; n < this.words.length; n++) {
      this.starts[n] = at;
      at += 1 + 2 * (near.charCodeAt(at) - 0x20);
    }
  }

  private numberOf(word: string): number {
    let low = 0;
    let high = this.words.length;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.words[middle] < word) low = middle + 1;
      else high = middle;
    }
    return this.words[low] === word ? low : -1;
  }

  /** Whether a folded word stands in the lexicon, as it is. */
  has(word: string): boolean {
    return this.numberOf(word) >= 0;
  }

  /** The words of the lexicon that a folded word is a form of; one that stands there itself is no form of others, but for irregular ones. */
  lemmas(word: string): string[] {
    if (this.has(word))
      return [word, ...[irregularForms.get(word) ?? word].filter((base) => base !== word && this.has(base))];
    return [...new Set(bases(word))].filter((base) => this.has(base));
  }

  /** What stands near a folded word in any of its forms, nearest first. */
  of(word: string): readonly NearWord[] {
    let found = this.kept.get(word);
    if (!found) {
      const nearest = new Map<string, NearWord>();
      for (const lemma of this.lemmas(word)) {
        const start = this.starts[this.numberOf(lemma)];
        const count = this.near.charCodeAt(start) - 0x20;
        for (let at = start + 1; at < start + 1 + 2 * count; at += 2) {
          const other = this.words[this.near.charCodeAt(at) - 0x100];
          const code = this.near.charCodeAt(at + 1) - 0x20;
          const distance = code & 7;
          if (other !== word && distance < (nearest.get(other)?.distance ?? 8))
            nearest.set(other, { word: other, kinship: KINSHIPS[code >> 3], distance });
        }
      }
      found = [...nearest.values()].sort((a, b) => a.distance - b.distance);
      if (this.kept.size > 2000) this.kept.clear();
      this.kept.set(word, found);
    }
    return found;
  }

  /**
   * Whether two folded words with one stem are forms of one word: by their endings, or as the lexicon says that one is made of the
   * other or spelled otherwise. `wav` is no form of `wave`, nor `plane` of `plan`.
   */
  sameWord(a: string, b: string): boolean {
    if (a === b) return true;
    const [one, two] = [bases(a), bases(b)];
    if (one.some((base) => two.includes(base))) return true;
    const close = ({ word, kinship, distance }: NearWord, others: readonly string[]) =>
      (kinship === 'form' || (kinship === 'same' && distance < 4)) && others.includes(word);
    return this.of(a).some((n) => close(n, two)) || this.of(b).some((n) => close(n, one));
  }
}

let loaded: Meaning | undefined;
/** The lexicon that ships, unpacked where it is first needed. */
export const meaning = (): Meaning => (loaded ??= new Meaning(packedWords, packedNear));
