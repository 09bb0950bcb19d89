import { fields } from '@core/library';
import { searchWords } from '@core/naming';
import { searchedText, type FacetCount, type SoundIndex } from '@core/search';
import type { Store } from '../store/store';

/** Sounds whose words are looked at for the neighbours of one. */
const LOOKED = 500;

/** Words that stand beside a word in the same sounds more often than elsewhere, the closest first. */
export async function neighboursOf(index: SoundIndex, store: Store, word: string, most: number): Promise<FacetCount[]> {
  const found = index.find({ query: { kind: 'word', word, prefix: false, literal: true } }).first(LOOKED);
  const counts = new Map<string, number>();
  for (const sound of await store.sounds.bulkGet([...found])) {
    const words = fields
      .filter((f) => f.weight > 1)
      .flatMap(({ key }) => {
        const value = sound?.fields[key];
        const texts = Array.isArray(value) ? (value as readonly unknown[]) : [value];
        return texts.flatMap((t) => (typeof t === 'string' ? searchWords(searchedText(key, t)) : []));
      });
    for (const other of new Set(words))
      if (other !== word && /\p{L}{3}/u.test(other)) counts.set(other, (counts.get(other) ?? 0) + 1);
  }
  // How much oftener than by chance, and not by a single one.
  const lift = (other: string, count: number) => (count * Math.log2(1 + count)) / Math.max(1, index.occurrences(other));
  return [...counts]
    .filter(([, count]) => count > Math.min(1, found.length / 4))
    .map(([value, count]) => ({ value, count, lift: lift(value, count) }))
    .sort((a, b) => b.lift - a.lift || b.count - a.count || (a.value < b.value ? -1 : 1))
    .slice(0, most)
    .map(({ value, count }) => ({ value, count }));
}
