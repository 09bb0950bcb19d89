import type { Sound } from '@core/library';
import type { IntakeCatalogue } from './root-run';

/** Records that are fetched together. */
const FETCHED = 64;

/** Sounds that wait for being measured: those that are looked at first, the others in turn; their records fetched some at a time. */
export class MeasureQueue {
  private readonly fetched: Sound[] = [];
  private readonly inTurn: Iterator<number>;
  private fetching: Promise<void> | undefined;
  private exhausted = false;

  /**
   * @param waiting the root of each sound that waits, by its id; those that are taken are taken out of it
   * @param known whether a root can be read
   * @param preferred sounds that are looked at now
   */
  constructor(
    private readonly catalogue: IntakeCatalogue,
    private readonly waiting: Map<number, number>,
    private readonly known: (rootId: number) => boolean,
    private readonly preferred: () => readonly number[],
  ) {
    this.inTurn = waiting.keys();
  }

  private next(): number | undefined {
    for (const id of this.preferred()) if (this.waiting.has(id)) return id;
    return this.inTurn.next().value;
  }

  private async fetch(): Promise<void> {
    const ids: number[] = [];
    for (let id = this.next(); id !== undefined; id = ids.length < FETCHED ? this.next() : undefined) {
      if (this.known(this.waiting.get(id)!)) ids.push(id);
      this.waiting.delete(id);
    }
    if (ids.length > 0) this.fetched.push(...(await this.catalogue.sounds(ids)));
    else this.exhausted = true;
  }

  /** The next sound; undefined when none is left. */
  async take(): Promise<Sound | undefined> {
    const { fetched } = this;
    const wanted = this.preferred();
    const urgent = wanted.some((id) => this.waiting.has(id));
    while ((fetched.length === 0 || urgent) && !this.exhausted) {
      await (this.fetching ??= this.fetch().finally(() => (this.fetching = undefined)));
      if (urgent) break;
    }
    const at = fetched.findIndex((f) => wanted.includes(f.id));
    return at > 0 ? fetched.splice(at, 1)[0] : fetched.shift();
  }

  /** Puts back what was fetched and not taken. */
  giveBack(): void {
    for (const { id, rootId } of this.fetched.splice(0)) this.waiting.set(id, rootId);
  }
}
