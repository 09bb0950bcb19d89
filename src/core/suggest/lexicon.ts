import { fold, stem } from '@core/naming';
import type { Category } from './categories';
import { ofMaterial, weak } from './doings';
import { foreignWords } from './languages';
import { moreWords } from './more-words';
import { abbreviations, plain } from './trade-words';

/** How strongly a term speaks for a row of the category list. */
export interface Entry {
  row: number;
  weight: number;
}

const TELLING = 1.2;
const WEIGHT = { id: 9, sub: 3, category: 2, short: 2, synonym: 3, phrase: 3.4, inPhrase: 1, explanation: 0.5 };

/** What the name of a whole Category, such as doors, weighs where it names a row of another one, beside its own. */
const ELSEWHERE = 0.7;

/** Words that only join others: `rain on a tin roof` is of rain, tin and roof. */
export const joining: ReadonlySet<string> = new Set(
  'a an the of with on onto in into at against under over through from near'.split(' '),
);

/** Words of the trade that other languages have as well, for other things. */
const technical = new Set('mono stereo quad loop take wide'.split(' '));

/** A folded word as the words that it stands for: its own stem, or those of the abbreviation or of the other language. */
export type Reading = readonly string[];

const stems = (text: string) => (fold(text).match(/[\p{L}\p{N}]+/gu) ?? []).map(stem);

/**
 * Which terms speak for which category: the words of the list's names, synonyms and explanations, and runs of two or three of
 * them, as stems. Rarer terms weigh more (inverse document frequency, Sparck Jones 1972).
 */
export class Lexicon {
  private readonly entries = new Map<string, Entry[]>();
  private readonly shorts = new Map<string, string>();
  /** Known words by their first letter. */
  private readonly byFirst = new Map<string, string[]>();
  private readonly split = new Map<string, Reading>();
  private readonly foreign = new Map<string, boolean>();

  constructor(rows: readonly Category[]) {
    const found = new Map<string, Map<number, number>>();
    const add = (term: string, row: number, weight: number) => {
      const list = found.get(term) ?? found.set(term, new Map()).get(term)!;
      list.set(row, Math.max(list.get(row) ?? 0, weight));
    };
    const wholes = new Set(
      rows.flatMap(({ category }) => (/ /.test(category) || ofMaterial.has(category) ? [] : stems(category))),
    );
    rows.forEach((c, row) => {
      add(c.catId.toLowerCase(), row, WEIGHT.id);
      for (const w of stems(c.category)) add(w, row, WEIGHT.category);
      add(fold(c.catShort), row, WEIGHT.short);
      if (c.subCategory !== 'MISC') {
        for (const w of stems(c.subCategory)) add(w, row, wholes.has(w) ? WEIGHT.sub * ELSEWHERE : WEIGHT.sub);
        const abbreviation = fold(c.catId.slice(c.catShort.length));
        if (abbreviation.length > 2 && !abbreviations.has(abbreviation)) this.shorts.set(abbreviation, c.subCategory);
      }
      const own = new Set(stems(c.category));
      // What is added here was chosen to tell rows apart.
      for (const word of (moreWords.get(c.catId) ?? '').split('/').filter(Boolean))
        this.addSynonym(stems(word), row, (term, at, weight) => add(term, at, weight * TELLING));
      for (const synonym of c.synonyms) {
        const words = stems(synonym);
        // The bare name of the category says "miscellaneous" only when nothing else is said.
        if (c.subCategory === 'MISC' && words.every((w) => own.has(w))) add(words[0], row, WEIGHT.category + 0.3);
        else
          this.addSynonym(words, row, (term, at, w) =>
            add(term, at, wholes.has(term) && !own.has(term) ? w * ELSEWHERE : w),
          );
      }
      for (const w of stems(c.explanation)) if (!plain.has(w)) add(w, row, WEIGHT.explanation);
    });
    for (const word of [...found.keys(), ...plain])
      if (/^[a-z]{4,}$/.test(word)) {
        const begun = this.byFirst.get(word[0]);
        if (begun) begun.push(word);
        else this.byFirst.set(word[0], [word]);
      }
    for (const [term, list] of found) {
      const total = [...list.values()].reduce((sum, w) => sum + w, 0) / 3;
      const rarity = Math.log(1 + rows.length / Math.max(0.5, total)) / Math.log(1 + rows.length);
      this.entries.set(
        term,
        [...list].map(([row, weight]) => ({ row, weight: weight * (0.35 + 0.65 * rarity) })),
      );
    }
  }

  private addSynonym(all: string[], row: number, add: (term: string, row: number, weight: number) => void): void {
    const words = all.filter((w) => !joining.has(w));
    if (words.length === 0) return;
    const isOwn = all.length === 1 && !weak.has(words[0]);
    if (words.length === 1) return add(words[0], row, isOwn ? WEIGHT.synonym : WEIGHT.inPhrase);
    const bare = words.every((w) => weak.has(w) || plain.has(w));
    add(
      words.slice(0, 3).join(' '),
      row,
      bare ? WEIGHT.inPhrase : WEIGHT.phrase + 0.6 * (Math.min(words.length, 3) - 2),
    );
    // The last word of an English compound is its head: a `car door` is a door.
    words.forEach((w, i) => {
      if (!plain.has(w)) add(w, row, i === words.length - 1 ? WEIGHT.inPhrase * 1.2 : WEIGHT.inPhrase);
    });
  }

  /** The rows that a term speaks for; undefined when it says nothing. */
  find(term: string): readonly Entry[] | undefined {
    return this.entries.get(term);
  }

  /** Whether a folded word is one of another language, and none of English. */
  isForeign(word: string): boolean {
    let is = this.foreign.get(word);
    if (is === undefined) {
      const english = this.entries.has(stem(word)) || plain.has(word) || abbreviations.has(word);
      is = !english && (foreignWords.has(word) || this.inflected(word) !== undefined);
      if (this.foreign.size > 50_000) this.foreign.clear();
      this.foreign.set(word, is);
    }
    return is;
  }

  /** Whether what a folded word means is guessed from its letters: it is no word of the list, nor of another language, nor cut short. */
  isGuess(word: string): boolean {
    const known = this.entries.has(stem(word)) || plain.has(word) || abbreviations.has(word) || this.shorts.has(word);
    return !known && !foreignWords.has(word) && this.inflected(word) === undefined;
  }

  /**
   * Reads one folded word: as it is, as an abbreviation, as a word of another language, as a compound, or misspelt.
   * @param foreign the text is in another language: a word that both have is read as that of the other
   */
  read(word: string, foreign = false): Reading {
    const key = foreign ? `~${word}` : word;
    let reading = this.split.get(key);
    if (!reading) {
      const meaning = foreign && !technical.has(word) ? foreignWords.get(word) : undefined;
      reading = meaning ? [...meaning].flatMap(stems) : this.readAfresh(word);
      if (this.split.size > 50_000) this.split.clear();
      this.split.set(key, reading);
    }
    return reading;
  }

  private readAfresh(word: string): Reading {
    const own = stem(word);
    const written = abbreviations.get(word);
    if (written !== undefined) return stems(written);
    if (this.entries.has(own) || plain.has(word)) return [own];
    if (/^\d+$/.test(word)) return [];
    const short = this.shorts.get(word);
    if (short) return stems(short);
    const foreign = foreignWords.get(word) ?? this.inflected(word);
    if (foreign) return [...foreign].flatMap(stems);
    return this.shortened(word) ?? this.compound(word) ?? this.foreignCompound(word) ?? this.similar(own) ?? [own];
  }

  /**
   * A word of which vowels were left out, and other letters perhaps: `thndr`, `pavmt`. Of the known words that have its letters in their
   * order the one of which it has most, where there is one.
   */
  private shortened(word: string): Reading | undefined {
    if (word.length < 3 || !/^[a-z][^aeiou\d]*[aeiou]?[^aeiou\d]*$/.test(word) || !/^[a-z]+$/.test(word))
      return undefined;
    const vowels = word.slice(1).replace(/[^aeiou]/g, '').length;
    if (vowels > 0 && word.length < 5) return undefined;
    const last = word[word.length - 1];
    let [best, shared, several] = ['', 0.4, false];
    for (const full of this.byFirst.get(word[0]) ?? []) {
      if (full.length <= word.length || !full.includes(last, 1)) continue;
      let at = 0;
      for (let i = 0; i < full.length && at < word.length; i++) if (full[i] === word[at]) at++;
      if (at < word.length) continue;
      // All consonants are there: that is how most people shorten.
      const whole = full.slice(1).replace(/[aeiou]/g, '') === word.slice(1).replace(/[aeiou]/g, '');
      const share = word.length / full.length + (whole ? 0.5 : 0) + (full.endsWith(last) ? 0.1 : 0);
      if (share > shared) [best, shared, several] = [full, share, false];
      else if (share === shared) several = true;
    }
    return best && !several ? [stem(best)] : undefined;
  }

  /** A word of another language with the usual endings, such as `Kirchenglocken`, `ladrando`, `portes`. */
  private inflected(word: string): ReadonlySet<string> | undefined {
    if (word.length < 5) return undefined;
    for (const cut of [1, 2, 3]) {
      const root = word.slice(0, -cut);
      if (root.length < 4) break;
      // What looks like an ending may be a word of its own: `Holztür`.
      if (cut > 2 && foreignWords.has(word.slice(-cut))) continue;
      const found = foreignWords.get(root) ?? foreignWords.get(`${root}e`) ?? foreignWords.get(`${root}en`);
      if (found) return found;
    }
    return undefined;
  }

  /** `doorslam` as door and slam: the fewest known parts of three letters or more. */
  private compound(word: string): Reading | undefined {
    if (word.length < 6 || !/^[a-z]+$/.test(word)) return undefined;
    for (let at = word.length - 3; at >= 3; at--) {
      const [head, tail] = [stem(word.slice(0, at)), stem(word.slice(at))];
      if (this.isStrong(head) && this.isStrong(tail)) return [head, tail];
    }
    return undefined;
  }

  private isStrong(term: string): boolean {
    return this.entries.get(term)?.some((e) => e.weight > 1) ?? false;
  }

  /** German joins words: `Blechdach`, `Holztür`. Scripts without spaces do so, too. */
  private foreignCompound(word: string): Reading | undefined {
    const ascii = /^[\x00-\x7f]*$/.test(word);
    const least = /\p{Script=Han}|\p{Script=Hiragana}|\p{Script=Katakana}/u.test(word) ? 1 : 4;
    if (word.length < least * 2 || (ascii && word.length < 8)) return undefined;
    const found: string[] = [];
    for (let from = 0; from < word.length;) {
      let step = 1;
      for (let to = word.length; to - from >= least; to--) {
        const part = word.slice(from, to);
        const meaning = foreignWords.get(part);
        if (!meaning) continue;
        found.push(...[...meaning].flatMap(stems));
        step = part.length;
        break;
      }
      from += step;
    }
    return found.length > 0 ? found : undefined;
  }

  /** The one known term that is one letter away from a misspelt word of seven letters or more. */
  private similar(word: string): Reading | undefined {
    if (word.length < 7 || !/^[a-z]+$/.test(word)) return undefined;
    const tries: string[] = [];
    for (let i = 0; i < word.length; i++) {
      tries.push(word.slice(0, i) + word.slice(i + 1));
      if (i + 1 < word.length) tries.push(word.slice(0, i) + word[i + 1] + word[i] + word.slice(i + 2));
      for (const c of 'abcdefghijklmnopqrstuvwxyz') {
        tries.push(word.slice(0, i) + c + word.slice(i + 1));
        tries.push(word.slice(0, i) + c + word.slice(i));
      }
    }
    const near = new Set(tries.filter((t) => t !== word && t.length > 4 && this.isStrong(t)));
    return near.size === 1 ? [...near] : undefined;
  }
}
