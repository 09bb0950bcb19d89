import { decideAnchors, reviewAnchors, type AnchorDecision } from './anchors';
import { outdated, type Policy, type Target, type TableName } from '@core/library';
import type { Recipe } from '@core/naming';
import { storedIdentity } from '../store/identity';
import { Room } from '../store/room';
import { shelves, type Shelf } from '../store/shelves';
import { Store } from '../store/store';
import { Restore, writeBackup } from './backup';
import { Cancelled, Gate, putTexts, type Desk, type DeskCatalogue, type Progress, type TypedTexts } from './desk';
import { composeNames, fillFromNames, parseNames, planNames } from './names';
import { previewRecipe, runRecipe } from './recipes';
import { Review, type Decision } from './review';
import type { Choice, Choices } from '@core/elsewhere';
import { Exchange } from '../elsewhere/exchange';
import type { PublisherKey } from '../elsewhere/keys';
import { Service } from '../elsewhere/service';
import { LabelPublisher, LookUp } from './exchange';
import { exportSheet, readSheet, SheetImport, type SheetFormat } from './sheets';

/** Where the labeller stands, in memory that the window sees as well: [calls that run, step, sounds begun, the gate]. */
export type Whereabouts = Int32Array;

/** Bytes of all backups that are kept by themselves. */
const MOST_KEPT = 2e9;

const exchangeAt = (base: string) => new Exchange(new Service(base, 'the exchange'));

/**
 * Labels many sounds at once, in a worker of its own: recipes, suggestions, names, sheets and backups.
 * The window watches its whereabouts, and ends the worker when a pattern of a recipe does not come to an end.
 */
export class Labeller {
  private readonly desk: Desk;
  private readonly reviewing: Review;
  private readonly sheet: SheetImport;
  private readonly restoring: Restore;
  private readonly lookUp: LookUp;
  private readonly publisher: LabelPublisher;
  private counts = 0;

  private constructor(
    store: Store,
    private readonly room: Room,
    catalogue: Desk['catalogue'],
    private readonly where: Whereabouts,
    private readonly shelves: readonly Shelf[],
  ) {
    this.desk = { store, catalogue, gate: new Gate(where.subarray(3, 4)) };
    this.reviewing = new Review(this.desk);
    this.sheet = new SheetImport(this.desk);
    this.restoring = new Restore(this.desk);
    this.lookUp = new LookUp(this.desk);
    this.publisher = new LabelPublisher(this.desk);
  }

  static async start(
    catalogue: DeskCatalogue,
    where: Whereabouts,
    places: readonly Shelf[] = shelves(),
  ): Promise<Labeller> {
    const room = new Room();
    const store = new Store(room);
    await store.open();
    return new Labeller(store, room, catalogue, where, places);
  }

  private readonly watch = (step: number): void => {
    Atomics.store(this.where, 1, step);
    Atomics.add(this.where, 2, 1);
  };

  private async watched<T>(work: () => Promise<T>): Promise<T> {
    Atomics.add(this.where, 0, 1);
    try {
      return await work();
    } finally {
      Atomics.sub(this.where, 0, 1);
    }
  }

  /** Before and after of some rows. A count that runs is of something else by now, and ends. */
  previewRecipe(recipe: Pick<Recipe, 'steps'>, ids: number[], rows: number[]) {
    this.counts++;
    return this.watched(() => previewRecipe(this.desk, recipe, ids, rows, this.watch));
  }

  /** Runs a recipe, or only counts what it would do; a count ends when another one begins. */
  runRecipe(recipe: Pick<Recipe, 'name' | 'steps'>, ids: number[], keep: boolean, progress: Progress) {
    const mine = keep ? 0 : ++this.counts;
    // What is not a pattern may take its time: the counter runs with the progress.
    const report: Progress = (share, what) => {
      if (!keep && mine !== this.counts) throw new Cancelled();
      Atomics.add(this.where, 2, 1);
      if (share >= 0.6 && keep) Atomics.store(this.where, 1, -1);
      progress(share, what);
    };
    return this.watched(() => runRecipe(this.desk, recipe, ids, keep, this.watch, report));
  }

  putTexts(rows: TypedTexts[], label: string, keepVendor: boolean) {
    return putTexts(this.desk, rows, label, keepVendor);
  }

  beginReview(ids: number[], progress: Progress) {
    return this.reviewing.begin(ids, progress);
  }

  decide(decisions: Decision[], label: string) {
    return this.reviewing.decide(decisions, label);
  }

  reviewAnchors(ids: number[], progress: Progress) {
    return reviewAnchors(this.desk, ids, progress);
  }

  decideAnchors(decisions: AnchorDecision[], label: string) {
    return decideAnchors(this.desk, decisions, label);
  }

  composeNames(pattern: string, ids: number[], progress: Progress) {
    return composeNames(this.desk, pattern, ids, progress);
  }

  planNames(pattern: string, ids: number[], progress: Progress) {
    return planNames(this.desk, pattern, ids, progress);
  }

  parseNames(pattern: string, ids: number[], progress: Progress) {
    return parseNames(this.desk, pattern, ids, progress);
  }

  fillFromNames(pattern: string, into: Record<string, string>, ids: number[], progress: Progress) {
    return fillFromNames(this.desk, pattern, into, ids, progress);
  }

  readSheet(name: string, bytes: Uint8Array) {
    return this.sheet.read(name, bytes);
  }

  /** Reads a sheet without keeping it open. */
  readCells(bytes: Uint8Array) {
    return readSheet(bytes);
  }

  sheetCells(rows: number[]) {
    return this.sheet.cells(rows);
  }

  matchSheet(targets: Target[], policies: Record<string, Policy>, progress: Progress) {
    return this.sheet.match(targets, policies, progress);
  }

  applySheet(progress: Progress) {
    return this.sheet.apply(progress);
  }

  exportSheet(ids: number[], keys: string[], format: SheetFormat, progress: Progress) {
    return exportSheet(this.desk, ids, keys, format, progress);
  }

  /** @param base the address of an exchange */
  lookLabelsUp(base: string, publisher: string, ids: number[], progress: Progress) {
    return this.lookUp.look(exchangeAt(base), publisher, ids, progress);
  }

  takeLabels(choices: Choices, chosen: Record<number, Record<string, Choice>>, progress: Progress) {
    return this.lookUp.take(choices, chosen, progress);
  }

  planLabels(base: string, publisher: string, ids: number[], progress: Progress, withArtwork: boolean) {
    return this.publisher.plan(exchangeAt(base), publisher, ids, progress, withArtwork);
  }

  publishLabels(base: string, key: PublisherKey, note: string, what: 'say' | 'take back') {
    return this.publisher.publish(exchangeAt(base), key, note, what);
  }

  writeBackup(progress: Progress) {
    return writeBackup(this.desk, progress);
  }

  /**
   * Writes a backup onto each shelf that has none of the catalogue as it is, and lets old ones go. A shelf that fails keeps no other from
   * its copy.
   * @returns whether one was written
   * @throws Error that says which could not be, and why
   */
  async backUpByItself(progress: Progress): Promise<boolean> {
    const { store: library, revision } = await storedIdentity(this.desk.store);
    if (library === undefined) return false;
    const own = async (shelf: Shelf) => (await shelf.list())?.filter((b) => (b.library ?? library) === library);
    const due: Shelf[] = [];
    for (const shelf of this.shelves) {
      // A place that answers in another way than it should keeps no other from its copy.
      const there = await own(shelf).catch(() => undefined);
      if (there && there[0]?.revision !== revision) due.push(shelf);
    }
    if (due.length === 0) return false;
    const blob = await writeBackup(this.desk, progress);
    const backup = { library, revision, at: Date.now() };
    const failed: string[] = [];
    for (const shelf of due) {
      try {
        if (shelf.where === 'browser') await this.room.need(blob.size);
        await shelf.write(backup, blob);
        for (const old of outdated((await own(shelf)) ?? [], MOST_KEPT)) await shelf.remove(old);
      } catch (error) {
        failed.push(`${shelf.where === 'browser' ? 'in the browser' : 'on the disk'}: ${(error as Error).message}`);
      }
    }
    if (failed.length > 0) throw new Error(failed.join('; '));
    return true;
  }

  readBackup(file: Blob, progress: Progress) {
    return this.restoring.read(file, progress);
  }

  restore(tables: TableName[], remove: boolean, label: string, progress: Progress) {
    return this.restoring.restore(tables, remove, label, progress);
  }
}
