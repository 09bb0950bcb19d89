/** A licence as a code of Creative Commons or a plain word, and what it asks for. */
export interface Licence {
  code: string;
  /** Whether the author must be named. */
  credit: boolean;
  /** Whether it may be used in paid work. */
  commercial: boolean;
  /** Whether what is made of it has to be shared under the same licence, or may not be shared at all. */
  alike?: boolean;
  unchanged?: boolean;
  /** Where its text stands, for those who print credits. */
  url?: string;
}

/** A licence of Creative Commons, of any version. @param kind such as `BY-NC`, or `0` */
function creativeCommons(kind: string, version: string): Licence {
  const isZero = kind === '0';
  const parts = kind.split('-');
  return {
    code: isZero ? `CC0 ${version}` : `CC ${kind} ${version}`,
    credit: !isZero,
    commercial: !parts.includes('NC'),
    ...(parts.includes('SA') ? { alike: true } : {}),
    ...(parts.includes('ND') ? { unchanged: true } : {}),
    url: isZero
      ? `https://creativecommons.org/publicdomain/zero/${version}/`
      : `https://creativecommons.org/licenses/${kind.toLowerCase()}/${version}/`,
  };
}

/** Licences that the interface offers; others stay as the file says them. */
export const licences: readonly Licence[] = [
  { code: 'Owned', credit: false, commercial: true },
  creativeCommons('0', '1.0'),
  creativeCommons('BY', '4.0'),
  creativeCommons('BY-SA', '4.0'),
  creativeCommons('BY-NC', '4.0'),
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

const whole = /^CC(?:(0)| (BY(?:-(?:NC|SA|ND))*)) (\d\.\d)$/;

/** What a licence code asks for; an unknown one asks for everything, to be safe. */
export function licenceOf(code: string | undefined): Licence {
  const known = licences.find((l) => l.code === code);
  if (known) return known;
  const cc = whole.exec(code ?? '');
  if (cc) return creativeCommons(cc[1] ?? cc[2], cc[3]);
  return { code: code ?? 'Not stated', credit: true, commercial: false };
}
