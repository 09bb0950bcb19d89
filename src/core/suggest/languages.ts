import { fold } from '@core/naming';
import rows from './languages.json';

/** The languages of the built-in list of category words, as BCP 47 tags. */
export const languages = ['en', 'de', 'fr', 'es', 'it', 'pt', 'ja', 'zh'] as const;
export type Language = (typeof languages)[number];

/** The languages by their own names. */
export const languageNames: Readonly<Record<Language, string>> = {
  en: 'English',
  de: 'Deutsch',
  fr: 'Français',
  es: 'Español',
  it: 'Italiano',
  pt: 'Português',
  ja: '日本語',
  zh: '中文',
};

const table = rows as unknown as [string, ...string[][]][];

/** Category names in each language but English: `words('WOOD', 'de')` gives `Holz`. */
export const categoryWords: ReadonlyMap<string, Readonly<Record<Language, readonly string[]>>> = new Map(
  table
    .filter(([head]) => head.startsWith('='))
    .map(([head, ...others]) => [
      head.slice(1),
      Object.fromEntries(languages.map((l, i) => [l, i === 0 ? [head.slice(1)] : others[i - 1]])) as never,
    ]),
);

const english = new Map<string, Set<string>>();
for (const [head, ...others] of table)
  for (const text of others.flat()) {
    const key = fold(text);
    english.set(key, (english.get(key) ?? new Set()).add(head.replace(/^=/, '').toLowerCase()));
  }

/** The words of the list in all languages but English, folded, with what they mean in English. */
export const foreignWords: ReadonlyMap<string, ReadonlySet<string>> = english;

/** Categories whose name in any language but English is this folded word, or begins with it (from four letters on). */
export function categoriesInAnyLanguage(word: string, prefix: boolean): string[] {
  const begun = prefix && (word.length > 3 || /[^\x00-\x7f]/.test(word));
  const found: string[] = [];
  for (const [category, byLanguage] of categoryWords) {
    const answers = languages.some(
      (l, i) =>
        i > 0 &&
        byLanguage[l].some((text) => {
          const own = fold(text);
          return own === word || (begun && own.startsWith(word));
        }),
    );
    if (answers) found.push(category);
  }
  return found;
}
