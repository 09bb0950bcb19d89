import { fold } from '@core/naming';
import rows from './ucs.json';

/** One row of the Universal Category System's list, in its published columns. */
export interface Category {
  category: string;
  subCategory: string;
  catId: string;
  catShort: string;
  explanation: string;
  synonyms: string[];
}

/** The rows of the list that ship so far, in the list's order. CatIDs are the standard's; the words are ours. */
export const categories: readonly Category[] = (rows as string[][]).map(
  ([category, subCategory, catId, catShort, explanation, synonyms]) => ({
    category,
    subCategory,
    catId,
    catShort,
    explanation,
    synonyms: synonyms.split(', '),
  }),
);

const byId = new Map(categories.map((c) => [c.catId, c]));

/** The row of a CatID; undefined for one that the list does not have. */
export function categoryOf(catId: string): Category | undefined {
  return byId.get(catId);
}

function sentence(text: string): string {
  return text[0] + text.slice(1).toLowerCase();
}

/** A CatID in words, as the interface shows it: `Boats, mechanism`; the CatID itself when it is not in the list. */
export function categoryName(catId: string | undefined): string {
  if (!catId) return 'No category';
  const row = byId.get(catId);
  return row ? `${sentence(row.category)}, ${row.subCategory.toLowerCase()}` : catId;
}

/**
 * Rows that answer to a text: by CatID, by the beginning of a word of their names, or by a synonym, in that order.
 * An empty text gives the whole list.
 */
export function findCategories(text: string): Category[] {
  const wanted = fold(text.trim());
  if (!wanted) return [...categories];
  const begins = (words: string) =>
    fold(words)
      .split(/[^\p{L}\p{N}]+/u)
      .some((w) => w.startsWith(wanted));
  const score = (c: Category): number => {
    if (fold(c.catId).startsWith(wanted)) return 4;
    if (fold(`${c.category}, ${c.subCategory}`).startsWith(wanted) || begins(`${c.category} ${c.subCategory}`))
      return 3;
    if (c.synonyms.some((s) => fold(s) === wanted)) return 2;
    return c.synonyms.some(begins) ? 1 : 0;
  };
  return categories
    .map((category) => ({ category, score: score(category) }))
    .filter((c) => c.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((c) => c.category);
}
