import { closer, type Closely, type SoundIndex } from '@core/search';
import { FACTS_VERSION, type FactsRecord, type Store } from '../store/store';

/** The sounds that were found nearest to one, in the order of a closer look; those that were measured too long ago stand last. */
export async function closerTo(
  index: SoundIndex,
  store: Store,
  id: number,
  found: readonly number[],
): Promise<number[]> {
  const rows = await store.facts.bulkGet([id, ...found]);
  const closely = (of: number, facts: FactsRecord | undefined): Closely | undefined => {
    const vector = index.vectorOf(of);
    if (!vector || facts?.version !== FACTS_VERSION) return undefined;
    const [decay, trend, unrest] = ['decay', 'trend', 'unrest'].map((key) => index.numberOf(of, key));
    return { vector, course: facts.course, decay, trend, unrest };
  };
  const own = closely(id, rows[0]);
  if (!own) return [...found];
  const known = found.flatMap((other, i) => {
    const looked = closely(other, rows[i + 1]);
    return looked ? [{ other, looked }] : [];
  });
  const order = closer(
    own,
    known.map((k) => k.looked),
  ).map((i) => known[i].other);
  const placed = new Set(order);
  return [...order, ...found.filter((other) => !placed.has(other))];
}
