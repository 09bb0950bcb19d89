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
  };
}
