import { audioEndings } from '@core/files';
import type { Change, FoundFile, KnownFile, ListedFile, Reconnection, Sound } from '@core/library';
import { RootComparison } from '@core/library';
import type { IntakeReader, ReadResult } from './intake';
import { MeasuredBatch } from './measured-batch';
import { MeasureQueue } from './measure-queue';
import { Meter } from './meter';
import { recognise } from './recognise';
import { planReconnection, reconnect, type Hands, type ReconnectionPlan } from './reconnect';
import { Line } from './line';
import { listFiles, RootEmptied, RootUnavailable } from '../files/roots';
import type { RootWork, Unavailable, WorkReport } from './work';
import { followedOf, RootRun, type Asked, type IntakeCatalogue } from './root-run';
import { rootLock } from '../store/locks';
import { inOurWords, isNoRoom } from '../store/room';
import type { Problem, RootRecord } from '../store/store';

export type Reader = Asked<IntakeReader, 'read' | 'measure' | 'quickHash' | 'audioHash'>;

/** Files that are read between two edits: few enough to be found soon, enough to be cheap. */
const BATCH = 480;
const SHARE = 80;
const MEASURING = 'cormorant-measuring';
/** Sounds that each reader measures at once: while one is reckoned with, the next ones are on their way. */
const MEASURED_AT_ONCE = 3;

/**
 * Takes roots in, in the background: lists what is there, reads the labels of what is new so that it is found at once, then
 * measures it, what is on screen first. It works on one thing after another and shares each among its readers. All that it
 * needs to go on after a break is in the catalogue.
 */
export class Conductor {
  private readonly toRead: number[] = [];
  private readonly toMeasure = new Set<number>();
  private readonly works = new Map<number, RootWork>();
  private readonly unavailable = new Map<number, Unavailable>();
  /** Roots that are known to have been emptied on purpose. */
  private readonly emptied = new Set<number>();
  /** Roots that nobody can read now: their sounds may turn up elsewhere. */
  private absent: readonly number[] = [];
  private readonly current = new Set<number>();
  private readonly halted = new Set<number>();
  private preferred: number[] = [];
  private running: Promise<void> | undefined;
  private readonly readWaiters: (() => void)[] = [];
  private reportLater: ReturnType<typeof setTimeout> | undefined;

  constructor(
    private readonly catalogue: IntakeCatalogue,
    private readonly readers: readonly Reader[],
    private readonly report: (report: WorkReport) => void,
  ) {}

  private told(): void {
    this.reportLater ??= setTimeout(() => {
      this.reportLater = undefined;
      this.tellNow();
    }, 80);
  }

  private tellNow(): void {
    this.report({
      works: [...this.works.values()].map((w) => ({ ...w })),
      unavailable: [...this.unavailable.values()],
      current: [...this.current],
    });
  }

  private async root(id: number): Promise<RootRecord | undefined> {
    return ((await this.catalogue.all('roots')) as RootRecord[]).find((r) => r.id === id);
  }

  private work(rootId: number, phase: RootWork['phase']): RootWork {
    const work: RootWork = { rootId, phase, done: 0, total: 0, rate: 0, current: '' };
    this.works.set(rootId, work);
    this.told();
    return work;
  }

  /**
   * Looks through a root and takes in what is new, changed, moved or gone. Resolves when nothing is left to do for any root.
   * @param emptied somebody says that what was in it is gone, where it is found empty
   */
  scan(rootId: number, emptied = false): Promise<void> {
    if (emptied) this.emptied.add(rootId);
    this.halted.delete(rootId);
    if (!this.toRead.includes(rootId)) this.toRead.push(rootId);
    if (!this.works.has(rootId)) this.work(rootId, 'Waiting');
    return this.run();
  }

  /** Says which roots nobody can read now: a file of theirs that is found in another root is the same sound. */
  setAbsent(rootIds: readonly number[]): void {
    this.absent = rootIds;
  }

  /** Which of some roots a folder is that was renamed or moved. See {@link recognise}. */
  recognise(folder: RootRecord, absent: readonly number[]): Promise<number | undefined> {
    return recognise(this.catalogue, this.readers[0], folder, absent);
  }

  /** Stops the work on a root after what is in hand; it begins again with `scan`. */
  stop(rootId: number): void {
    this.halted.add(rootId);
    const at = this.toRead.indexOf(rootId);
    if (at >= 0) this.toRead.splice(at, 1);
    this.toMeasure.delete(rootId);
    if (this.works.get(rootId)?.phase === 'Waiting') this.works.delete(rootId);
    this.told();
  }

  /** Resolves once the labels of all roots that were asked for are read; measuring may go on. */
  labelsRead(): Promise<void> {
    return this.running ? new Promise((done) => this.readWaiters.push(done)) : Promise.resolve();
  }

  /** Sounds that are looked at now: they are measured before all others. */
  prefer(ids: number[]): void {
    this.preferred = ids;
  }

  /** Measures some sounds at once. */
  async measureNow(ids: number[]): Promise<void> {
    const sounds = await this.catalogue.sounds(ids);
    const batch = new MeasuredBatch(this.catalogue);
    for (const sound of sounds) {
      const root = await this.root(sound.rootId);
      if (root)
        await this.readers[0].measure(root, slim(sound)).then(
          (measured) => batch.add(measured),
          () => undefined,
        );
    }
    await batch.flush();
  }

  private run(): Promise<void> {
    this.running ??= this.go().finally(() => {
      this.running = undefined;
      this.tellNow();
    });
    return this.running;
  }

  private async go(): Promise<void> {
    for (;;) {
      const next = this.toRead.shift();
      if (next !== undefined) {
        await this.guard(rootLock(next), [next], async () => {
          await this.readRoot(next);
          this.toMeasure.add(next);
        });
        continue;
      }
      for (const done of this.readWaiters.splice(0)) done();
      const roots = [...this.toMeasure];
      if (roots.length === 0) return;
      this.toMeasure.clear();
      await this.guard(MEASURING, roots, () => this.measureRoots(roots));
    }
  }

  /** Does a piece of work unless another tab is at it: then it waits, and finds most of it done. */
  private async guard(lock: string, rootIds: number[], task: () => Promise<void>): Promise<void> {
    const [rootId] = rootIds;
    const open = async () => {
      await task();
      // Until then it is not known that it can be read again.
      if (lock !== MEASURING) for (const id of rootIds) this.unavailable.delete(id);
    };
    try {
      const done = await navigator.locks.request(lock, { ifAvailable: true }, async (held) => {
        if (held) await open();
        return held !== null;
      });
      if (done) return;
      for (const id of rootIds) this.work(id, 'In another tab');
      this.tellNow();
      await navigator.locks.request(lock, open);
    } catch (error) {
      this.failed(rootId, error as Error);
    } finally {
      for (const id of rootIds) this.works.delete(id);
      this.told();
    }
  }

  private failed(rootId: number, error: Error): void {
    const { message } = inOurWords(error);
    const reason = isNoRoom(error) ? `${message} What was taken in before is kept.` : message;
    const askAgain = error instanceof RootUnavailable && error.askAgain;
    const emptied = error instanceof RootEmptied ? { emptied: error.files } : {};
    this.unavailable.set(rootId, { rootId, reason, askAgain, ...emptied });
    this.current.delete(rootId);
  }

  /** Spreads items over the readers, some at a time each. */
  private async share<T>(
    items: readonly T[],
    size: number,
    task: (reader: Reader, part: T[]) => Promise<void>,
  ): Promise<void> {
    let at = 0;
    await Promise.all(
      this.readers.map(async (reader) => {
        while (at < items.length) {
          const part = items.slice(at, at + size);
          at += size;
          await task(reader, part);
        }
      }),
    );
  }

  private async readRoot(rootId: number): Promise<void> {
    const root = await this.root(rootId);
    if (!root) return;
    this.current.delete(rootId);
    const meter = new Meter(this.work(rootId, 'Looking'));
    const known = await this.catalogue.followed(rootId);
    const problems = ((await this.catalogue.all('problems')) as Problem[]).filter((p) => p.rootId === rootId);
    const run = new RootRun(this.catalogue, root, problems);
    try {
      await this.follow(run, known, meter);
    } finally {
      // Whatever stopped it, what came in until then has arrived.
      await run.kept().catch(() => undefined);
      await run.end();
    }
  }

  private async follow(run: RootRun, known: KnownFile[], meter: Meter): Promise<void> {
    const { root } = run;
    const rootId = root.id;
    const comparison = new RootComparison(known);
    const { work } = meter;
    const added: ListedFile[] = [];
    const changed: { sound: KnownFile; file: ListedFile }[] = [];
    const back: KnownFile[] = [];
    // In a root that is new nothing can have moved, unless others are away: its files are read while the list still grows.
    const away = await this.awayFrom(rootId);
    const reading = new Line();
    const readSoon = (files: ListedFile[]) => reading.add(() => this.readNew(run, files, away, meter));
    const early = known.length === 0;
    work.counting = true;
    let seen = 0;
    try {
      for await (const { files: listed, problems } of listFiles(root)) {
        if (this.halted.has(rootId) || reading.failed) break;
        const files = listed.filter((f) => audioEndings.test(f.path));
        seen += listed.length + problems.length;
        const found = comparison.take(files);
        run.listed(files, problems);
        const wanted = found.added.filter((f) => run.wanted(f));
        added.push(...wanted);
        changed.push(...found.changed);
        back.push(...found.back);
        work.total = early ? work.total + wanted.length : known.length + added.length;
        this.told();
        if (early) while (added.length >= BATCH) readSoon(added.splice(0, BATCH));
      }
    } catch (error) {
      // What was found until then is there all the same.
      await reading.done();
      throw error;
    }
    work.counting = false;
    if (this.halted.has(rootId)) return reading.done();
    const here = known.filter((s) => !s.missing).length;
    if (seen === 0 && here > 0 && !this.emptied.delete(rootId)) throw new RootEmptied(root.name, here);
    const gone = comparison.unseen().filter((s) => !run.outOfReach(s.path));
    await reading.done();
    await run.presence(
      back,
      gone.filter((s) => !s.missing),
    );
    if (!early) {
      work.phase = 'Reading labels';
      work.total = known.length - gone.length + added.length;
      work.done = work.total - added.length - changed.length;
    }
    for (let at = 0; at < changed.length && !this.halted.has(rootId); at += BATCH)
      await this.readChanged(run, changed.slice(at, at + BATCH), meter);
    away.push(...gone);
    while (added.length > 0 && !this.halted.has(rootId)) readSoon(added.splice(0, BATCH));
    await reading.done();
    await run.kept();
  }

  /** Sounds whose files are not where they were, in all roots but one, or cannot be read there now. */
  private async awayFrom(rootId: number): Promise<KnownFile[]> {
    const away = (await this.catalogue.missing()).filter((s) => s.rootId !== rootId).map(followedOf);
    for (const id of this.absent) if (id !== rootId) away.push(...(await this.catalogue.followed(id)));
    return away;
  }

  /** Files are read while those before them are being kept. */
  private async readNew(run: RootRun, files: ListedFile[], away: KnownFile[], meter: Meter): Promise<void> {
    if (this.halted.has(run.root.id)) return;
    const read = await this.readFiles(run, files, meter);
    await run.kept();
    run.keep(() => run.keepNew(read, away));
  }

  private async readChanged(
    run: RootRun,
    pairs: { sound: KnownFile; file: ListedFile }[],
    meter: Meter,
  ): Promise<void> {
    const read = await this.readFiles(
      run,
      pairs.map((p) => p.file),
      meter,
    );
    await run.keepChanged(
      read,
      pairs.map((p) => p.sound),
    );
  }

  private async readFiles(run: RootRun, files: ListedFile[], meter: Meter): Promise<Map<string, ReadResult>> {
    await run.begin();
    meter.work.phase = 'Reading labels';
    const results = new Map<string, ReadResult>();
    await this.share(files, SHARE, async (reader, part) => {
      meter.work.current = part[0].path;
      const found = part.map((f): FoundFile => ({
        ...f,
        rootId: run.root.id,
        rootName: run.root.name,
        intakeId: run.intakeId,
        now: Date.now(),
      }));
      for (const [i, result] of (await reader.read(run.root, found)).entries()) results.set(part[i].path, result);
      meter.count(part.length);
      this.told();
    });
    // In the order of the list, whichever reader was done first.
    return new Map(files.map(({ path }) => [path, results.get(path)!]));
  }

  private async measureRoots(rootIds: number[]): Promise<void> {
    const waiting = new Map<number, number>();
    const meters = new Map<number, Meter>();
    const failing = new Set(((await this.catalogue.all('problems')) as Problem[]).map((p) => `${p.rootId}/${p.path}`));
    for (const id of rootIds) {
      const { total, waiting: ids } = await this.catalogue.unmeasured(id);
      for (const soundId of ids) waiting.set(soundId, id);
      if (ids.length === 0) {
        this.works.delete(id);
        this.current.add(id);
        continue;
      }
      const work = this.work(id, 'Measuring');
      Object.assign(work, { total, done: total - ids.length });
      meters.set(id, new Meter(work));
    }
    const roots = new Map<number, RootRecord>();
    for (const id of rootIds) {
      const root = await this.root(id);
      if (root) roots.set(id, root);
    }
    const batch = new MeasuredBatch(this.catalogue);
    const stopped = (id: number) => this.halted.has(id) || this.unavailable.has(id);
    const queue = new MeasureQueue(
      this.catalogue,
      waiting,
      (id) => roots.has(id),
      () => this.preferred,
    );
    const hands = this.readers.flatMap((reader) => Array.from({ length: MEASURED_AT_ONCE }, () => reader));
    await Promise.all(
      hands.map(async (reader) => {
        // New files come first: somebody is waiting to find them.
        while (this.toRead.length === 0) {
          const sound = await queue.take();
          if (!sound) return;
          const root = roots.get(sound.rootId);
          if (!root || stopped(root.id)) continue;
          await this.measureOne(reader, root, sound, batch, failing, meters.get(root.id)!);
        }
      }),
    );
    queue.giveBack();
    await batch.flush();
    for (const id of rootIds) {
      if (stopped(id)) continue;
      if ([...waiting.values()].includes(id)) this.toMeasure.add(id);
      else this.current.add(id);
    }
  }

  private async measureOne(
    reader: Reader,
    root: RootRecord,
    sound: Sound,
    batch: MeasuredBatch,
    failing: Set<string>,
    meter: Meter,
  ): Promise<void> {
    if (sound.fields.state === 'Missing' || failing.has(`${root.id}/${sound.path}`)) return;
    meter.work.current = sound.path;
    try {
      await batch.add(await reader.measure(root, slim(sound)));
    } catch (error) {
      const { name, message } = error as Error;
      if (name === 'RootUnavailable' || isNoRoom(error as Error)) return this.failed(root.id, error as Error);
      const [problemId] = await this.catalogue.newIds('problems', 1);
      const problem: Problem = {
        id: problemId,
        rootId: root.id,
        path: sound.path,
        reason: `it could not be measured: ${message}`,
        at: Date.now(),
        size: sound.size,
        modified: sound.modified,
      };
      const changes: Change[] = [{ table: 'problems', id: problemId, after: { ...problem } }];
      await this.catalogue.apply({ label: 'Note a problem', at: Date.now(), changes, undoable: false });
    }
    meter.count();
    this.told();
  }

  /** Finds the files of a root's missing sounds below another folder; nothing is changed. See {@link planReconnection}. */
  async plan(rootId: number, target: RootRecord): Promise<ReconnectionPlan> {
    const work = this.work(rootId, 'Comparing');
    const hands: Hands = {
      share: (items, task) => this.share(items, 1, (reader, [item]) => task(reader, item)),
      work,
      told: () => this.told(),
    };
    try {
      const away = this.absent.includes(rootId) || this.unavailable.has(rootId);
      return await planReconnection(this.catalogue, hands, rootId, target, away);
    } finally {
      this.works.delete(rootId);
      this.told();
    }
  }

  /** Connects sounds with the files that were found for them. See {@link reconnect}. */
  reconnect(target: RootRecord, found: readonly Reconnection[]): Promise<void> {
    return reconnect(this.catalogue, target, found);
  }
}

/** Of a sound what measuring needs: records with all their labels need not cross between workers. */
const slim = ({ id, path, size, format, fields }: Sound) => ({ id, path, size, format, loop: fields.kind === 'Loop' });
