/** The forms of case that a text can be put into. */
export const caseForms = ['lower', 'upper', 'title', 'sentence', 'camel', 'first'] as const;
export type CaseForm = (typeof caseForms)[number];

/** Words that stay small inside of a title; the first and last word are always large. */
const small = new Set(
  'a an and as at but by en for from in into nor of off on onto or over per so the to up via vs with yet'.split(' '),
);
const word = /[\p{L}\p{M}\p{N}][\p{L}\p{M}\p{N}’']*/gu;
const capital = (w: string) => w[0].toLocaleUpperCase('en') + w.slice(1);
/** Codes such as `UCS`, `4x4`, `SM57` and names such as `McKay` keep their form. */
const coded = (w: string) => w.length > 1 && (/\d/.test(w) || (/\p{Lu}/u.test(w.slice(1)) && /\p{Ll}/u.test(w)));
/** In a text that is not all in capitals, what is (`UCS bed`) is a code. */
const codes = (text: string) => {
  const mixed = /\p{Ll}/u.test(text);
  return (w: string) => coded(w) || (mixed && w.length > 1 && !/\p{Ll}/u.test(w));
};

/**
 * Puts a text into a form of case.
 * `title` capitalises words except the short ones inside; `sentence` the first word only; `camel` joins `harbor winch` to
 * `harborWinch`; `first` only enlarges the first letter and leaves the rest.
 */
export function inCase(text: string, form: CaseForm): string {
  switch (form) {
    case 'lower':
      return text.toLocaleLowerCase('en');
    case 'upper':
      return text.toLocaleUpperCase('en');
    case 'first':
      return text.replace(/\p{L}/u, (c) => c.toLocaleUpperCase('en'));
    case 'sentence': {
      const keep = codes(text);
      const lower = text.replace(word, (w) => (keep(w) ? w : w.toLocaleLowerCase('en')));
      return lower.replace(/\p{L}/u, (c) => c.toLocaleUpperCase('en'));
    }
    case 'camel':
      return (text.match(word) ?? [])
        .map((w, i) => (i === 0 ? w.toLocaleLowerCase('en') : capital(w.toLocaleLowerCase('en'))))
        .join('');
    case 'title': {
      const keep = codes(text);
      const count = text.match(word)?.length ?? 0;
      let at = 0;
      return text.replace(word, (w) => {
        const edge = at === 0 || at === count - 1;
        at++;
        if (keep(w)) return w;
        const lower = w.toLocaleLowerCase('en');
        return !edge && small.has(lower) ? lower : capital(lower);
      });
    }
  }
}
