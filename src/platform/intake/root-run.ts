import { additionOf, removalOf } from '@core/library';
import type { Change, KnownFile, ListedFile, ListedProblem, Sound, Stamp } from '@core/library';
import { applyChange, changeOf, excerptReread, familyOf, findMoves, placedAt, reread, stamped } from '@core/library';
import { categoryOf, isCategory } from '@core/suggest';
import type { Catalogue } from '../catalogue/catalogue';
import type { ReadResult } from './intake';
import type { Intake, Problem, RootRecord } from '../store/store';

/** Some methods of an object that lives in another worker: promises all. */
export type Asked<T, K extends keyof T> = {
  [P in K]: T[P] extends (...args: infer A) => infer R ? (...args: A) => Promise<Awaited<R>> : never;
};
/** What intake asks of the catalogue. */
export type IntakeCatalogue = Asked<
  Catalogue,
  | 'all'
  | 'apply'
  | 'applyMeasured'
  | 'followed'
  | 'missing'
  | 'newIds'
  | 'sounds'
  | 'soundsOf'
  | 'unmeasured'
  | 'forgetMeasured'
>;

/** What following its file needs of a sound. */
export const followedOf = (s: Sound): KnownFile => ({
  id: s.id,
  path: s.path,
  size: s.size,
  modified: s.modified,
  quickHash: s.quickHash,
  missing: s.fields.state === 'Missing',
});

/** One look through a root: what it found is kept here, batch by batch, with the intake's record and the problems. */
export class RootRun {
  intakeId = 0;
  private readonly byPath: Map<string, Problem>;
  private readonly intake: Omit<Intake, 'id'>;
  private readonly paths = new Set<string>();
  private readonly found: ListedProblem[] = [];
  private keeping: Promise<void> = Promise.resolve();
  private stamps: Stamp[] | undefined;

  constructor(
    private readonly catalogue: IntakeCatalogue,
    readonly root: RootRecord,
    problems: readonly Problem[],
  ) {
    this.byPath = new Map(problems.map((p) => [p.path, p]));
    this.intake = { rootId: root.id, started: Date.now(), added: 0, changed: 0, moved: 0, gone: 0 };
  }

  private apply(label: string, changes: (Change | undefined)[]): Promise<void> {
    const real = changes.filter((c) => c !== undefined);
    return real.length === 0
      ? Promise.resolve()
      : this.catalogue.apply({ label, at: Date.now(), changes: real, undoable: false });
  }

  listed(files: readonly ListedFile[], problems: readonly ListedProblem[]): void {
    if (this.byPath.size > 0) for (const f of files) this.paths.add(f.path);
    this.found.push(...problems);
  }

  /** Whether a file lies in a folder that could not be read: then it is out of reach, and not gone. */
  outOfReach(path: string): boolean {
    return this.found.some((p) => p.folder && path.startsWith(`${p.path}/`));
  }

  /** A file that failed is tried again only when it changed. */
  wanted(file: ListedFile): boolean {
    const problem = this.byPath.get(file.path);
    return !problem || problem.again || problem.size !== file.size || problem.modified !== file.modified;
  }

  /** Begins to keep something; what is read meanwhile waits for it by {@link kept}. */
  keep(task: () => Promise<void>): void {
    this.keeping = task();
    this.keeping.catch(() => undefined);
  }

  /** Resolves when what was begun is kept. @throws what that threw */
  kept(): Promise<void> {
    return this.keeping;
  }

  async begin(): Promise<void> {
    if (this.intakeId > 0) return;
    [this.intakeId] = await this.catalogue.newIds('intakes', 1);
    await this.apply('Begin an intake', [{ table: 'intakes', id: this.intakeId, after: { ...this.intake } }]);
  }

  /** Files that are there again, and files that are not there any more. */
  async presence(back: readonly KnownFile[], gone: readonly KnownFile[]): Promise<void> {
    const set = (s: KnownFile, before: string | undefined, after: string | undefined): Change[] =>
      familyOf(s).map((id) => ({
        table: 'sounds',
        id,
        before: { 'fields.state': before, 'from.state': before && 'measured' },
        after: { 'fields.state': after, 'from.state': after && 'measured' },
      }));
    await this.apply(
      'Find files again',
      back.flatMap((s) => set(s, 'Missing', undefined)),
    );
    await this.apply(
      'Miss files',
      gone.flatMap((s) => set(s, undefined, 'Missing')),
    );
    this.intake.gone = gone.length;
    await this.keepListed();
  }

  /** Keeps what the listing found wrong; forgets what it finds wrong no longer, or not there. */
  private async keepListed(): Promise<void> {
    const found = new Map(this.found.map((p) => [p.path, p]));
    const known = [...this.byPath.values()];
    const stale = known.filter((p) => {
      const now = found.get(p.path);
      return now ? now.reason !== p.reason : !this.paths.has(p.path) && !this.outOfReach(p.path);
    });
    const fresh = this.found.filter((p) => this.byPath.get(p.path)?.reason !== p.reason);
    const ids = fresh.length > 0 ? await this.catalogue.newIds('problems', fresh.length) : [];
    const at = Date.now();
    await this.apply('Note what could not be read', [
      ...stale.map(cleared),
      ...fresh.map((p, i): Change => {
        const { path, reason, folder } = p;
        const problem: Problem = { id: ids[i], rootId: this.root.id, path, reason, at, ...(folder ? { folder } : {}) };
        return { table: 'problems', id: ids[i], after: { ...problem } };
      }),
    ]);
  }

  private problem(path: string, reason: string, id: number, file: ListedFile, again = false): Change {
    const problem: Problem = {
      id,
      rootId: this.root.id,
      path,
      reason,
      at: Date.now(),
      size: file.size,
      modified: file.modified,
      ...(again ? { again } : {}),
    };
    return additionOf('problems', problem);
  }

  /** Keeps new files as sounds, or as the sounds that moved there; what cannot be read as problems. */
  async keepNew(read: Map<string, ReadResult>, away: KnownFile[]): Promise<void> {
    const results = [...read.values()];
    const fresh = results.flatMap((r) => ('sound' in r ? [r.sound] : []));
    const moves = away.length === 0 ? new Map<string, KnownFile>() : findMoves(fresh, away);
    const movedRows = new Map(
      (await this.catalogue.sounds([...moves.values()].flatMap(familyOf))).map((s) => [s.id, s]),
    );
    const ids = await this.catalogue.newIds('sounds', fresh.length);
    this.stamps ??= ((await this.catalogue.all('stamps')) as Stamp[]).filter((s) => s.rootIds?.includes(this.root.id));
    const { stamps } = this;
    const failing = results.length - fresh.length;
    const problemIds = failing > 0 ? await this.catalogue.newIds('problems', failing) : [];
    let next = 0;
    let failed = 0;
    const changes: (Change | undefined)[] = results.flatMap((result) => {
      const path = 'sound' in result ? result.sound.path : result.file.path;
      const old = this.byPath.get(path);
      const forget = old ? [cleared(old)] : [];
      if (!('sound' in result))
        return [...forget, this.problem(path, result.reason, problemIds[failed++], result.file, result.again)];
      const moved = moves.get(path);
      const row = moved && movedRows.get(moved.id);
      if (row) {
        away.splice(away.indexOf(moved), 1);
        this.intake.moved!++;
        // It was counted as gone before it was found again.
        if (!moved.missing) this.intake.gone!--;
        const { size, modified } = result.sound;
        const there = placedAt(this.root.id, { path, size, modified }, isCategory);
        const family = familyOf(moved).flatMap((id) => movedRows.get(id) ?? []);
        return [...forget, ...family.map((r) => changeOf('sounds', r, there))];
      }
      this.intake.added++;
      return [
        ...forget,
        { table: 'sounds' as const, id: ids[next++], after: { ...stampedSound(result.sound, stamps) } },
      ];
    });
    await this.apply(`Take in ${this.root.name}`, changes);
  }

  /** Takes over what files say now that were written anew. What people made of their sounds stays. */
  async keepChanged(read: Map<string, ReadResult>, sounds: readonly KnownFile[]): Promise<void> {
    const rows = await this.catalogue.sounds(sounds.flatMap(familyOf));
    const problemIds = await this.catalogue.newIds('problems', rows.length);
    const other: number[] = [];
    const changes = rows.flatMap((row, i): (Change | undefined)[] => {
      const result = read.get(row.path);
      if (!result) return [];
      // A file has one problem however many sounds are parts of it.
      const head = sounds.some((s) => s.id === row.id);
      const old = head ? this.byPath.get(row.path) : undefined;
      const forget = old ? [cleared(old)] : [];
      if (!('sound' in result))
        return head ? [...forget, this.problem(row.path, result.reason, problemIds[i], result.file, result.again)] : [];
      const same = row.quickHash === result.sound.quickHash && row.quickHash !== undefined;
      const after = same
        ? { modified: result.sound.modified }
        : row.excerpt
          ? excerptReread(row, result.sound)
          : reread(row, result.sound);
      if (!('modified' in after && Object.keys(after).length === 1)) {
        other.push(row.id);
        this.intake.changed!++;
      }
      return [...forget, changeOf('sounds', row, { 'fields.state': undefined, 'from.state': undefined, ...after })];
    });
    await this.catalogue.forgetMeasured(other);
    await this.apply(`Read ${this.root.name} again`, changes);
  }

  /** Closes the intake's record; one that found nothing leaves none behind. */
  async end(): Promise<void> {
    if (this.intakeId === 0) return;
    const { added, changed, moved, gone } = this.intake;
    const before = { added: 0, changed: 0, moved: 0, gone: 0 };
    await this.apply('End an intake', [
      { table: 'intakes', id: this.intakeId, before, after: { added, changed, moved, gone } },
    ]);
  }
}

const cleared = (p: Problem): Change => removalOf('problems', p);

/** A new sound with the stamps of its root on it. */
function stampedSound(sound: Omit<Sound, 'id'>, stamps: readonly Stamp[]): Omit<Sound, 'id'> {
  let now: Sound = { ...sound, id: 0 };
  for (const stamp of stamps) {
    const after = stamped(now, stamp, categoryOf);
    now = applyChange(now, { table: 'sounds', id: 0, before: {}, after })!;
  }
  const { id: _, ...rest } = now;
  return rest;
}
