import type { Bitset } from './bitset';
import { roomFor } from './grown';
import { MaskTable } from './masks';
import { merged, Segment, SegmentBuilder } from './segment';
import type { Part } from './snapshot';
import { TextPool } from './text-pool';

/** A segment in use. */
export interface Held {
  segment: Segment;
  /** By which `owner` names it. */
  serial: number;
  /** Whether some of its slots have their words in a newer segment. */
  stale: boolean;
}

const MOST_SERIALS = 60_000;

/** Where words stand: segments that never change, and for each slot which of them has its words. */
export class Postings {
  parts: Held[] = [];
  /** The serial of the segment that has each slot's words. */
  owner = new Uint16Array(0);
  masks = new MaskTable();
  private serial = 0;

  /** Begins a segment for the words of some sounds. @param room slots there will be at most */
  begin(room: number, live: Bitset, slots: number): { builder: SegmentBuilder; own: (slot: number) => void } {
    if (this.owner.length < room) {
      const owner = new Uint16Array(roomFor(room, this.owner.length));
      owner.set(this.owner);
      this.owner = owner;
    }
    if (this.serial === MOST_SERIALS) this.mergeFrom(0, live, slots);
    const serial = ++this.serial;
    const held = new Map(this.parts.map((p) => [p.serial, p]));
    const own = (slot: number) => {
      const before = held.get(this.owner[slot]);
      if (before) before.stale = true;
      this.owner[slot] = serial;
    };
    return { builder: new SegmentBuilder(), own };
  }

  /** Ends what was begun last; segments of like size are merged, so that there are few and each word is seldom copied. */
  end(builder: SegmentBuilder, live: Bitset, slots: number): void {
    const segment = builder.build((mask) => this.masks.code(mask));
    this.parts.push({ segment, serial: this.serial, stale: false });
    let from = this.parts.length - 1;
    let { size } = segment;
    while (from > 0 && this.parts[from - 1].segment.size < size * 2) size += this.parts[--from].segment.size;
    if (from < this.parts.length - 1) this.mergeFrom(from, live, slots);
  }

  /** Makes one segment of those from the `from`th on. */
  mergeFrom(from: number, live: Bitset, slots: number): void {
    const joined = this.parts.slice(from);
    const first = from === 0 ? 1 : joined[0].serial;
    const holds = (i: number, slot: number) => this.owner[slot] === joined[i].serial && live.has(slot);
    const segment = merged(
      joined.map((p) => p.segment),
      holds,
    );
    const serials = new Set(joined.map((p) => p.serial));
    for (let slot = 0; slot < slots; slot++) if (serials.has(this.owner[slot])) this.owner[slot] = first;
    this.parts = [...this.parts.slice(0, from), { segment, serial: first, stale: false }];
    if (from === 0) this.serial = 1;
  }

  /** Words that begin with a text, those of the most sounds first. @param live slots that count */
  words(part: string, most: number, live: Bitset): { value: string; count: number }[] {
    const totals = new Map<string, number>();
    for (const { segment } of this.parts) {
      const [from, to] = segment.begun(part);
      for (let w = from; w < to; w++) {
        const word = segment.word(w);
        if (word.startsWith('#')) continue;
        totals.set(word, (totals.get(word) ?? 0) + segment.occurrences(w));
      }
    }
    const order = (a: [string, number], b: [string, number]) => b[1] - a[1] || (a[0] < b[0] ? -1 : 1);
    // Segments still hold words of sounds that were edited since or are gone: what is listed is counted again.
    const listed = [...totals].sort(order).slice(0, most);
    return listed
      .map(([word]): [string, number] => [word, this.sounds(word, live)])
      .filter(([, count]) => count > 0)
      .sort(order)
      .map(([value, count]) => ({ value, count }));
  }

  /** How many sounds have a word. */
  private sounds(word: string, live: Bitset): number {
    let count = 0;
    for (const { segment, serial, stale } of this.parts) {
      const at = segment.numberOf(word);
      if (at < 0) continue;
      const { starts, slots } = segment.parts;
      for (let p = starts[at]; p < starts[at + 1]; p++)
        if (live.has(slots[p]) && (!stale || this.owner[slots[p]] === serial)) count++;
    }
    return count;
  }

  /** How often a word occurs, about: what edits left in older segments counts twice. */
  occurrences(word: string): number {
    return this.parts.reduce((sum, { segment }) => {
      const at = segment.numberOf(word);
      return at < 0 ? sum : sum + segment.occurrences(at);
    }, 0);
  }

  /** Puts itself into a snapshot, as one segment. */
  save(into: Map<string, Part>, live: Bitset, slots: number): void {
    if (this.parts.length > 1) this.mergeFrom(0, live, slots);
    into.set('owner', this.owner.subarray(0, slots));
    into.set('masks', Uint32Array.from(this.masks.masks));
    for (const { segment, serial, stale } of this.parts) {
      const { words, starts, slots: at, masks } = segment.parts;
      const { bytes, starts: borders } = words.parts();
      const named = { bytes, borders, starts, slots: at, masks };
      for (const [name, part] of Object.entries(named)) into.set(`segment ${name}`, part);
      into.set('serial', Uint16Array.of(serial, stale ? 1 : 0));
    }
  }

  /** Takes itself out of a snapshot. */
  load(part: <T extends Part>(name: string) => T, filled: boolean): void {
    this.owner = part('owner');
    this.masks = new MaskTable(part<Uint32Array>('masks'));
    if (!filled) return;
    const [serial, stale] = part<Uint16Array>('serial');
    this.serial = serial;
    const words = TextPool.from(part('segment bytes'), part('segment borders'));
    const segment = new Segment({
      words,
      starts: part('segment starts'),
      slots: part('segment slots'),
      masks: part('segment masks'),
    });
    this.parts = [{ segment, serial, stale: stale === 1 }];
  }
}
