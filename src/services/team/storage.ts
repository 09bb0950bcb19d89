import { createHash } from 'node:crypto';
import { readFile } from 'node:fs/promises';
import { keepWhole } from '../whole';
import type { Found, Opened, Place } from './places';

/** A file that lies in a storage, as it was when its sum was taken. */
interface Lying extends Found {
  /** SHA-256 */
  sum: string;
}

/** Files between two times that what is known of them is kept. */
const KEPT_EACH = 200;
/** A storage that was gone through is not gone through again for so long. Milliseconds */
const RESTS = 60_000;

const isLying = (value: unknown): value is Lying => {
  const { path, size, mark, sum } = (value ?? {}) as Partial<Record<keyof Lying, unknown>>;
  return typeof path === 'string' && typeof size === 'number' && typeof mark === 'string' && typeof sum === 'string';
};

/**
 * Places in which files lie already: a team's libraries may have sounds of them that are neither sent nor copied, but read where they are.
 * Each file's sum is taken once, and anew where it is another file.
 */
export class Storage {
  private bySum = new Map<string, Lying>();
  private byPath = new Map<string, Lying>();
  private looking: Promise<number> | undefined;
  private looked = -Infinity;

  /** @param keptAt the file in which is kept what is known of them */
  constructor(
    private readonly places: readonly Place[],
    private readonly keptAt: string,
    private readonly clock = Date.now,
  ) {}

  /** Goes through all places. @returns how many files lie there */
  look(): Promise<number> {
    return (this.looking ??= this.lookNow().finally(() => {
      this.looking = undefined;
      this.looked = this.clock();
    }));
  }

  private async lookNow(): Promise<number> {
    if (this.byPath.size === 0) await this.recall();
    const found = new Map<string, Lying>();
    const fresh = { count: 0 };
    let failure: unknown;
    for (const place of this.places)
      try {
        await this.lookIn(place, found, fresh);
      } catch (error) {
        // One that does not answer now has what it had.
        failure ??= error;
        for (const lying of this.byPath.values()) if (place.holds(lying.path)) found.set(lying.path, lying);
      }
    this.byPath = found;
    this.bySum = new Map([...found.values()].map((lying) => [lying.sum, lying]));
    await this.keep(found);
    if (failure) throw failure as Error;
    return found.size;
  }

  private async lookIn(place: Place, found: Map<string, Lying>, fresh: { count: number }): Promise<void> {
    for await (const file of place.files()) {
      // What cannot be read now may be another time.
      const lying = await this.known(place, file).catch(() => undefined);
      if (!lying) continue;
      if (this.byPath.get(lying.path) !== lying) fresh.count++;
      found.set(lying.path, lying);
      this.bySum.set(lying.sum, lying);
      if (fresh.count > 0 && fresh.count % KEPT_EACH === 0) await this.keep(found);
    }
  }

  /** A file as it lies there now; its sum is taken where it is not known as it is. */
  private async known(place: Place, file: Found): Promise<Lying> {
    const before = this.byPath.get(file.path);
    if (before?.size === file.size && before.mark === file.mark) return before;
    const hash = createHash('sha256');
    for await (const part of await place.whole(file)) hash.update(part);
    return { ...file, sum: hash.digest('hex') };
  }

  private async recall(): Promise<void> {
    try {
      const kept = JSON.parse(await readFile(this.keptAt, 'utf8')) as unknown;
      const lying = Array.isArray(kept) ? kept.filter(isLying) : [];
      this.byPath = new Map(lying.map((l) => [l.path, l]));
      this.bySum = new Map(lying.map((l) => [l.sum, l]));
    } catch {
      // What is not known is found out again.
    }
  }

  private keep = (found: ReadonlyMap<string, Lying>): Promise<void> => keepWhole(this.keptAt, [...found.values()]);

  /** The length of a file of this content; undefined where none lies there. See {@link open} */
  async sizeOf(sum: string): Promise<number | undefined> {
    // Of one that does not answer nothing can be told: what is to be there is sent.
    const file = await this.open(sum).catch(() => undefined);
    await file?.close();
    return file?.size;
  }

  /**
   * Opens a file of this content; undefined where there is none that is as it was when its sum was taken. Then the places are gone through
   * again, unless that was just done.
   * @throws Unreachable
   */
  async open(sum: string): Promise<Opened | undefined> {
    const lying = this.bySum.get(sum);
    const file = lying && (await this.places.find((place) => place.holds(lying.path))?.open(lying));
    if (file) return file;
    if (this.clock() - this.looked > RESTS) void this.look().catch(() => undefined);
    return undefined;
  }
}
