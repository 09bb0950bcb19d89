import { fieldOf, type Field } from '@core/library';
import { begunAt, fieldNames, valueText, type Begun, type FacetCount } from '@core/search';
import { ref, shallowRef } from 'vue';
import { useFind } from '../stores/find';
import { searchAround } from '../stores/view';
import { catalogue } from '../stores/workers';
import { useValueName } from '../shared/list/useValueName';

/** Something that may be meant by what is typed. */
export interface Completion {
  /** What stands in the query then. */
  text: string;
  shown: string;
  title?: string;
  count?: number;
}

const MOST = 8;

/** What may be meant by the word, field name or value at the caret, the most frequent first. */
export function useCompletion() {
  const find = useFind();
  const valueName = useValueName();
  const completions = shallowRef<Completion[]>([]);
  const begun = ref<Begun>();
  let newest = 0;

  function ofValue(field: Field, { value, count }: FacetCount): Completion {
    const shown = valueName(field.key, value);
    return { text: valueText(field.type === 'tags' ? shown : value), shown, title: `${field.label}: ${shown}`, count };
  }

  async function ofWord(part: string): Promise<Completion[]> {
    const names = part.length > 1 ? fieldNames(part).slice(0, 3) : [];
    const words = part.length > 1 ? await catalogue.words(part, MOST) : [];
    return [
      ...words.filter((w) => w.value !== part).map((w) => ({ text: w.value, shown: w.value, count: w.count })),
      ...names.map(({ name, field }) => ({ text: `${name}:`, shown: `${name}:`, title: `Search in ${field.label}` })),
    ];
  }

  /** Looks for what may be meant at a caret. */
  async function look(text: string, caret: number): Promise<void> {
    const own = ++newest;
    const at = begunAt(text, caret);
    if (!at) return close();
    const { field, part } = at;
    const values = async () => {
      // Values among all that the rest of the view lists; the query itself names one already.
      const search = searchAround(find.view);
      const facet = await catalogue.values(search, field!.key, part, MOST);
      return facet.values.filter((v) => v.value !== '').map((v) => ofValue(fieldOf(field!.key), v));
    };
    const found = field ? await values() : await ofWord(part);
    if (own !== newest) return;
    begun.value = at;
    completions.value = found.slice(0, MOST);
  }

  function close(): void {
    newest++;
    completions.value = [];
    begun.value = undefined;
  }

  return { completions, begun, look, close };
}
