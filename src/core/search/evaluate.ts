import type { Field } from '@core/library';
import { fold, stem } from '@core/naming';
import { Bitset } from './bitset';
import { NumberColumn, TextColumn, type Column } from './columns';
import { fieldBit, searched, type MaskTable } from './masks';
import type { Query } from './query';
import type { Segment, WordParts } from './segment';
import type { Sweep } from './sweep';
import { inSpan } from './values';

/** How near a word is to what was asked for; multiplied by the weight of the field in which it stands. */
const EXACT = 8;
const BEGUN = 6;
const FORM = 4;
/** What a synonym or a category's meaning is worth, wherever it stands: less than any word itself; and what a word that is farther off is. */
const MEANT = 2;
const NEAR = 1;
/** Up to this distance a near word is a synonym. */
const CLOSE = 2;

/** How far from the words of a query what is found may lie: the words as they are written, their other forms, what they mean. */
export const TIERS = 3;
/** What a query means in each tier, retired slots among it; a later one holds the earlier ones. One set may stand for several. */
export type Tiers = readonly [words: Bitset, forms: Bitset, meant: Bitset];

/** What searching knows of words beside how they are written; see `Meaning`. */
export interface WordLexicon {
  /** Words that stand near a folded one, and how, where that is known. */
  of(word: string): readonly { word: string; kinship?: string; distance?: number }[];
  /** Whether two words with one stem are forms of one word. */
  sameWord(a: string, b: string): boolean;
  /** Takes apart what was typed as one word. */
  parts?: WordParts;
}

/** The parts of the index that answering a query needs. */
export interface Indexed {
  slots: number;
  live: Bitset;
  columns: ReadonlyMap<string, Column>;
  segments: readonly { segment: Segment; serial: number; stale: boolean }[];
  /** The segment that has each slot's words. */
  owner: Uint16Array;
  masks: MaskTable;
  tagWords: readonly { id: number; words: readonly string[] }[];
  /** CatIDs that a word means. */
  meant: (word: string, prefix: boolean) => readonly string[];
  /** Words that mean the same as one. */
  alike: (word: string) => readonly string[];
  lexicon: WordLexicon;
  /** Has room for all slots; scores and bests are all zero. */
  sweep: Sweep;
}

/** A run of words of one segment, all as near to what was asked for. */
interface Run {
  part: Indexed['segments'][number];
  from: number;
  to: number;
  worth: Uint8Array;
  tier: number;
}

/** Other forms of a word in a segment; one stem may belong to several words. */
const formsIn = (segment: Segment, word: string, root: string, lexicon: WordLexicon): number[] =>
  Array.from(segment.forms(root)).filter((i) => lexicon.sameWord(word, segment.word(i)));

/** What was found of words that only stand near what is asked for: segments never change. */
const foundIn = new WeakMap<Segment, Map<string, readonly number[]>>();
const MOST_FOUND = 20_000;

/** A word and its other forms in a segment, by their numbers. */
function inAnyForm(segment: Segment, word: string, lexicon: WordLexicon): readonly number[] {
  let known = foundIn.get(segment);
  if (!known || known.size > MOST_FOUND) foundIn.set(segment, (known = new Map<string, readonly number[]>()));
  let found = known.get(word);
  if (!found) {
    const itself = segment.numberOf(word);
    found = [...new Set([...(itself < 0 ? [] : [itself]), ...formsIn(segment, word, stem(word), lexicon)])];
    known.set(word, found);
  }
  return found;
}

type WordQuery = Extract<Query, { kind: 'word' }>;

/** Up to so many occurrences are looked at one by one; from there on all slots are, at once. */
const SPARSE = 2000;
/** Phrases among more sounds than this are looked for in all texts at once. */
const SCAN = 5000;

/** The tiers of two queries together, made of the same tiers each; sets that are shared stay shared. */
function joined(a: Tiers, b: Tiers, how: 'and' | 'or'): Tiers {
  // Nothing more comes of what is not there.
  if (how === 'or' && b[TIERS - 1].empty) return a;
  const made: Bitset[] = [];
  for (let t = 0; t < TIERS; t++)
    made.push(t > 0 && a[t] === a[t - 1] && b[t] === b[t - 1] ? made[t - 1] : Bitset[how](a[t], b[t]));
  return made as unknown as Tiers;
}

/** The words that a query asks for, each once; what is to be left out is none of them. */
function wordsIn(query: Query): string[] {
  if (query.kind === 'word') return query.literal ? [] : [query.word];
  return query.kind === 'and' || query.kind === 'or' ? [...new Set(query.parts.flatMap(wordsIn))] : [];
}

const same = (set: Bitset): Tiers => [set, set, set];

/** Answers one query: which slots it means in each tier, and how well each answers. A clause is answered once, however often it stands there. */
export class Evaluation {
  private readonly known = new Map<Query, Tiers>();
  /** Whether rare words weigh more: they do where there are several. */
  private readonly rarity: boolean;
  /** The words that are asked for, each once. */
  private readonly asked: readonly string[];

  /** @param exact only words as they are written count */
  constructor(
    private readonly index: Indexed,
    query: Query,
    private readonly exact = false,
  ) {
    this.rarity = query.kind === 'and' || query.kind === 'or';
    this.asked = wordsIn(query);
  }

  /**
   * Words that stand near one that is asked for. A word that stands near two of them answers the nearer one alone, and what is a form of
   * one that is asked for answers no other: the ring of a phone that rings would be both.
   */
  private near(word: string): readonly { word: string; distance?: number }[] {
    const { lexicon } = this.index;
    const own = lexicon.of(word);
    if (own.length === 0 || this.asked.length < 2) return own;
    const others = this.asked.filter((w) => w !== word);
    const roots = new Set(others.map(stem));
    /** How near each word is to another one that is asked for; a later one has to be nearer. */
    const there = new Map<string, number>();
    for (const other of others) {
      const later = this.asked.indexOf(other) > this.asked.indexOf(word) ? 0.5 : 0;
      for (const { word: near, distance = 0 } of lexicon.of(other))
        there.set(near, Math.min(there.get(near) ?? Infinity, distance + later));
    }
    return own.filter(({ word: near, distance = 0 }) => !(there.get(near)! <= distance) && !roots.has(stem(near)));
  }

  /**
   * The slots that a query means in each tier. What stands behind a NOT is left out of all of them in whatever form it has.
   * @param scored false below a NOT
   */
  tiers(query: Query, scored = true): Tiers {
    let found = this.known.get(query);
    if (!found) this.known.set(query, (found = this.answer(query, scored)));
    return found;
  }

  private answer(query: Query, scored: boolean): Tiers {
    const { index } = this;
    switch (query.kind) {
      case 'all':
        return same(index.live.copy(index.slots));
      case 'word':
        return this.word(query, scored);
      case 'phrase':
        return same(this.phrase(query.words, query.field, scored));
      case 'contains':
        return same(this.withCodes(query.field, (column) => column.codesWith(query.text)));
      case 'span':
        return same(this.span(index.columns.get(query.field.key), query.span));
      case 'not':
        return same(index.live.copy(index.slots).andNot(this.tiers(query.part, false)[TIERS - 1]));
      case 'or':
        return query.parts.map((part) => this.tiers(part, scored)).reduce((a, b) => joined(a, b, 'or'));
      case 'and': {
        let all = this.tiers(query.parts[0], scored);
        for (const part of query.parts.slice(1))
          if (!all[TIERS - 1].empty) all = joined(all, this.tiers(part, scored), 'and');
        return all;
      }
    }
  }

  private span(column: Column | undefined, span: Parameters<typeof inSpan>[1]): Bitset {
    const set = new Bitset(this.index.slots);
    if (!(column instanceof NumberColumn)) return set;
    const { values } = column;
    const count = Math.min(values.length, this.index.slots);
    for (let slot = 0; slot < count; slot++) if (inSpan(values[slot], span)) set.add(slot);
    return set;
  }

  private withCodes(field: Field, codes: (column: TextColumn) => Uint8Array): Bitset {
    const column = this.index.columns.get(field.key);
    return column instanceof TextColumn
      ? slotsWith(column, codes(column), this.index.slots)
      : new Bitset(this.index.slots);
  }

  private word(query: WordQuery, scored: boolean): Tiers {
    const { word, field } = query;
    // A field whose words are not indexed is compared as a whole.
    if (field && fieldBit(field.key) === undefined)
      return same(this.withCodes(field, (column) => column.codesWithPhrase([word], query.prefix)));
    const runs = this.runs(query, scored);
    const weighed = this.rarity ? this.weighed(runs) : runs;
    return this.collect(weighed, scored);
  }

  /** Runs worth up to three times as much, the fewer they are (inverse document frequency, Sparck Jones 1972). */
  private weighed(runs: readonly Run[]): Run[] {
    const total = runs.reduce((sum, r) => sum + r.part.segment.occurrences(r.from, r.to), 0);
    const factor = Math.max(1, Math.min(3, 1 + Math.log2(this.index.slots / (1 + total)) / 4));
    const known = new Map<Uint8Array, Uint8Array>();
    return runs.map((run) => {
      const worth = known.get(run.worth) ?? run.worth.map((w) => Math.round(w * factor));
      known.set(run.worth, worth);
      return { ...run, worth };
    });
  }

  /**
   * All runs of occurrences that answer a word.
   * @param wanted false below a NOT, which takes out what has the word itself, not what merely means it
   */
  runs({ word, prefix, field, literal: asWritten }: WordQuery, wanted: boolean): Run[] {
    const literal = asWritten || this.exact;
    const { segments, masks, tagWords, lexicon } = this.index;
    const runs: Run[] = [];
    const tags = !field || field.type === 'tags' ? tagWords : [];
    // Nothing else stands for a literal word: where no text has it, there is nothing to be worked out.
    const named = tags.some(({ words }) => words.some((w) => w === word || (prefix && w.startsWith(word))));
    if (asWritten && !named && !segments.some(({ segment }) => segment.has(word, prefix))) return runs;
    const worth = masks.worth(field);
    const times = (n: number) => worth.map((w) => w * n);
    const [exact, begun, form] = [times(EXACT), times(BEGUN), times(FORM)];
    const flat = (n: number) => worth.map((w) => (w > 0 ? n : 0));
    const [meant, far] = [flat(MEANT), flat(NEAR)];
    const root = stem(word);
    const one = (part: Run['part'], text: string, how: Uint8Array, tier: number) => {
      const at = part.segment.numberOf(text);
      if (at >= 0) runs.push({ part, from: at, to: at + 1, worth: how, tier });
    };
    const categories = wanted && !literal && (!field || field.key === 'catId' || field.key === 'category');
    const ids = categories ? this.index.meant(word, prefix).map(fold) : [];
    const catIdOnly = ids.length > 0 ? masks.only('catId').map((w) => w * MEANT) : meant;
    const others = new Map<string, Uint8Array>();
    if (!literal && wanted) {
      for (const near of this.near(word)) others.set(near.word, (near.distance ?? 0) <= CLOSE ? meant : far);
      for (const other of this.index.alike(word)) others.set(other, meant);
    }
    for (const part of segments) {
      one(part, word, exact, 0);
      if (prefix) {
        const [from, to] = part.segment.begun(word);
        if (to > from) runs.push({ part, from, to, worth: begun, tier: 0 });
      }
      if (!literal)
        for (const i of formsIn(part.segment, word, root, lexicon))
          runs.push({ part, from: i, to: i + 1, worth: form, tier: 1 });
      if (!literal && lexicon.parts)
        for (const i of part.segment.holding(root, lexicon.parts))
          runs.push({ part, from: i, to: i + 1, worth: form, tier: 1 });
      for (const { id, words } of tags) {
        if (words.includes(word)) one(part, `#${id}`, exact, 0);
        else if (prefix && words.some((w) => w.startsWith(word))) one(part, `#${id}`, begun, 0);
      }
      for (const id of ids) one(part, id, catIdOnly, 2);
      for (const [other, how] of others)
        for (const i of inAnyForm(part.segment, other, lexicon))
          runs.push({ part, from: i, to: i + 1, worth: how, tier: 2 });
    }
    return runs;
  }

  /** The slots of some runs in each tier; the best occurrence of each, in whatever tier, is added to its score. */
  private collect(runs: readonly Run[], scored: boolean): Tiers {
    const { slots: size, owner, sweep } = this.index;
    const total = runs.reduce((sum, r) => sum + r.part.segment.occurrences(r.from, r.to), 0);
    const byTier = Array.from({ length: TIERS }, (_, t) => runs.filter((run) => run.tier === t));
    if (total <= SPARSE && total * 3 <= size) return this.few(byTier, total, scored);
    const last = byTier.findLastIndex((own) => own.length > 0);
    const tiers: Bitset[] = [];
    for (const [t, own] of byTier.entries()) {
      for (const { part, from, to, worth } of own) {
        const { starts, slots, masks } = part.segment.parts;
        const [first, end] = [starts[from], starts[to]];
        const owned = part.stale ? { owner, serial: part.serial } : undefined;
        sweep.raise(worth, masks.subarray(first, end), slots.subarray(first, end), owned);
      }
      if (t === last) tiers.push(sweep.gather(size, scored));
      else tiers.push(t > 0 && own.length === 0 ? tiers[t - 1] : sweep.mark(size));
    }
    return tiers as unknown as Tiers;
  }

  /** The same where occurrences are so few that each is looked at. */
  private few(byTier: readonly (readonly Run[])[], total: number, scored: boolean): Tiers {
    const { owner, slots: size } = this.index;
    const { best, scores } = this.index.sweep;
    const touched = new Uint32Array(total);
    let count = 0;
    const tiers: Bitset[] = [];
    for (const own of byTier) {
      const known = count;
      for (const { part, from, to, worth } of own) {
        const { starts, slots, masks } = part.segment.parts;
        const { serial, stale } = part;
        for (let p = starts[from], end = starts[to]; p < end; p++) {
          const w = worth[masks[p]];
          const slot = slots[p];
          if (w <= best[slot] || (stale && owner[slot] !== serial)) continue;
          if (best[slot] === 0) touched[count++] = slot;
          best[slot] = w;
        }
      }
      const before = tiers.at(-1);
      if (before && count === known) tiers.push(before);
      else {
        const set = before?.copy() ?? new Bitset(size);
        for (let i = known; i < count; i++) set.add(touched[i]);
        tiers.push(set);
      }
    }
    for (const slot of touched.subarray(0, count)) {
      if (scored) scores[slot] += best[slot];
      best[slot] = 0;
    }
    return tiers as unknown as Tiers;
  }

  private phrase(words: string[], field: Field | undefined, scored: boolean): Bitset {
    const { index } = this;
    const looked = (field ? [field] : searched).flatMap((f) => index.columns.get(f.key) ?? []);
    const columns = looked.filter((c) => c instanceof TextColumn);
    const one = (word: string) =>
      this.word({ kind: 'word', word, prefix: false, literal: true, field }, scored)[0].copy();
    const candidates = words
      .map(one)
      .reduce((all, part) => all.and(part))
      .and(index.live);
    const set = new Bitset(index.slots);
    if (candidates.count() > SCAN) {
      for (const column of columns) set.or(slotsWith(column, column.codesWithPhrase(words), index.slots));
      return set.and(candidates);
    }
    candidates.each((slot) => {
      if (columns.some((column) => column.hasPhrase(column.at(slot), words))) set.add(slot);
    });
    return set;
  }
}

/** The slots whose code is marked; where a column ends, the rest has no value. */
export function slotsWith(column: TextColumn, good: Uint8Array, slots: number): Bitset {
  const set = new Bitset(slots);
  for (let slot = 0; slot < slots; slot++) if (good[column.at(slot)]) set.add(slot);
  return set;
}
