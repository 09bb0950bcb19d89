import { fields, type Field } from '@core/library';
import { fold } from '@core/naming';
import type { Band, BandKind, BandStart } from './band';
import type { Bitset } from './bitset';
import { ListValues } from './code-values';
import { NumberColumn, TextColumn, type Column } from './columns';
import { slotsWith } from './evaluate';
import type { KeptOrders } from './orders';
import type { Facet, Histogram, Request } from './request';
import { argsort, type Sweep } from './sweep';

/** Borders of the length histogram in seconds: each bin a quarter octave wide, the first from 0, the last without end. */
export const lengthBins: readonly number[] = [0, ...Array.from({ length: 27 }, (_, i) => 0.2 * 2 ** (i / 3))];
const BINS = 28;

/** A field that can be shown as a facet: text of any kind. */
export const canFacet = (f: Field): boolean => f.type !== 'number' && f.type !== 'stars' && f.type !== 'date';

/** Scores are put into so many steps for ordering; each has room for stars and use. */
const TOP_SCORE = 1023;
const MERITS = 32;
const PLACES = (TOP_SCORE + 1) * MERITS;
/** How good a slot is: how well it answers, then stars and use. */
const place = (score: number, merit: number): number => (score < TOP_SCORE ? score : TOP_SCORE) * MERITS + merit;

/** What a request found. Everything beyond the set itself is worked out when it is asked for. */
export class Finding {
  private listed: Uint32Array | undefined;
  private readonly chosen = new Map<string, Bitset>();
  private readonly means: readonly Band[];
  private all: Bitset | undefined;
  private found: Bitset | undefined;
  readonly count: number;
  /** The same by bands that are not empty. */
  private readonly bands: readonly (Band & { count: number })[];

  /**
   * @param matched what the query alone means, in bands; no sound stands in two
   * @param scoresNow how well each slot answers, empty when the query has no words; undefined once another search was made
   * @param ids of each slot
   * @param ordered whether ids rise with slots
   * @param sweep stars and use of each slot
   * @param orders that earlier findings left
   */
  constructor(
    private readonly request: Omit<Request, 'query' | 'inside'>,
    matched: readonly Band[],
    private readonly scoresNow: () => Uint16Array | undefined,
    private readonly columns: ReadonlyMap<string, Column>,
    private readonly ids: Uint32Array,
    private readonly ordered: boolean,
    private readonly sweep: Sweep,
    private readonly orders: KeptOrders,
  ) {
    this.means = [...matched];
    this.choose();
    const narrowed = this.chosen.size > 0 || Object.values(this.request.without ?? {}).some((v) => v.length > 0);
    const bands = narrowed ? matched.map((b) => ({ ...b, set: b.set.copy().and(this.results) })) : matched;
    // No sound stands in two of them.
    this.bands = bands.map((band) => ({ ...band, count: band.set.count() })).filter((band) => band.count > 0);
    this.count = this.bands.reduce((sum, band) => sum + band.count, 0);
  }

  /** What the query alone means; rows of bands need it not, so that a keystroke need not wait for it. */
  private get matched(): Bitset {
    return (this.all ??= united(this.means));
  }

  /** Results that have all chosen values. */
  get results(): Bitset {
    if (!this.found) {
      this.found = this.chosen.size > 0 ? this.matched.copy() : this.matched;
      for (const set of this.chosen.values()) this.found.and(set);
    }
    return this.found;
  }

  /** How many results a kind of band holds. */
  countOf(kind: BandKind): number {
    return this.bands.reduce((sum, b) => sum + (b.kind === kind ? b.count : 0), 0);
  }

  /** Whether rows stand in the order of bands. */
  private get banded(): boolean {
    const { sort, within } = this.request;
    return !within && !(sort && this.columns.has(sort.key));
  }

  /**
   * Where bands begin while no takes are folded; none where something else puts the rows in order, or where all have the words
   * themselves.
   */
  get starts(): BandStart[] {
    let at = 0;
    return this.told(
      this.bands.map((band) => {
        at += band.count;
        return at;
      }),
    );
  }

  /** @param ends the row behind each band */
  private told(ends: readonly number[]): BandStart[] {
    if (!this.banded || this.bands.every((b) => b.kind === 'words')) return [];
    return this.bands.map(({ set: _, ...band }, i) => ({ ...band, at: ends[i - 1] ?? 0 }));
  }

  /** The set of each facet or range in use. */
  private choose(): void {
    const { facets = {}, without = {}, ranges = {} } = this.request;
    const { size } = this.means[0].set;
    for (const [key, values] of Object.entries(facets)) {
      const column = this.columns.get(key);
      if (values.length > 0 && column instanceof TextColumn)
        this.chosen.set(key, slotsWith(column, column.codesOf(new Set(values)), size));
    }
    for (const [key, values] of Object.entries(without)) {
      const column = this.columns.get(key);
      if (values.length === 0 || !(column instanceof TextColumn)) continue;
      this.matched.andNot(slotsWith(column, column.codesOf(new Set(values)), size));
    }
    for (const [key, [from, to]] of Object.entries(ranges)) {
      const column = this.columns.get(key);
      if (!(column instanceof NumberColumn)) continue;
      const set = this.matched.copy();
      this.matched.each((slot) => {
        const value = column.at(slot);
        if (!(value >= from && value < to)) set.delete(slot);
      });
      this.chosen.set(key, set);
    }
  }

  /** The slots of the results, rising. */
  private get rising(): Uint32Array {
    return (this.listed ??= this.results.list());
  }

  /** Puts rising slots into the order of their ids, in which equals stand. */
  private readonly byIds = (slots: Uint32Array): Uint32Array => {
    if (!this.ordered)
      argsort(
        slots,
        slots.map((slot) => this.ids[slot]),
      );
    return slots;
  };

  /** Whether rows by relevance can still be asked for. */
  get current(): boolean {
    return this.scoresNow() !== undefined;
  }

  private get scores(): Uint16Array {
    const scores = this.scoresNow();
    if (!scores) throw new Error('Another search was made since; ask again.');
    return scores;
  }

  private get scored(): boolean {
    return this.scores.length > 0;
  }

  /** Keys by which scored slots are sorted, the best lowest. */
  private places(slots: Uint32Array): Uint32Array {
    const { scores } = this;
    const { merits } = this.sweep;
    const places = new Uint32Array(slots.length);
    for (let i = 0; i < slots.length; i++) places[i] = PLACES - 1 - place(scores[slots[i]], merits[slots[i]]);
    return places;
  }

  /** The first slots of the results in their order. */
  private sorted(most = Infinity): Uint32Array {
    const { sort, within } = this.request;
    const column = sort && this.columns.get(sort.key);
    if (column) return this.orders.pick(column, sort.down, this.results, this.count, most, this.byIds);
    if (!within) return this.byBands((set) => this.byScore(this.byIds(set.list())));
    const slots = this.byIds(this.rising.slice());
    const placed = new Map(within.map((id, i) => [id, i]));
    argsort(
      slots,
      slots.map((slot) => placed.get(this.ids[slot])!),
    );
    return slots;
  }

  /** Slots of one band after the other. */
  private byBands(slotsOf: (set: Bitset) => Uint32Array): Uint32Array {
    if (this.bands.length === 1) return slotsOf(this.bands[0].set);
    const slots = new Uint32Array(this.count);
    let at = 0;
    for (const { set } of this.bands) {
      const own = slotsOf(set);
      slots.set(own, at);
      at += own.length;
    }
    return slots.subarray(0, at);
  }

  private byScore(slots: Uint32Array): Uint32Array {
    if (this.scored) argsort(slots, this.places(slots));
    return slots;
  }

  /** The first rows, without putting all of them in order where that can be spared. */
  first(most: number): Uint32Array {
    const { sort, within, fold: folded } = this.request;
    // Ids that came out of order make the order of slots another one than that of equals.
    if (sort && !folded)
      return this.sorted(most)
        .subarray(0, most)
        .map((slot) => this.ids[slot]);
    if (within || folded || !this.ordered || this.count <= most * 4) return this.rows().ids.subarray(0, most);
    let room = most;
    const best = this.byBands((set) => {
      const slots = this.scored ? this.bestSlots(set, room) : set.first(room);
      room -= slots.length;
      return slots;
    });
    return best.map((slot) => this.ids[slot]);
  }

  /** The slots of a set that answer best, in order. */
  private bestSlots(results: Bitset, most: number): Uint32Array {
    const { scores, sweep } = this;
    if (most === 0) return new Uint32Array(0);
    let best = new Uint32Array(0);
    let least = -1;
    for (let from = 0; from < results.size;) {
      // One that is as good as the last of the best comes later, and stands behind.
      const { slots, next } = sweep.better(results, from, least, most);
      const both = new Uint32Array(best.length + slots.length);
      both.set(best);
      both.set(slots, best.length);
      argsort(both, this.places(both));
      best = both.slice(0, most);
      if (best.length === most) least = place(scores[best[most - 1]], sweep.merits[best[most - 1]]);
      from = next;
    }
    return best;
  }

  /** All rows: ids in order, how many results each row stands for, and where bands begin. */
  rows(): { ids: Uint32Array; takes: Uint32Array; bands: BandStart[] } {
    const { rows, takes, bands = this.starts } = this.folded(this.sorted());
    const ids = new Uint32Array(rows.length);
    for (let i = 0; i < rows.length; i++) ids[i] = this.ids[rows[i]];
    return { ids, takes, bands };
  }

  /** Leaves of each group’s slots the first, and counts them; those of an opened group follow their first. */
  private folded(slots: Uint32Array): { rows: Uint32Array; takes: Uint32Array; bands?: BandStart[] } {
    const { fold: folded } = this.request;
    if (!folded) return { rows: slots, takes: new Uint32Array(slots.length).fill(1) };
    const column = this.columns.get('takeGroup') as TextColumn;
    const open = new Set(folded.opened);
    const groups = new Map<number | string, number[]>();
    for (const slot of slots) {
      const code = column.at(slot);
      // A sound without a group stands for itself.
      const key = code === 0 ? -1 - slot : column.interned ? code : column.text(code);
      const group = groups.get(key);
      if (group) group.push(slot);
      else groups.set(key, [slot]);
    }
    const rows: number[] = [];
    const takes: number[] = [];
    const ends = this.bands.map(() => 0);
    let band = 0;
    for (const group of groups.values()) {
      // A group stands in the band of its first.
      while (this.banded && !this.bands[band].set.has(group[0])) ends[band++] = rows.length;
      rows.push(group[0]);
      takes.push(group.length);
      if (!open.has(column.text(column.at(group[0]))) || column.at(group[0]) === 0) continue;
      for (const slot of group.slice(1)) {
        rows.push(slot);
        takes.push(1);
      }
    }
    ends.fill(rows.length, band);
    return { rows: Uint32Array.from(rows), takes: Uint32Array.from(takes), bands: this.told(ends) };
  }

  /** Results as if nothing of one field were chosen. */
  private withoutOwn(key: string): Bitset {
    if (!this.chosen.has(key)) return this.results;
    const base = this.matched.copy();
    for (const [other, set] of this.chosen) if (other !== key) base.and(set);
    return base;
  }

  /**
   * Counts the values of a field, as if nothing of that field were chosen.
   * @param most how many values are listed
   * @param part folded; only values that contain it
   */
  facet(key: string, most: number, part = ''): Facet {
    const column = this.columns.get(key);
    if (!(column instanceof TextColumn)) return { values: [], distinct: 0 };
    const counts = counted(column, this.chosen.has(key) ? this.withoutOwn(key).list() : this.rising);
    const values = column.codeValues();
    const totals = values?.totals(counts) ?? counts;
    const text = (value: number) => values?.text(value) ?? column.text(value);
    let listed = Uint32Array.from(totals.keys()).filter((value) => totals[value] > 0);
    if (part !== '') {
      // Where a value is a code, all texts are looked through at once.
      const good = values instanceof ListValues ? undefined : column.codesWith(part);
      listed = listed.filter((value) =>
        good ? good[value] === 1 : fold(column.shownValue(text(value))).includes(part),
      );
    }
    return {
      values: best(listed, totals, most).map((value) => ({ value: text(value), count: totals[value] })),
      distinct: listed.length,
    };
  }

  /** Counts results by a number, as if no part of that histogram were chosen. */
  histogram(key: string): Histogram {
    const column = this.columns.get(key);
    if (!(column instanceof NumberColumn)) return { edges: [0, 1], counts: [0] };
    const set = this.withoutOwn(key);
    if (key === 'length') {
      const counts = new Array<number>(lengthBins.length).fill(0);
      set.each((slot) => {
        const value = column.at(slot);
        if (!(value >= 0)) return;
        const above = Math.floor(Math.log2(Math.max(value, 1e-9) / 0.2) * 3 + 1e-9) + 1;
        counts[Math.max(0, Math.min(counts.length - 1, above))]++;
      });
      return { edges: [...lengthBins, Infinity], counts };
    }
    let [low, high] = [Infinity, -Infinity];
    set.each((slot) => {
      const value = column.at(slot);
      if (value < low) low = value;
      if (value > high) high = value;
    });
    if (low > high) return { edges: [0, 1], counts: [0] };
    if (low === high)
      return { edges: [low, low + 1], counts: [set.list().filter((slot) => column.at(slot) === low).length] };
    const counts = new Array<number>(BINS).fill(0);
    const step = (high - low) / BINS;
    set.each((slot) => {
      const value = column.at(slot);
      if (!Number.isNaN(value)) counts[Math.min(BINS - 1, Math.floor((value - low) / step))]++;
    });
    // The highest value lies in the last span, whose end is not included.
    const edges = Array.from({ length: BINS + 1 }, (_, i) =>
      i === BINS ? high + Math.abs(high) * 1e-9 + 1e-9 : low + i * step,
    );
    return { edges, counts };
  }
}

/** What any of some bands hold; there is one at least. */
function united(bands: readonly Band[]): Bitset {
  return bands.slice(1).reduce((all, { set }) => all.or(set), bands[0].set.copy());
}

/** How often each code stands among some slots, which rise. */
function counted(column: TextColumn, slots: Uint32Array): Uint32Array {
  const { codes, length } = column;
  // Neighbours often have the same value; several rows of counts spare waiting for the one before to be written.
  const [a, b, c, d] = [0, 1, 2, 3].map(() => new Uint32Array(length));
  let end = slots.length;
  while (end > 0 && slots[end - 1] >= codes.length) end--;
  const fours = end & ~3;
  if (end > 0 && slots[end - 1] - slots[0] === end - 1 && slots[0] === 0) {
    // All of them: the codes are read as they lie.
    for (let i = 0; i < fours; i += 4) {
      a[codes[i]]++;
      b[codes[i + 1]]++;
      c[codes[i + 2]]++;
      d[codes[i + 3]]++;
    }
  } else
    for (let i = 0; i < fours; i += 4) {
      a[codes[slots[i]]]++;
      b[codes[slots[i + 1]]]++;
      c[codes[slots[i + 2]]]++;
      d[codes[slots[i + 3]]]++;
    }
  for (let i = fours; i < end; i++) a[codes[slots[i]]]++;
  a[0] += slots.length - end;
  for (let code = 0; code < length; code++) a[code] += b[code] + c[code] + d[code];
  return a;
}

/** The codes with the highest counts, highest first, equal ones by their text's code. */
function best(codes: Uint32Array, counts: Uint32Array, most: number): number[] {
  argsort(
    codes,
    codes.map((code) => ~counts[code]),
  );
  return [...codes.subarray(0, most)];
}

/** Fields that are shown as facets unless others are chosen. */
export const usualFacets: readonly string[] = fields.filter((f) => f.faceted).map((f) => f.key);
