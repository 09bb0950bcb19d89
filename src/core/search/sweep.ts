import { start } from '../generated/sweep';
import { Bitset } from './bitset';
import { roomFor } from './grown';

const PAGE = 65536;
/** Room for a byte for each set of fields. */
const WORTH = 0;
const LISTED = PAGE;
/** So many slots are listed at a time. */
export const MOST_LISTED = 4095;
/** So many occurrences are looked at in one go. */
const MOST_AT_ONCE = 65536;
const LISTS = LISTED + (MOST_LISTED + 1) * 4;
const SETS = LISTS + MOST_AT_ONCE * 4;
const SLOTS = SETS + MOST_AT_ONCE * 2;

type Module = ReturnType<typeof start>;

/** Makes a module's memory as large as is needed. */
function reserve(memory: Module['memory'], bytes: number): ArrayBuffer {
  const more = bytes - memory.buffer.byteLength;
  if (more > 0) memory.grow(Math.ceil(more / PAGE));
  return memory.buffer;
}

/**
 * What searches keep by slot, and the loops that look at all of it. The arrays lie in a module's memory: after {@link grow} they
 * are other ones.
 */
export class Sweep {
  /** Sum over the words of the query of how well a slot answers each. */
  scores = new Uint16Array(0);
  /** The best occurrence of a word in each slot; zero between searches. */
  best = new Uint8Array(0);
  /** Stars and use of each slot, at most 31: what decides between those that answer alike. */
  merits = new Uint8Array(0);
  private module: Module | undefined;
  private room = 0;
  /** Where the arrays begin that only the loops read. */
  private owners = 0;
  private words = 0;

  /** Makes room for slots; what is there stays. */
  grow(room: number): void {
    if (room <= this.room) return;
    this.room = Math.ceil(roomFor(room, this.room) / 32) * 32;
    const before = [this.scores.slice(), this.best.slice(), this.merits.slice()];
    const { memory } = (this.module ??= start());
    const { room: n } = this;
    const buffer = reserve(memory, SLOTS + n * 6 + n / 8);
    this.scores = new Uint16Array(buffer, SLOTS, n).fill(0);
    this.best = new Uint8Array(buffer, SLOTS + n * 2, n).fill(0);
    this.merits = new Uint8Array(buffer, SLOTS + n * 3, n).fill(0);
    this.owners = SLOTS + n * 4;
    this.words = SLOTS + n * 6;
    [this.scores, this.best, this.merits].forEach((array, i) => array.set(before[i]));
  }

  /**
   * Raises the best of listed slots to what their sets of fields are worth.
   * @param worth by number of a set
   * @param owned when given, only slots of which `owner` says so are this serial's
   */
  raise(
    worth: Uint8Array,
    sets: Uint16Array,
    slots: Uint32Array,
    owned?: { owner: Uint16Array; serial: number },
  ): void {
    if (!this.module) return;
    const { module, best, room } = this;
    const { buffer } = module.memory;
    new Uint8Array(buffer, WORTH, worth.length).set(worth);
    if (owned) new Uint16Array(buffer, this.owners, room).set(owned.owner.subarray(0, room));
    for (let from = 0; from < slots.length; from += MOST_AT_ONCE) {
      const to = Math.min(slots.length, from + MOST_AT_ONCE);
      new Uint32Array(buffer, LISTS, to - from).set(slots.subarray(from, to));
      new Uint16Array(buffer, SETS, to - from).set(sets.subarray(from, to));
      const [owners, serial] = owned ? [this.owners, owned.serial] : [0, 0];
      module.raise(best.byteOffset, LISTS, SETS, WORTH, to - from, owners, serial);
    }
  }

  /** The slots that have a best by now. */
  mark(slots: number): Bitset {
    const set = new Bitset(slots);
    this.module?.mark(this.best.byteOffset, this.words, slots);
    return this.taken(set);
  }

  private taken(set: Bitset): Bitset {
    if (this.module) set.words.set(new Uint32Array(this.module.memory.buffer, this.words, set.words.length));
    return set;
  }

  /** The slots that have a best, which is added to their scores where `scored`, and is zero again. */
  gather(slots: number, scored: boolean): Bitset {
    const set = new Bitset(slots);
    if (!this.module) return set;
    this.module.gather(this.best.byteOffset, this.scores.byteOffset, this.words, slots, scored ? 1 : 0);
    return this.taken(set);
  }

  /**
   * Slots of a set, rising, whose place is higher than one: the score, no more than 1023, times 32, and the merit.
   * @param from the slot to begin with
   * @param room so many are listed at most
   * @returns them, and where to go on
   */
  better(set: Bitset, from: number, place: number, room: number): { slots: Uint32Array; next: number } {
    if (!this.module) return { slots: new Uint32Array(0), next: set.size };
    const { buffer } = this.module.memory;
    if (from === 0) new Uint32Array(buffer, this.words, set.words.length).set(set.words);
    const { scores, merits, words } = this;
    const addresses = [scores.byteOffset, merits.byteOffset, words, from, set.size, place, LISTED];
    const next = this.module.better(...addresses, Math.min(room, MOST_LISTED));
    const [count] = new Uint32Array(buffer, LISTED, 1);
    return { slots: new Uint32Array(buffer, LISTED + 4, count).slice(), next };
  }
}

let sorting: Module | undefined;
const TOTALS = 3 * 2048 * 4;

/**
 * Sorts slots by keys of 32 bits, stably: least significant digit first. Digits that are the same everywhere cost one look.
 * @param slots in the order that decides between equal keys; sorted in place
 * @param keys by place in `slots`
 */
export function argsort(slots: Uint32Array, keys: Uint32Array): void {
  const count = slots.length;
  if (count < 2) return;
  const { memory, argsort: sort } = (sorting ??= start());
  const buffer = reserve(memory, TOTALS + 16 * count);
  const [from, keysFrom, to, keysTo] = [0, 1, 2, 3].map((i) => TOTALS + 4 * count * i);
  new Uint32Array(buffer, from, count).set(slots);
  new Uint32Array(buffer, keysFrom, count).set(keys);
  const turned = sort(from, keysFrom, to, keysTo, 0, count);
  slots.set(new Uint32Array(buffer, turned ? to : from, count));
}
