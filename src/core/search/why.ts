import type { Comparison, Ear } from './ear';
import type { Evaluation, Indexed } from './evaluate';
import { fieldOfMask } from './masks';
import type { PlainWord } from './loosen';
import type { Query } from './query';

/** Why a sound is among results, for one word of the query. */
export interface Reason {
  /** The word that was asked for, folded. */
  asked: string;
  /**
   * The word itself is there, or one that begins with it; another form of it; a word that means it; its category means it; the sound
   * is as it says; it is not there.
   */
  how: 'word' | 'form' | 'meant' | 'category' | 'heard' | 'lacking';
  /** The word, or the tag's or the category's id, that is there. */
  found?: string;
  /** Key of the field in which it is there; the one that counts most. */
  field?: string;
  /** How a word that is meant stands to the one that was asked for, where the lexicon says. */
  kinship?: string;
  /** How the sound compares with others. */
  compared?: Comparison[];
}

type Word = Extract<Query, { kind: 'word' }>;

function wordsIn(query: Query): Word[] {
  if (query.kind === 'word') return [query];
  return query.kind === 'and' || query.kind === 'or' ? query.parts.flatMap(wordsIn) : [];
}

const hows = ['word', 'form', 'meant'] as const;

/** The best of the occurrences that answer a word in one slot. */
function occurrence(word: Word, slot: number, evaluation: Evaluation, index: Indexed): Reason | undefined {
  let best: (Reason & { worth: number }) | undefined;
  for (const { part, from, to, worth, tier } of evaluation.runs(word, true)) {
    const { starts, slots, masks } = part.segment.parts;
    if (part.stale && index.owner[slot] !== part.serial) continue;
    for (let i = from; i < to; i++) {
      const at = slots.subarray(starts[i], starts[i + 1]).indexOf(slot);
      const value = at < 0 ? 0 : worth[masks[starts[i] + at]] + 256 * (hows.length - tier);
      if (at < 0 || value <= (best?.worth ?? 0) || worth[masks[starts[i] + at]] === 0) continue;
      const found = part.segment.word(i);
      const field = fieldOfMask(index.masks.masks[masks[starts[i] + at]], word.field);
      best = { asked: word.word, how: hows[tier], found, field, worth: value };
    }
  }
  if (!best) return undefined;
  const { worth: _, ...reason } = best;
  if (reason.how !== 'meant') return reason;
  if (reason.field === 'catId') return { ...reason, how: 'category' };
  const kinship = index.lexicon
    .of(word.word)
    .find((n) => n.word === reason.found || index.lexicon.sameWord(n.word, reason.found!))?.kinship;
  return { ...reason, kinship };
}

/** Why a slot is among the results of a query, for each of its words. @param words of which some may be lacking */
export function reasonsFor(
  slot: number,
  query: Query,
  words: readonly PlainWord[],
  { evaluation, index, ear }: { evaluation: Evaluation; index: Indexed; ear?: Ear },
): Reason[] {
  const asked = words.length > 0 ? words : wordsIn(query);
  return asked.flatMap((word): Reason[] => {
    const found = occurrence(word, slot, evaluation, index);
    const compared = found ? [] : (ear?.compare(word.word, slot) ?? []);
    if (found) return [found];
    if (compared.length > 0) return [{ asked: word.word, how: 'heard', compared }];
    return words.length > 0 ? [{ asked: word.word, how: 'lacking' }] : [];
  });
}
