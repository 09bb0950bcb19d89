import { grown } from './grown';

/** Which sound has which slot: a sound keeps its slot for good. */
export class Slots {
  /** The sound's id of each slot. */
  ids = new Uint32Array(0);
  count = 0;
  /** Slots up to here have rising ids; ids that came out of order are looked up apart. */
  rising = 0;
  private readonly strays = new Map<number, number>();

  /** Whether ids rise with slots. */
  get ordered(): boolean {
    return this.strays.size === 0;
  }

  /** The slot of a sound. */
  of(id: number): number | undefined {
    let low = 0;
    let high = this.rising;
    while (low < high) {
      const middle = (low + high) >>> 1;
      if (this.ids[middle] < id) low = middle + 1;
      else high = middle;
    }
    return low < this.rising && this.ids[low] === id ? low : this.strays.get(id);
  }

  /** Makes room for slots. */
  grow(room: number): void {
    this.ids = grown(this.ids, room);
  }

  /** Makes a slot for a new id; there has to be room for it. */
  add(id: number): number {
    const slot = this.count++;
    this.ids[slot] = id;
    if (this.rising === slot && (slot === 0 || this.ids[slot - 1] < id)) this.rising++;
    else this.strays.set(id, slot);
    return slot;
  }

  /** Takes over what was kept of an earlier run. */
  load(ids: Uint32Array<ArrayBuffer>, rising: number): void {
    this.ids = ids;
    this.count = ids.length;
    this.rising = Math.min(this.count, rising);
    for (let slot = this.rising; slot < this.count; slot++) this.strays.set(ids[slot], slot);
  }
}
