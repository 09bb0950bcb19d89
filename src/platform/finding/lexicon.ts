import { meaning } from '@core/meaning';
import { stem } from '@core/naming';
import type { WordLexicon } from '@core/search';
import { abbreviations, foreignWords } from '@core/suggest';

/** What people write for a word in a hurry, by its stem. */
const shorts = new Map<string, string[]>();
for (const [short, full] of abbreviations)
  if (/^[a-z]+$/.test(full)) shorts.set(stem(full), [...(shorts.get(stem(full)) ?? []), short]);

/** A word without its vowels but a first one: `dstnt`; shorter than three letters it says nothing. */
function withoutVowels(word: string): string[] {
  const short = word[0] + word.slice(1).replace(/[aeiou]/g, '');
  return /^[a-z]+$/.test(word) && short.length > 2 && short !== word ? [short] : [];
}

/** No part of a word that was typed as one is shorter. */
const LEAST = 3;

/**
 * The two words that were typed as one, `latchclick`: the longest that the shorter of them may be, where both are known and the whole is
 * none. One that is known as it is, is left alone.
 */
export function partsOf(word: string, known: (part: string) => boolean): readonly string[] | undefined {
  if (!/^[a-z]+$/.test(word) || known(word) || foreignWords.has(word)) return undefined;
  const middle = word.length / 2;
  const places = Array.from({ length: word.length - 2 * LEAST + 1 }, (_, i) => LEAST + i);
  const at = places
    .sort((a, b) => Math.abs(a - middle) - Math.abs(b - middle))
    .find((i) => known(word.slice(0, i)) && known(word.slice(i)));
  return at === undefined ? undefined : [word.slice(0, at), word.slice(at)];
}

/** What searching knows of words: what stands near them, how they are cut short, and what those of other languages are in English. */
export function searchLexicon(): WordLexicon {
  const known = meaning();
  return {
    of(word) {
      const english = known.has(word) ? undefined : foreignWords.get(word);
      const full = abbreviations.get(word);
      const short = [...(shorts.get(stem(word)) ?? []), ...withoutVowels(word)].filter((s) => !known.has(s));
      const near = [...(english ?? []), ...(full ? full.split(' ').slice(0, 1) : []), ...short];
      return [...near.map((text) => ({ word: text })), ...(english ? [] : known.of(word))];
    },
    sameWord: (a, b) => known.sameWord(a, b),
    parts: (word) => partsOf(word, (part) => known.lemmas(part).length > 0 || abbreviations.has(part)),
  };
}
