import { fieldOf } from '@core/library';
import type { BandStart, Reason } from '@core/search';
import { categories, categoryName } from '@core/suggest';

/** The heading of a band of results. @param several whether more than one word was asked for */
export function bandTitle({ kind, word, least }: BandStart, several: boolean): string {
  switch (kind) {
    case 'words':
      return several ? 'All the words' : 'The word itself';
    case 'forms':
      return several ? 'Other forms of the words' : 'Other forms of the word';
    case 'meant':
      return 'Close in meaning';
    case 'heard':
      return 'By ear, though no label says so';
    case 'without':
      return `Without “${word}”`;
    case 'some':
      return least === 1 ? 'Only one of the words' : `Only ${least} of the words`;
  }
}

const kinships: Record<string, (asked: string) => string> = {
  form: (asked) => `made of “${asked}”`,
  same: (asked) => `another word for “${asked}”`,
  kind: (asked) => `a kind of “${asked}”`,
  part: (asked) => `a part of “${asked}”`,
  whole: (asked) => `what “${asked}” is a part of`,
  general: (asked) => `what “${asked}” is a kind of`,
};

function clause({ asked, how, found = '', field, kinship, compared = [] }: Reason): string {
  const place = field && field !== 'fxName' ? `${fieldOf(field).label.toLowerCase()}` : 'name';
  switch (how) {
    case 'word':
      return found.startsWith('#') ? `“${asked}” is one of its tags` : `“${found}” in its ${place}`;
    case 'form':
      return `“${found}” in its ${place}, a form of “${asked}”`;
    case 'meant':
      return `“${found}” in its ${place}, ${kinships[kinship ?? '']?.(asked) ?? `which stands for “${asked}”`}`;
    case 'category': {
      const catId = categories.find((c) => c.catId.toLowerCase() === found)?.catId;
      return `its category, ${catId ? categoryName(catId) : found}, means “${asked}”`;
    }
    case 'heard':
      return compared.map(({ than, share }) => `${than} than ${Math.round(100 * share)} % of these`).join(' and ');
    case 'lacking':
      return `“${asked}” is not there`;
  }
}

/** Why a row is among the results, in words; empty when there is nothing to be said. */
export const whyText = (reasons: readonly Reason[]): string => reasons.map(clause).join('; ');
