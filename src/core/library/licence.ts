/** A licence as a code of Creative Commons or a plain word, and what it asks for. */
export interface Licence {
  code: string;
  /** Whether the author must be named. */
  credit: boolean;
  /** Whether it may be used in paid work. */
  commercial: boolean;
}

/** Licences that the interface offers; others stay as the file says them. */
export const licences: readonly Licence[] = [
  { code: 'Owned', credit: false, commercial: true },
  { code: 'CC0 1.0', credit: false, commercial: true },
  { code: 'CC BY 4.0', credit: true, commercial: true },
  { code: 'CC BY-SA 4.0', credit: true, commercial: true },
  { code: 'CC BY-NC 4.0', credit: true, commercial: false },
];

const pattern = /\bCC[ -]?(0|BY(?:-(?:NC|SA|ND))*)(?:[ -]?v?(\d\.\d))?(?![\w-])/i;

/** Finds a licence in a text of a file: a Creative Commons code or `Licence: Owned`. Undefined when none is named. */
export function findLicence(text: string): string | undefined {
  const cc = pattern.exec(text);
  if (cc) {
    const kind = cc[1].toUpperCase();
    return kind === '0' ? `CC0 ${cc[2] ?? '1.0'}` : `CC ${kind} ${cc[2] ?? '4.0'}`;
  }
  return /\blicen[cs]e:? owned\b/i.test(text) ? 'Owned' : undefined;
}

/** What a licence code asks for; an unknown one asks for everything, to be safe. */
export function licenceOf(code: string | undefined): Licence {
  return licences.find((l) => l.code === code) ?? { code: code ?? 'Not stated', credit: true, commercial: false };
}
