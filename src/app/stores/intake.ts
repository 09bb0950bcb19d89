import type { Change, Sound } from '@core/library';
import { audioEndings } from '@core/files';
import {
  listFiles,
  RootUnavailable,
  serverRoots,
  startIntake,
  copyIn,
  type ListedFile,
  type RootRecord,
} from '@platform/index';
import { defineStore } from 'pinia';
import { reactive } from 'vue';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { catalogue } from './workers';

const BATCH = 48;

/** How far the work on one root has come. */
export interface Progress {
  rootId: number;
  name: string;
  phase: 'Looking' | 'Reading labels' | 'Measuring';
  done: number;
  total: number;
  started: number;
  cancelled: boolean;
}

/** Taking files in: roots, scans and what went wrong. */
export const useIntake = defineStore('intake', () => {
  const library = useLibrary();
  const reader = startIntake();
  const running = reactive(new Map<number, Progress>());
  /** Why a root cannot be read now, by root id. */
  const unavailable = reactive(new Map<number, { reason: string; askAgain: boolean }>());
  /** Roots of which everything is read and measured. */
  const current = reactive(new Set<number>());

  async function addRoot(root: Omit<RootRecord, 'id' | 'added'>): Promise<RootRecord> {
    const [id] = await catalogue.newIds('roots', 1);
    const record = { ...root, id, added: Date.now() };
    await library.edit(`Add ${root.name}`, [{ table: 'roots', id, after: { ...record } }], false);
    return record;
  }

  /** Adds what our own server offers and the catalogue does not have, and takes in what is new in each. */
  async function followServer(): Promise<void> {
    let offered;
    try {
      offered = await serverRoots();
    } catch (error) {
      tell.error((error as Error).message);
      return;
    }
    for (const { id, name } of offered) {
      const known = await catalogue.rootByServerId(id);
      const root = known ?? (await addRoot({ name, kind: 'server', serverId: id }));
      await work(root, (progress) => readAll(root, progress));
    }
    for (const root of library.roots) {
      if (root.kind === 'server' && !offered.some((o) => o.id === root.serverId)) {
        unavailable.set(root.id, {
          reason: `“${root.name}” is not among the folders that the server was started with.`,
          askAgain: false,
        });
      }
    }
  }

  /** Measures what is not measured yet, root by root. */
  async function measureWaiting(): Promise<void> {
    for (const root of library.roots) {
      if (!unavailable.has(root.id)) await work(root, (progress) => measureAll(root, progress));
    }
  }

  /** Measures some sounds at once, those that have no anchor yet, and hands the records over as they are then. */
  async function ensureMeasured(sounds: readonly Sound[]): Promise<Sound[]> {
    for (const sound of sounds.filter((s) => s.marks.anchor < 0)) {
      const root = library.rootById.get(sound.rootId);
      if (root) await measureOne(root, sound).catch(() => undefined);
    }
    return catalogue.sounds(sounds.map((s) => s.id));
  }

  /** Adds picked or dropped handles as one root and takes it in. */
  async function addHandles(handles: (FileSystemDirectoryHandle | FileSystemFileHandle)[]): Promise<void> {
    if (handles.length === 0) return;
    const folders = handles.filter((h) => h.kind === 'directory');
    for (const folder of folders) await scan(await addRoot({ name: folder.name, kind: 'picked', handles: [folder] }));
    const files = handles.filter((h) => h.kind === 'file');
    if (files.length > 0)
      await scan(
        await addRoot({ name: files.length === 1 ? files[0].name : 'Dropped files', kind: 'picked', handles: files }),
      );
  }

  /** Copies files in, where the browser cannot keep handles, and takes them in. */
  async function addCopies(files: File[]): Promise<void> {
    if (files.length === 0) return;
    const name = files[0].webkitRelativePath.split('/')[0] || (files.length === 1 ? files[0].name : 'Chosen files');
    const root = await addRoot({ name, kind: 'copied' });
    await copyIn(root, files);
    await scan(root);
  }

  /** Works on a root with its progress shown; what goes wrong is kept with the root. */
  async function work(root: RootRecord, task: (progress: Progress) => Promise<void>): Promise<void> {
    if (running.has(root.id)) return;
    const progress = reactive<Progress>({
      rootId: root.id,
      name: root.name,
      phase: 'Looking',
      done: 0,
      total: 0,
      started: Date.now(),
      cancelled: false,
    });
    running.set(root.id, progress);
    unavailable.delete(root.id);
    current.delete(root.id);
    try {
      await task(progress);
      if (!progress.cancelled && progress.phase === 'Measuring') current.add(root.id);
    } catch (error) {
      if (!(error instanceof Error)) throw error;
      const away = error.name === 'RootUnavailable';
      if (away)
        unavailable.set(root.id, {
          reason: error.message,
          askAgain: error instanceof RootUnavailable && error.askAgain,
        });
      else tell.error(`Taking in ${root.name} stopped: ${error.message}`);
    } finally {
      running.delete(root.id);
    }
  }

  /** Takes in what is new or changed in a root: labels first, so that it can be searched, then measurements. */
  function scan(root: RootRecord): Promise<void> {
    return work(root, async (progress) => {
      await readAll(root, progress);
      await measureAll(root, progress);
    });
  }

  function begin(progress: Progress, phase: Progress['phase'], total: number): void {
    Object.assign(progress, { phase, total, done: 0, started: Date.now() });
  }

  async function readAll(root: RootRecord, progress: Progress): Promise<void> {
    const listed = (await listFiles(root)).filter((f) => audioEndings.test(f.path));
    const known = new Map((await catalogue.soundsOf(root.id)).map((s) => [s.path, s]));
    const failed = new Map(library.problems.filter((p) => p.rootId === root.id).map((p) => [p.path, p]));
    const changed = (f: ListedFile) => {
      const sound = known.get(f.path);
      if (sound) return sound.size !== f.size || Math.abs(sound.modified - f.modified) > 1;
      return !failed.has(f.path);
    };
    const wanted = listed.filter(changed);
    if (wanted.length === 0) return;
    begin(progress, 'Reading labels', wanted.length);
    const [intakeId] = await catalogue.newIds('intakes', 1);
    const intake = { id: intakeId, rootId: root.id, started: Date.now(), added: 0 };
    await library.edit('Begin an intake', [{ table: 'intakes', id: intakeId, after: intake }], false);
    for (let at = 0; at < wanted.length && !progress.cancelled; at += BATCH) {
      const batch = wanted.slice(at, at + BATCH);
      const changes = await readBatch(root, batch, intakeId, known);
      intake.added += changes.filter((c) => c.table === 'sounds').length;
      await library.edit(`Take in ${root.name}`, changes, false);
      progress.done += batch.length;
    }
    await library.patch('End an intake', 'intakes', { ...intake, added: 0 } as never, { added: intake.added }, false);
  }

  async function readBatch(
    root: RootRecord,
    batch: ListedFile[],
    intakeId: number,
    known: Map<string, { id: number }>,
  ): Promise<Change[]> {
    const found = batch.map((f) => ({ ...f, rootId: root.id, rootName: root.name, intakeId, now: Date.now() }));
    const results = await reader.read(root, found);
    const ids = await catalogue.newIds('sounds', results.length);
    const problemIds = await catalogue.newIds('problems', results.length);
    return results.map((result, i): Change => {
      if ('sound' in result) {
        const id = known.get(result.sound.path)?.id ?? ids[i];
        return { table: 'sounds', id, after: { ...result.sound } };
      }
      const problem = { id: problemIds[i], rootId: root.id, path: result.path, reason: result.reason, at: Date.now() };
      return { table: 'problems', id: problem.id, after: problem };
    });
  }

  async function measureOne(root: RootRecord, sound: Sound): Promise<void> {
    const { anchor, ...peaks } = await reader.measure({ ...root }, sound.id, sound.path, sound.size, sound.format);
    await catalogue.putPeaks([peaks]);
    library.peaks.set(peaks.id, peaks);
    if (sound.marks.anchor >= 0) return;
    const change: Change = {
      table: 'sounds',
      id: sound.id,
      before: { 'marks.anchor': -1 },
      after: { 'marks.anchor': anchor },
    };
    await library.edit('Suggest an anchor', [change], false);
  }

  async function measureAll(root: RootRecord, progress: Progress): Promise<void> {
    const ids = await catalogue.unmeasured(root.id);
    begin(progress, 'Measuring', ids.length);
    for (let at = 0; at < ids.length && !progress.cancelled; at += BATCH) {
      for (const sound of await catalogue.sounds(ids.slice(at, at + BATCH))) {
        if (progress.cancelled) break;
        try {
          await measureOne(root, sound);
        } catch (error) {
          if ((error as Error).name === 'RootUnavailable') throw error;
          tell.error(`${sound.path} could not be measured: ${(error as Error).message}`);
        }
        progress.done++;
      }
    }
  }

  function cancel(rootId: number): void {
    const progress = running.get(rootId);
    if (progress) progress.cancelled = true;
  }

  /** Asks the browser again for a picked root, then takes it in. */
  async function allowAgain(root: RootRecord): Promise<void> {
    for (const handle of root.handles ?? []) await handle.requestPermission?.({ mode: 'read' });
    await scan(root);
  }

  /** Forgets the problems of a root and reads those files again. */
  async function retry(root: RootRecord): Promise<void> {
    const own = library.problems.filter((p) => p.rootId === root.id);
    await library.edit(
      'Try again',
      own.map((p) => ({ table: 'problems', id: p.id, before: { ...p } })),
      false,
    );
    await scan(root);
  }

  return {
    running,
    unavailable,
    current,
    measureWaiting,
    ensureMeasured,
    followServer,
    addHandles,
    addCopies,
    scan,
    cancel,
    allowAgain,
    retry,
  };
});
