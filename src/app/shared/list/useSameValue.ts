import { fieldOf, isNumeric, shownNumber, type FieldValue, type Sound } from '@core/library';
import { searchWords } from '@core/naming';
import { canFacet } from '@core/search';
import { useRouter } from 'vue-router';
import { useFind } from '../../stores/find';
import { queryOf, wide } from '../../stores/view';
import { useValueName } from './useValueName';

/** A value by which sounds of the same kind are found. */
export interface SameValue {
  key: string;
  /** Of a field of texts: one of its values. Of a number: what counts as about the same, from, included, to, not included. */
  value?: string;
  range?: [number, number];
  label: string;
}

/** Numbers that either are the same or are not. */
const exact = new Set(['channels', 'bits', 'rate', 'stars', 'take']);
const DAY = 86_400_000;

/** What is about the same as a number: the same day, within a tone, within a decibel or two, else within a tenth. */
function about(key: string, value: number): [number, number] {
  const { type, unit } = fieldOf(key);
  if (exact.has(key)) return [value, value + 0.5];
  if (type === 'date') {
    const day = new Date(value).setHours(0, 0, 0, 0);
    return [day, day + DAY];
  }
  const by = /^(LU|LUFS|dBTP|dBFS)$/.test(unit ?? '') ? 1.5 : Math.max(Math.abs(value) * 0.12, 1e-3);
  const round = (n: number) => Number(n.toPrecision(4));
  return [round(value - by), round(value + by)];
}

/** Finds, from any value shown anywhere, the sounds that share it or come near it. */
export function useSameValue() {
  const find = useFind();
  const router = useRouter();
  const valueName = useValueName();

  /** What can be found by a field of a sound; of lists and tags one for each. */
  function valuesOf(key: string, value: FieldValue | undefined): SameValue[] {
    const field = fieldOf(key);
    if (value === undefined || value === '' || key === 'heard') return [];
    if (isNumeric(field)) {
      const number = value as number;
      const shown = field.type === 'date' ? new Date(number).toLocaleDateString() : shownNumber(field, number);
      const word = exact.has(key) || field.type === 'date' ? '' : 'about ';
      return [{ key, range: about(key, number), label: `${field.label}: ${word}${shown}` }];
    }
    if (!canFacet(field)) return [];
    return [value].flat().map((v) => ({
      key,
      value: String(v),
      label: key === 'takeGroup' ? 'All takes of this sound' : `${field.label}: ${valueName(key, String(v))}`,
    }));
  }

  /** Lists the sounds that share a value, within what is listed or, from another screen, within all. @param without those that do not */
  function look({ key, value, range }: SameValue, without = false): void {
    const here = router.currentRoute.value.name === 'find';
    if (here && value !== undefined) return find.toggleFacet(key, value, without);
    if (here && range) return find.chooseRange(key, range);
    const all = { ...wide(), trail: [] };
    const view = value === undefined ? { ...all, ranges: { [key]: range! } } : { ...all, facets: { [key]: [value] } };
    void router.push({ name: 'find', query: queryOf(view) });
  }

  /** Lists sounds whose names have the same words. */
  function lookForWords(sound: Sound): void {
    const words = searchWords(String(sound.fields.fxName ?? '')).filter((w) => /\p{L}{2}/u.test(w));
    if (words.length > 0) find.begin({ text: `${words.join(' ')} ` });
  }

  return { valuesOf, look, lookForWords };
}
