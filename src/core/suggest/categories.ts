import { fold, stem } from '@core/naming';
import { categoriesInAnyLanguage, categoryWords, languages } from './languages';
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

/** A row that a user made, or that a newer sheet of the list brought. */
export interface OwnCategory extends Category {
  id: number;
  /** Made by the user rather than brought by a sheet. */
  own: boolean;
}

/** The list that ships: CatIDs are the standard's (version 8.2); explanations and synonyms are ours. */
export const shipped: readonly Category[] = (rows as string[][]).map(
  ([category, subCategory, catId, catShort, explanation, synonyms]) => ({
    category,
    subCategory,
    catId,
    catShort,
    explanation,
    synonyms: synonyms.split(', '),
  }),
);

/** The list in use, in its order: what ships, under what the user's rows say. Each thread has one, like a locale. */
export let categories: readonly Category[] = shipped;
let byId = new Map(categories.map((c) => [c.catId, c]));
let byName = new Map<string, string[]>();
/** CatIDs by the stem of a synonym, made when first asked for. */
let synonymIds: Map<string, string[]> | undefined;

const nameOf = (category: string, subCategory: string) => `${fold(category).trim()}\n${fold(subCategory).trim()}`;
/** CatIDs by the names of Category and SubCategory. */
let idOfName = new Map<string, string>();
/** CatIDs that the list had before, and what they became. */
const corrected: ReadonlyMap<string, string> = new Map([
  ['FIREBrn', 'FIREBurn'],
  ...['Angl', 'Elem', 'Evil', 'Misc', 'Poof', 'Shim', 'Spel'].map((s) => [`MAGC${s}`, `MAG${s}`] as const),
]);
/** The same by a sheet that was laid over the list. */
let superseded = new Map<string, string>();

/**
 * Lays the user's rows over the list that ships. A row of a sheet that has another CatID for the same Category and SubCategory takes the
 * place of ours.
 */
export function useCategories(own: readonly OwnCategory[]): void {
  const over = new Map(own.map((c) => [c.catId, c as Category]));
  const fromSheets = new Map(own.filter((c) => !c.own).map((c) => [nameOf(c.category, c.subCategory), c.catId]));
  superseded = new Map(
    shipped.flatMap((c) => {
      const id = over.has(c.catId) ? undefined : fromSheets.get(nameOf(c.category, c.subCategory));
      return id === undefined || id === c.catId ? [] : [[c.catId, id] as const];
    }),
  );
  categories = [
    ...shipped.filter((c) => !superseded.has(c.catId)).map((c) => over.get(c.catId) ?? c),
    ...own.filter((c) => !shippedIds.has(c.catId)),
  ];
  byId = new Map(categories.map((c) => [c.catId, c]));
  idOfName = new Map(categories.map((c) => [nameOf(c.category, c.subCategory), c.catId]));
  byName = new Map();
  synonymIds = undefined;
  for (const c of categories) byName.set(c.category, [...(byName.get(c.category) ?? []), c.catId]);
}
const shippedIds = new Set(shipped.map((c) => c.catId));
useCategories([]);

/** Whether a CatID is known. */
export const isCategory = (catId: string): boolean => categoryOf(catId) !== undefined;

/** The row of a CatID; undefined for one that the list does not have. */
export function categoryOf(catId: string): Category | undefined {
  return byId.get(catId);
}

/** The CatID of a Category and a SubCategory, however they are written; undefined for a pair that the list does not have. */
export function catIdOf(category: string, subCategory: string): string | undefined {
  return idOfName.get(nameOf(category, subCategory));
}

/** The CatID that took the place of one which the list does not have any more. */
export function successorOf(catId: string): string | undefined {
  const next = superseded.get(catId) ?? corrected.get(catId);
  return next === undefined || byId.has(next) ? next : superseded.get(next);
}

/** CatIDs of the categories that a folded word names in another language than English. */
export function catIdsInAnyLanguage(word: string, prefix: boolean): string[] {
  return categoriesInAnyLanguage(word, prefix).flatMap((name) => byName.get(name) ?? []);
}

/**
 * CatIDs of the categories that a folded word stands for without being in their names: as a synonym of the list in any form, or
 * as their name in another language. @param prefix whether the word may be only begun
 */
export function catIdsMeant(word: string, prefix: boolean): readonly string[] {
  if (!synonymIds) {
    synonymIds = new Map();
    for (const { catId, synonyms } of categories)
      for (const root of new Set(synonyms.filter((s) => !s.includes(' ')).map(stem)))
        synonymIds.set(root, [...(synonymIds.get(root) ?? []), catId]);
  }
  return [...(synonymIds.get(stem(word)) ?? []), ...catIdsInAnyLanguage(word, prefix)];
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

const wordsOf = (text: string) => fold(text).match(/[\p{L}\p{N}]+/gu) ?? [];

/** Whether two words differ by one letter that is missing, too many, another, or swapped with its neighbour. */
function oneOff(a: string, b: string): boolean {
  if (Math.abs(a.length - b.length) > 1 || a === b) return false;
  let i = 0;
  while (i < a.length && a[i] === b[i]) i++;
  const rest = (x: string, n: number) => x.slice(i + n);
  return (
    rest(a, 1) === rest(b, 1) ||
    rest(a, 1) === rest(b, 0) ||
    rest(a, 0) === rest(b, 1) ||
    (a[i] === b[i + 1] && a[i + 1] === b[i] && rest(a, 2) === rest(b, 2))
  );
}

interface Prepared {
  id: string;
  names: string[];
  nameStems: Set<string>;
  synonyms: Set<string>;
  words: string[];
  wordStems: Set<string>;
  foreign: string[];
}

const ready = new WeakMap<Category, Prepared>();
/** What a row is compared by, folded once. */
function prepared(c: Category): Prepared {
  let made = ready.get(c);
  if (!made) {
    const names = [...wordsOf(c.category), ...wordsOf(c.subCategory)];
    const words = [...new Set(c.synonyms.flatMap(wordsOf))];
    const foreign = categoryWords.get(c.category);
    made = {
      id: fold(c.catId),
      names,
      nameStems: new Set(names.map(stem)),
      synonyms: new Set(c.synonyms.map(fold)),
      words,
      wordStems: new Set(words.map(stem)),
      foreign: foreign ? languages.flatMap((l) => foreign[l].map(fold)) : [],
    };
    ready.set(c, made);
  }
  return made;
}

/** How well a word stands for a row; 0 when it does not. @param root the word's stem */
function answers(c: Prepared, word: string, root: string): number {
  if (c.id === word) return 9;
  if (c.id.startsWith(word)) return 7;
  if (c.names.includes(word)) return 6;
  if (c.synonyms.has(word)) return 5.5;
  if (c.nameStems.has(root)) return 5;
  if (c.names.some((w) => w.startsWith(word))) return 4;
  if (c.wordStems.has(root)) return 3;
  if (word.length > 2 && c.words.some((w) => w.startsWith(word))) return 2;
  // A single sign is a whole word in some scripts.
  if ((word.length > 1 || word > '\u2e7f') && c.foreign.some((w) => w.startsWith(word))) return 1.5;
  if (word.length > 4 && c.names.some((w) => oneOff(w, word))) return 1.4;
  if (word.length > 4 && c.words.some((w) => oneOff(w, word))) return 1;
  return 0;
}

/**
 * Rows that answer to a text, best first: by CatID, by name, by synonym, by their name in another language, or with one letter
 * wrong; of several words each must stand for the row. An empty text gives the whole list.
 */
export function findCategories(text: string): Category[] {
  const words = wordsOf(text);
  if (words.length === 0) return [...categories];
  const roots = words.map(stem);
  const whole = words.join(' ');
  return categories
    .map((category) => {
      const row = prepared(category);
      const each = words.map((w, i) => answers(row, w, roots[i]));
      const phrase = words.length > 1 && row.synonyms.has(whole) ? 4 : 0;
      return { category, score: each.includes(0) ? phrase : each.reduce((sum, n) => sum + n, phrase) };
    })
    .filter((c) => c.score > 0)
    .sort((a, b) => b.score - a.score)
    .map((c) => c.category);
}
