import type { Band } from './band';
import { Bitset, inAtLeast } from './bitset';
import type { Column } from './columns';
import { Ear, earWords } from './ear';
import { TIERS, type Evaluation, type Tiers } from './evaluate';
import type { Finding } from './finding';
import type { PlainWord } from './loosen';
import type { Request } from './request';

/** What a sound is compared with by ear are the others that the rest of a query means; these are too few, and it is all sounds. */
const ALONE = 8;

/** The ear by which the words of a query are heard, and the slots among which they are; undefined where no word can be heard. */
export function earOf(
  evaluation: Evaluation,
  words: readonly PlainWord[],
  { all, columns, narrow }: Pick<Around, 'all' | 'columns' | 'narrow'>,
): { ear: Ear; among: Bitset; heard: readonly PlainWord[] } | undefined {
  const heard = words.filter((w) => earWords.has(w.word));
  if (heard.length === 0) return undefined;
  const among = all.copy();
  for (const word of words) if (!heard.includes(word)) among.and(evaluation.tiers(word).at(-1)!);
  narrow(among);
  const others = among.list();
  return { ear: new Ear(columns, others.length < ALONE ? all.list() : others), among, heard };
}

/** What sounds as the words of a query say that no label says. @param found is left out */
function heardBand(
  evaluation: Evaluation,
  { ear, among, heard }: NonNullable<ReturnType<typeof earOf>>,
  found: Bitset,
  scores: Uint16Array,
): Band {
  const set = among.copy().andNot(found);
  for (const word of heard) ear.keep(word.word, set, evaluation.tiers(word).at(-1)!, scores);
  return { kind: 'heard', set };
}

/** What lacks one word, and how near that is to what was asked for. */
interface Lacking {
  band: Band;
  own: boolean;
  often: number;
  quality: boolean;
}

/** Words that say how something is, beside those of the ear. */
const qualities = new Set('small large big little tiny huge old new wooden single female male young'.split(' '));

/** With fewer results than this, those that lack one of three or more words are shown, too. */
const FEW = 5;

const kinds = ['words', 'forms', 'meant'] as const;

/** The tiers of a query as bands; sets that stand for several tiers make one. */
function tierBands(tiers: Tiers): Band[] {
  return tiers.flatMap((set, t) =>
    t > 0 && set === tiers[t - 1]
      ? []
      : [{ kind: kinds[t], set: t === 0 ? set.copy() : set.copy().andNot(tiers[t - 1]) }],
  );
}

/**
 * What has most of the words of a query, in rounds: each is looked at only where those before it gave too little.
 * @param words of the query, two or more
 * @param found what was found with all of them; left out
 * @param count how many results there are with all of them, once narrowed, and how many of these as they were asked for
 * @param total how many there are by now
 */
function* lesser(
  evaluation: Evaluation,
  words: readonly PlainWord[],
  found: () => Bitset,
  count: { all: number; own: number },
  total: () => number,
): Generator<Band[]> {
  if (words.length < 2 || count.all >= FEW || (words.length === 2 && count.own > 0)) return;
  const tiers = words.map((word) => evaluation.tiers(word));
  const known = found();
  const others = (i: number, tier: number) =>
    tiers
      .flatMap((t, k) => (k === i ? [] : [t[tier]]))
      .reduce<Bitset | undefined>((all, s) => (all ? all.and(s) : s.copy()), undefined)!
      .andNot(known);
  const without = words.map(({ word }, i): Lacking => ({
    band: { kind: 'without', word, set: others(i, TIERS - 1) },
    // Where the words that are left are there themselves, and not only by what they mean, it is nearer.
    own: !others(i, 1).empty,
    often: tiers[i][1].count(),
    // How something is matters less than what it is.
    quality: earWords.has(word) || qualities.has(word),
  }));
  // What lacks the commonest word has the rarer ones. A sound that lacks one word lacks no other.
  const order = (a: Lacking, b: Lacking) =>
    Number(b.quality) - Number(a.quality) || Number(b.own) - Number(a.own) || b.often - a.often;
  yield without.sort(order).map(({ band }) => band);
  const sets = tiers.map((t) => t[TIERS - 1]);
  for (let least = words.length - 2; least >= 1 && total() === 0; least--)
    yield [{ kind: 'some', least, set: inAtLeast(sets, least) }];
}

/** What answering needs beside the query. */
export interface Around {
  /** All sounds that are there. */
  all: Bitset;
  columns: ReadonlyMap<string, Column>;
  /** Of all slots. */
  scores: Uint16Array;
  /** Takes out of a set what narrows the request beside its query, in place. */
  narrow: (set: Bitset) => void;
}

/** Answers a request in bands, the farther ones only where they are asked for. @param answer makes a finding of bands */
export function findInBands(
  { query, words = [], reach }: Request,
  evaluation: Evaluation,
  around: Around,
  answer: (bands: readonly Band[]) => Finding,
): Finding {
  const { all, scores, narrow } = around;
  const [exact, ...farther] = evaluation.tiers(query);
  const bands = tierBands(reach === 'words' ? [exact, exact, exact] : [exact, farther[0], farther[1]]);
  for (const { set } of bands) narrow(set);
  if (reach === 'words') return answer(bands);
  const found = () => bands.reduce((sum, { set }) => sum.or(set), new Bitset(all.size));
  const ear = earOf(evaluation, words, around);
  if (ear) bands.push(heardBand(evaluation, ear, found(), scores));
  let finding = answer(bands);
  if (reach) return finding;
  const own = finding.countOf('words') + finding.countOf('forms');
  for (const more of lesser(evaluation, words, found, { all: finding.count, own }, () => finding.count)) {
    for (const { set } of more) narrow(set);
    bands.push(...more);
    finding = answer(bands);
  }
  return finding;
}
