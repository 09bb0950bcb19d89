import type { Sheet } from '@core/library';
import { categoryOf, type OwnCategory } from './categories';

/** A CatID as file names can hold it. */
export const isCatId = (text: string): boolean => /^[A-Za-z0-9]{3,24}$/.test(text);

const words = (text: string) =>
  text
    .split(',')
    .map((w) => w.trim())
    .filter(Boolean);

/**
 * Rows of a sheet of the category list, in its published columns and any order, that are new or differ from the list in use.
 * What a sheet leaves out stays as it is.
 * @throws Error for a sheet without the columns Category, SubCategory and CatID
 */
export function categoriesFromSheet(sheet: Sheet): Omit<OwnCategory, 'id'>[] {
  const heads = sheet.columns.map((c) => c.toLowerCase().replace(/[^a-z]/g, ''));
  const at = (...names: string[]) => heads.findIndex((h) => names.includes(h));
  const category = at('category');
  const subCategory = at('subcategory');
  const catId = at('catid');
  if (category < 0 || subCategory < 0 || catId < 0)
    throw new Error(
      'it needs the columns Category, SubCategory and CatID, and may have CatShort, Explanations, Synonyms',
    );
  const [catShort, explanation] = [at('catshort'), at('explanations', 'explanation')];
  const synonyms = at('synonyms', 'synonymscommaseparated');
  return sheet.rows.flatMap((row) => {
    const id = row[catId].trim();
    if (!isCatId(id)) return [];
    const there = categoryOf(id);
    const cell = (column: number, otherwise = '') => (column < 0 ? '' : row[column].trim()) || otherwise;
    const read = {
      category: cell(category).toUpperCase(),
      subCategory: cell(subCategory).toUpperCase(),
      catId: id,
      catShort: cell(catShort, there?.catShort),
      explanation: cell(explanation, there?.explanation),
      synonyms: cell(synonyms) ? words(cell(synonyms)) : (there?.synonyms ?? []),
    };
    const same =
      there && Object.entries(read).every(([key, v]) => JSON.stringify(v) === JSON.stringify(there[key as never]));
    return same ? [] : [{ ...read, own: false }];
  });
}
