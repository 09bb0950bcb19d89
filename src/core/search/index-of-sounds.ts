import type { Field, FieldValue, Tag } from '@core/library';
import { fields, translated } from '@core/library';
import { fold, searchWords } from '@core/naming';
import { Bitset } from './bitset';
import type { Column } from './columns';
import { NumberColumn, TagColumn, TextColumn } from './columns';
import type { Query } from './query';
import { Segment } from './segment';
import { inSpan } from './values';

/** A sound as the index takes it: tags as their ids. */
export interface IndexedSound {
  id: number;
  fields: Readonly<Record<string, FieldValue>>;
}

/** What to list and how. */
export interface Request {
  query: Query;
  /** Only these sounds, in this order when nothing else sorts them: a pull, the tray. */
  within?: readonly number[];
  /** Chosen facet values by field key; several of one field are alternatives. */
  facets?: Readonly<Record<string, readonly string[]>>;
  /** Seconds, both ends included: the part of the length histogram that was chosen. */
  length?: readonly [number, number];
  /** A field key; by relevance, then by time of intake, when absent. */
  sort?: { key: string; down: boolean };
  /** Takes of one sound stand as one row, its best placed one; those of the stems given here stand all. */
  fold?: { opened: readonly string[] };
}

export interface FacetCount {
  value: string;
  count: number;
}

export interface Result {
  /** Sound ids in order. */
  ids: Uint32Array;
  /** How many results each row stands for, itself included; 1 everywhere when nothing is folded. */
  takes: Uint32Array;
  /** Most frequent first, by field key; each counted as if nothing of its own field were chosen. */
  facets: Record<string, FacetCount[]>;
  /** Sounds per bin of {@link lengthBins}. */
  lengths: number[];
}

/** Borders of the length histogram in seconds: each bin a quarter octave wide, the first from 0, the last without end. */
export const lengthBins: readonly number[] = [0, ...Array.from({ length: 27 }, (_, i) => 0.2 * 2 ** (i / 3))];

const MOST_SEGMENTS = 8;
const searched = fields.filter((f) => f.weight > 0);
const bitOf = new Map(searched.map((f, i) => [f.key, 1 << i]));
const weights = searched.map((f) => f.weight);

/** The highest weight of the fields in a mask. */
const weightOfMask = (() => {
  const known = new Map<number, number>();
  return (mask: number) => {
    let best = known.get(mask);
    if (best === undefined) {
      best = weights.reduce((most, w, i) => (mask & (1 << i) ? Math.max(most, w) : most), 0);
      known.set(mask, best);
    }
    return best;
  };
})();

const isNumeric = (f: Field) => f.type === 'number' || f.type === 'stars' || f.type === 'date';

/**
 * The searchable catalogue in memory: word segments and one column per field.
 *
 * Every put gives a sound a new slot and retires its old one, so segments never change; small segments are merged when
 * there are many. Edits that touch no searched words go into the columns in place.
 */
export class SoundIndex {
  private readonly columns = new Map<string, Column>(
    fields.map((f) => [
      f.key,
      isNumeric(f) ? new NumberColumn() : f.type === 'tags' ? new TagColumn() : new TextColumn(),
    ]),
  );
  private segments: Segment[] = [];
  private ids = new Uint32Array(0);
  private slotOf = new Map<number, number>();
  private slots = 0;
  private live = new Bitset(0);
  /** Whether edits gave sounds later slots than their ids ask for. */
  private disordered = false;
  private tagWords: { id: number; words: string[] }[] = [];

  /** @param meant CatIDs that a word means in whatever language, `prefix` when it may be only begun */
  constructor(private readonly meant: (word: string, prefix: boolean) => readonly string[] = () => []) {}

  /** Sounds in the index. */
  get size(): number {
    return this.slotOf.size;
  }

  /** Takes the names of tags. Sounds have tags by their ids, so a new name touches none of them. */
  setTags(tags: readonly Tag[]): void {
    this.tagWords = tags.map((t) => ({ id: t.id, words: searchWords(t.name) }));
    (this.columns.get('tags') as TagColumn).setNames(new Map(tags.map((t) => [String(t.id), t.name])));
  }

  /** How many sounds have each tag. */
  tagCounts(): [tagId: number, count: number][] {
    const counts = new Map<number, number>();
    for (const [text, count] of Object.entries(this.counts('tags')))
      for (const id of text.split(', ')) counts.set(Number(id), (counts.get(Number(id)) ?? 0) + count);
    return [...counts];
  }

  /** How many sounds have each text of a field. */
  counts(key: string): Record<string, number> {
    const column = this.columns.get(key) as TextColumn;
    const counts = new Uint32Array(column.texts.length);
    this.live.each((slot) => counts[column.codes[slot] ?? 0]++);
    return Object.fromEntries([...counts].flatMap((n, code) => (n > 0 && code > 0 ? [[column.texts[code], n]] : [])));
  }

  /** Adds sounds, or takes their new values. */
  put(sounds: readonly IndexedSound[]): void {
    if (sounds.length === 0) return;
    const total = this.slots + sounds.length;
    this.live = this.live.copy(total);
    if (total > this.ids.length) {
      const ids = new Uint32Array(Math.max(total, this.ids.length * 2));
      ids.set(this.ids);
      this.ids = ids;
    }
    const lists = new Map<string, { slots: number[]; masks: number[] }>();
    for (const sound of sounds) {
      const old = this.slotOf.get(sound.id);
      if (old !== undefined) {
        this.live.delete(old);
        this.disordered = true;
      }
      const slot = this.slots++;
      this.ids[slot] = sound.id;
      this.slotOf.set(sound.id, slot);
      this.live.add(slot);
      for (const [key, column] of this.columns) column.set(slot, sound.fields[key]);
      for (const field of searched) {
        const value = sound.fields[field.key];
        if (value === undefined) continue;
        const bit = bitOf.get(field.key)!;
        // No word begins with this sign: it stands for the tag, whatever its name is.
        if (field.type === 'tags') for (const id of value as readonly number[]) addWord(lists, `#${id}`, slot, bit);
        else
          for (const word of searchWords(Array.isArray(value) ? value.join(' ') : String(value)))
            addWord(lists, word, slot, bit);
      }
      for (const key in sound.fields) {
        const at = key.indexOf('@');
        const bit = at > 0 && translated.includes(key.slice(0, at)) ? bitOf.get(key.slice(0, at)) : undefined;
        if (bit) for (const word of searchWords(String(sound.fields[key]))) addWord(lists, word, slot, bit);
      }
    }
    this.segments.push(Segment.from(lists));
    if (this.segments.length > MOST_SEGMENTS) this.merge();
  }

  /** Merges the smaller half of the segments into one. */
  private merge(): void {
    this.segments.sort((a, b) => b.size - a.size);
    const keep = this.segments.slice(0, 2);
    const small = this.segments.slice(2);
    this.segments = [...keep, Segment.merge(small, (slot) => this.live.has(slot))];
    const [largest, next] = this.segments;
    if (next.size * 4 > largest.size) {
      this.segments = [Segment.merge(this.segments, (slot) => this.live.has(slot))];
    }
  }

  /** Takes sounds out. */
  remove(ids: readonly number[]): void {
    for (const id of ids) {
      const slot = this.slotOf.get(id);
      if (slot === undefined) continue;
      this.live.delete(slot);
      this.slotOf.delete(id);
    }
  }

  /** Sets a value that is sorted or compared but has no words of its own, such as stars. */
  setValue(id: number, key: string, value: FieldValue | undefined): void {
    const slot = this.slotOf.get(id);
    if (slot !== undefined) this.columns.get(key)?.set(slot, value);
  }

  /** Lists the sounds that a request means, with their facets. */
  search(request: Request): Result {
    const scores = new Uint16Array(this.slots);
    const matched = this.evaluate(request.query, scores).and(this.live);
    if (request.within) matched.and(this.setOf(request.within));
    const chosen = this.chosen(request);
    const result = matched.copy();
    for (const set of chosen.values()) result.and(set);
    const { rows, takes } = this.fold(this.order(result, scores, request), request.fold);
    return {
      ids: rows.map((slot) => this.ids[slot]),
      takes,
      facets: this.facets(matched, chosen),
      lengths: this.histogram(this.withoutOwn(matched, chosen, 'length')),
    };
  }

  private setOf(ids: readonly number[]): Bitset {
    const set = new Bitset(this.slots);
    for (const id of ids) {
      const slot = this.slotOf.get(id);
      if (slot !== undefined) set.add(slot);
    }
    return set;
  }

  private evaluate(query: Query, scores: Uint16Array | undefined): Bitset {
    const set = new Bitset(this.slots);
    switch (query.kind) {
      case 'all':
        return this.live.copy();
      case 'word':
        return this.word(query.word, query.prefix, query.field, scores);
      case 'phrase':
        return this.phrase(query.words, query.field, scores);
      case 'contains':
        return this.where(query.field, (text) => text.includes(query.text));
      case 'span': {
        const column = this.columns.get(query.field.key) as NumberColumn;
        for (let slot = 0; slot < this.slots; slot++) if (inSpan(column.values[slot], query.span)) set.add(slot);
        return set;
      }
      case 'not':
        return this.live.copy().andNot(this.evaluate(query.part, undefined));
      case 'or':
        for (const part of query.parts) set.or(this.evaluate(part, scores));
        return set;
      case 'and':
        return query.parts.map((part) => this.evaluate(part, scores)).reduce((all, part) => all.and(part));
    }
  }

  private word(word: string, prefix: boolean, field: Field | undefined, scores: Uint16Array | undefined): Bitset {
    const set = new Bitset(this.slots);
    const wanted = field ? bitOf.get(field.key) : -1;
    // A field whose words are not indexed is compared as a whole.
    if (wanted === undefined) return this.where(field!, (_, plain) => plain.includes(` ${word}${prefix ? '' : ' '}`));
    const take = (term: string, begins: boolean, score: (mask: number, exact: boolean) => number) => {
      for (const segment of this.segments) {
        segment.find(term, begins, ({ slots, masks }, exact) => {
          for (let i = 0; i < slots.length; i++) {
            const mask = masks[i] & wanted;
            if (mask === 0) continue;
            set.add(slots[i]);
            if (scores) scores[slots[i]] += score(mask, exact);
          }
        });
      }
    };
    take(word, prefix, (mask, exact) => weightOfMask(mask) * (exact ? 3 : 2));
    if (!field || field.type === 'tags') {
      for (const { id, words } of this.tagWords) {
        const whole = words.includes(word);
        if (whole || (prefix && words.some((w) => w.startsWith(word))))
          take(`#${id}`, false, (mask) => weightOfMask(mask) * (whole ? 3 : 2));
      }
    }
    // The category's name in another language: found, yet behind everything that has the word itself.
    if (!field || field.key === 'catId' || field.key === 'category')
      for (const catId of this.meant(word, prefix)) this.addCategory(set, catId, scores);
    return set;
  }

  private addCategory(set: Bitset, catId: string, scores: Uint16Array | undefined): void {
    for (const segment of this.segments) {
      segment.find(fold(catId), false, ({ slots, masks }) => {
        for (let i = 0; i < slots.length; i++) {
          if (!(masks[i] & bitOf.get('catId')!)) continue;
          set.add(slots[i]);
          if (scores) scores[slots[i]] += 1;
        }
      });
    }
  }

  private phrase(words: string[], field: Field | undefined, scores: Uint16Array | undefined): Bitset {
    const candidates = words.map((w) => this.word(w, false, field, scores)).reduce((all, part) => all.and(part));
    const text = ` ${words.join(' ')} `;
    const looked = field ? [field] : searched;
    const set = new Bitset(this.slots);
    candidates.each((slot) => {
      const stands = looked.some((f) => {
        const column = this.columns.get(f.key);
        return column instanceof TextColumn && column.plain(column.codes[slot]).includes(text);
      });
      if (stands) set.add(slot);
    });
    return set;
  }

  /** The slots whose text in a field satisfies a test, each different text being tested once. */
  private where(field: Field, test: (folded: string, plain: string) => boolean): Bitset {
    const set = new Bitset(this.slots);
    const column = this.columns.get(field.key);
    if (!(column instanceof TextColumn)) return set;
    const good = column.codesWhere((code) => test(column.shown(code).toLowerCase(), column.plain(code)));
    for (let slot = 0; slot < this.slots; slot++) if (good[column.codes[slot]]) set.add(slot);
    return set;
  }

  /** The set of each facet in use, by field key; the chosen part of the histogram counts as `length`. */
  private chosen(request: Request): Map<string, Bitset> {
    const sets = new Map<string, Bitset>();
    for (const [key, values] of Object.entries(request.facets ?? {})) {
      const column = this.columns.get(key);
      if (values.length === 0 || !(column instanceof TextColumn)) continue;
      const wanted = new Set(values);
      const good = column.codesWhere((code) => wanted.has(column.texts[code]));
      const set = new Bitset(this.slots);
      for (let slot = 0; slot < this.slots; slot++) if (good[column.codes[slot]]) set.add(slot);
      sets.set(key, set);
    }
    if (request.length) {
      const [min, max] = request.length;
      const set = new Bitset(this.slots);
      const { values } = this.columns.get('length') as NumberColumn;
      for (let slot = 0; slot < this.slots; slot++) if (values[slot] >= min && values[slot] < max) set.add(slot);
      sets.set('length', set);
    }
    return sets;
  }

  private withoutOwn(matched: Bitset, chosen: Map<string, Bitset>, key: string): Bitset {
    const base = matched.copy();
    for (const [other, set] of chosen) if (other !== key) base.and(set);
    return base;
  }

  private facets(matched: Bitset, chosen: Map<string, Bitset>): Result['facets'] {
    const facets: Result['facets'] = {};
    for (const field of fields.filter((f) => f.faceted)) {
      const column = this.columns.get(field.key) as TextColumn;
      const counts = new Uint32Array(column.texts.length);
      this.withoutOwn(matched, chosen, field.key).each((slot) => counts[column.codes[slot]]++);
      facets[field.key] = [...counts.entries()]
        .filter(([, count]) => count > 0)
        .map(([code, count]) => ({ value: column.texts[code], count }))
        .sort((a, b) => b.count - a.count || (a.value < b.value ? -1 : 1));
    }
    return facets;
  }

  private histogram(set: Bitset): number[] {
    const counts = new Array<number>(lengthBins.length).fill(0);
    const { values } = this.columns.get('length') as NumberColumn;
    set.each((slot) => {
      if (!(values[slot] >= 0)) return;
      const above = Math.floor(Math.log2(Math.max(values[slot], 1e-9) / 0.2) * 3) + 1;
      counts[Math.max(0, Math.min(lengthBins.length - 1, above))]++;
    });
    return counts;
  }

  private order(result: Bitset, scores: Uint16Array, request: Request): Uint32Array {
    const slots = new Uint32Array(result.count());
    let at = 0;
    result.each((slot) => (slots[at++] = slot));
    if (request.sort) {
      const column = this.columns.get(request.sort.key)!;
      const keys = new Float64Array(this.slots);
      const sign = request.sort.down ? -1 : 1;
      for (const slot of slots) {
        const rank = column.rank(slot);
        keys[slot] = column instanceof NumberColumn && rank === Infinity ? Infinity : sign * rank;
      }
      slots.sort((a, b) => (keys[a] < keys[b] ? -1 : keys[a] > keys[b] ? 1 : this.ids[a] - this.ids[b]));
    } else if (request.within) {
      const place = new Map(request.within.map((id, i) => [id, i]));
      slots.sort((a, b) => place.get(this.ids[a])! - place.get(this.ids[b])!);
    } else if (slots.some((slot) => scores[slot] > 0)) {
      slots.sort((a, b) => scores[b] - scores[a] || this.ids[a] - this.ids[b]);
    } else if (this.disordered) {
      // An edited sound stays where it was in the list.
      const ids = slots.map((slot) => this.ids[slot]).sort();
      return ids.map((id) => this.slotOf.get(id)!);
    }
    return slots;
  }

  /** Leaves of each stem's slots the first, and counts them; those of an opened stem follow their first. */
  private fold(slots: Uint32Array, fold: Request['fold']): { rows: Uint32Array; takes: Uint32Array } {
    if (!fold) return { rows: slots, takes: new Uint32Array(slots.length).fill(1) };
    const { codes, texts } = this.columns.get('stem') as TextColumn;
    const open = new Set(fold.opened);
    const groups = new Map<number, number[]>();
    for (const slot of slots) {
      // A sound without a stem stands for itself.
      const key = codes[slot] || -1 - slot;
      const group = groups.get(key);
      if (group) group.push(slot);
      else groups.set(key, [slot]);
    }
    const rows: number[] = [];
    const takes: number[] = [];
    for (const [key, group] of groups) {
      rows.push(group[0]);
      takes.push(group.length);
      if (key < 0 || !open.has(texts[key])) continue;
      for (const slot of group.slice(1)) {
        rows.push(slot);
        takes.push(1);
      }
    }
    return { rows: Uint32Array.from(rows), takes: Uint32Array.from(takes) };
  }
}

function addWord(
  lists: Map<string, { slots: number[]; masks: number[] }>,
  word: string,
  slot: number,
  bit: number,
): void {
  const list = lists.get(word);
  if (!list) lists.set(word, { slots: [slot], masks: [bit] });
  else if (list.slots[list.slots.length - 1] === slot) list.masks[list.masks.length - 1] |= bit;
  else {
    list.slots.push(slot);
    list.masks.push(bit);
  }
}
