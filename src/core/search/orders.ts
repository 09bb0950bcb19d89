import type { Bitset } from './bitset';
import type { Column } from './columns';

/** All slots in the order of a column, and which state of the column it is of. */
interface Kept {
  column: Column;
  down: boolean;
  changes: number;
  slots: Uint32Array;
}

/** So many are kept: the one that lists stand in, and those that they stood in before. */
const MOST = 3;
/** From this share of all slots on, all of them are put in order, so that whoever asks next has only to pick. */
const WORTH = 4;
/** From this share on, picking out of all slots is sooner than putting results in order. */
const PICKED = 64;

/**
 * The orders that lists stand in, kept while nothing of their column changes: a list that stays sorted while its query is typed
 * is picked out of one, instead of being sorted at every key.
 */
export class KeptOrders {
  private kept: Kept[] = [];

  /**
   * The first slots of a set in the order of a column.
   * @param count how many are in the set
   * @param asEquals puts rising slots into the order in which equals stand
   */
  pick(
    column: Column,
    down: boolean,
    among: Bitset,
    count: number,
    most: number,
    asEquals: (slots: Uint32Array) => Uint32Array,
  ): Uint32Array {
    const order = count * PICKED < among.size ? undefined : this.order(column, down, among.size, count, asEquals);
    if (!order) {
      const slots = asEquals(among.list());
      column.sort(slots, down);
      return slots.subarray(0, most);
    }
    if (count === order.length) return order.slice(0, most);
    const picked = new Uint32Array(Math.min(most, count));
    const { words } = among;
    for (let i = 0, at = 0; at < picked.length; i++) {
      const slot = order[i];
      if ((words[slot >>> 5] >>> (slot & 31)) & 1) picked[at++] = slot;
    }
    return picked;
  }

  private order(
    column: Column,
    down: boolean,
    size: number,
    count: number,
    asEquals: (slots: Uint32Array) => Uint32Array,
  ): Uint32Array | undefined {
    this.kept = this.kept.filter((k) => k.changes === k.column.changes && k.slots.length >= size);
    const found = this.kept.find((k) => k.column === column && k.down === down);
    if (found) return found.slots;
    if (count * WORTH < size) return undefined;
    const rising = new Uint32Array(size);
    for (let slot = 0; slot < size; slot++) rising[slot] = slot;
    const slots = asEquals(rising);
    column.sort(slots, down);
    this.kept = [{ column, down, changes: column.changes, slots }, ...this.kept].slice(0, MOST);
    return slots;
  }
}
