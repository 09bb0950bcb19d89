import type { Sound } from '@core/library';
import { lengthOf, nameOf } from '@core/library';
import { searchWords } from '@core/naming';

/**
 * Orders sounds by how well they might stand in for another: words of the name that both share, then how near their
 * lengths are. A doubling or halving of the length weighs as much as one shared word.
 */
export function rankAlternates(own: Sound, others: readonly Sound[]): Sound[] {
  const words = new Set(searchWords(nameOf(own)).filter((w) => !/^\d+$/.test(w)));
  const score = (s: Sound) => {
    const shared = new Set(searchWords(nameOf(s)).filter((w) => words.has(w))).size;
    return shared - Math.abs(Math.log2(lengthOf(s) / lengthOf(own)));
  };
  return others
    .filter((s) => s.id !== own.id)
    .map((sound) => ({ sound, score: score(sound) }))
    .sort((a, b) => b.score - a.score)
    .map((s) => s.sound);
}
