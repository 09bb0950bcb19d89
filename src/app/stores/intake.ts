import { additionOf, removalOf } from '@core/library';
import type { Reconnection, Sound } from '@core/library';
import type { ServerRoot } from '@core/schemas';
import {
  copyIn,
  listFiles,
  observeFolder,
  serverChanges,
  serverRoots,
  startConductor,
  type Conductor,
  type RootRecord,
  type RootWork,
  type WorkReport,
} from '@platform/index';
import { useEventListener } from '@vueuse/core';
import type { Remote } from 'comlink';
import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { settleFiles } from './file-work';
import { useLibrary } from './library';
import { catalogue } from './workers';

type Handle = FileSystemDirectoryHandle | FileSystemFileHandle;

/** Between two looks at roots that nothing watches. Milliseconds. */
const LOOK_AGAIN = 10_000;

// Outside of the store: making a worker's proxy reactive would ask it for properties without end.
let conductor: Promise<Remote<Conductor>> | undefined;

/** Taking files in: roots, the work on them, and following what happens to their files. */
export const useIntake = defineStore('intake', () => {
  const library = useLibrary();
  const report = shallowRef<WorkReport>({ works: [], unavailable: [], current: [] });
  const works = computed(() => new Map<number, RootWork>(report.value.works.map((w) => [w.rootId, w])));
  /** Why a root cannot be read now, by root id. */
  const unavailable = computed(() => new Map(report.value.unavailable.map((u) => [u.rootId, u])));
  /** Roots of which everything is read and measured. */
  const current = computed(() => new Set(report.value.current));
  /** Roots that the server offers; undefined until it has said so. */
  const offered = shallowRef<ReadonlySet<string>>();
  const watched = new Map<number, () => void>();
  let lastLook = Date.now();

  const work = () => (conductor ??= startConductor(catalogue, (r) => (report.value = r)));

  async function addRoot(root: Omit<RootRecord, 'id' | 'added'>): Promise<RootRecord> {
    const [id] = await catalogue.newIds('roots', 1);
    const record = { ...root, id, added: Date.now() };
    await library.edit(`Add ${root.name}`, [additionOf('roots', record)], false);
    return record;
  }

  /**
   * Looks through a root; takes in what is new and measures what is not measured.
   * @param emptied what was in it is gone, where it is found empty
   */
  async function scan(root: RootRecord, emptied = false): Promise<void> {
    // Of a library of the team there are no files to look for.
    if (root.removed || root.kind === 'team') return;
    if (root.halt) await library.patch(`Go on with ${root.name}`, 'roots', root, { halt: undefined }, false);
    void observe(root);
    await (await work()).scan(root.id, emptied);
  }

  /** Measures sounds that were made, at once. */
  async function measure(ids: number[]): Promise<void> {
    await (await work()).measureNow(ids);
  }

  /** Rests the work on a root; `cancelled` is not gone on with by itself. */
  async function halt(root: RootRecord, how: 'paused' | 'cancelled'): Promise<void> {
    await (await work()).stop(root.id);
    await library.patch(`${how === 'paused' ? 'Pause' : 'Cancel'} ${root.name}`, 'roots', root, { halt: how }, false);
  }

  /** Files that were being written when that was broken off: each is the old one or the new, and the library is told which. */
  async function finishWriting(): Promise<void> {
    if ((await catalogue.unfinishedWrites()) === 0) return;
    try {
      const written = await settleFiles();
      if (written > 0)
        tell.info(`Writing files was broken off: ${things(written, 'file')} had been written. Ctrl Z takes it back`);
    } catch (error) {
      tell.error(`It is not known yet what became of files that were being written: ${(error as Error).message}`);
    }
  }

  /** Adds what our own server offers, goes on with what was begun, and follows changes from now on. Resolves once labels are read. */
  async function begin(): Promise<void> {
    await finishWriting();
    try {
      await meet(await serverRoots());
      serverChanges(
        (serverId) => {
          const root = library.roots.find((r) => r.serverId === serverId);
          if (root && !root.halt) void scan(root);
        },
        // Nobody watched while the server was away.
        () => void again(),
      );
    } catch (error) {
      tell.error((error as Error).message);
    }
    // Labels first: where roots are many, all can be searched before the first is measured.
    const roots = (await catalogue.all('roots')) as RootRecord[];
    for (const root of roots) if (!root.halt && !root.removed && isOffered(root)) void scan(root);
    await (await work()).labelsRead();
  }

  /** Takes over what the server offers: roots that are known, roots under another path, and new ones. */
  async function meet(list: readonly ServerRoot[]): Promise<void> {
    offered.value = new Set(list.map((o) => o.id));
    const known = (await catalogue.all('roots')) as RootRecord[];
    const absent = () => known.filter((r) => !isOffered(r));
    await (await work()).setAbsent(absent().map((r) => r.id));
    for (const { id, name, place } of list) {
      const root = known.find((r) => r.serverId === id);
      if (root) {
        if (root.place !== place) await library.patch(`Note where ${name} lies`, 'roots', root, { place }, false);
        continue;
      }
      const old = await recognised({ id: 0, name, kind: 'server', serverId: id, added: 0 }, absent());
      if (!old) {
        await addRoot({ name, kind: 'server', serverId: id, ...(place ? { place } : {}) });
        continue;
      }
      old.serverId = id;
      await library.patch(`Find ${old.name} again as ${name}`, 'roots', old, { serverId: id, name, place }, false);
      tell.done(`${old.name} was found again as ${name}; all that belongs to its sounds stays with them`);
    }
    await (await work()).setAbsent(absent().map((r) => r.id));
  }

  /** Which of some roots a folder is, that was renamed or moved. */
  async function recognised(folder: RootRecord, absent: readonly RootRecord[]): Promise<RootRecord | undefined> {
    if (absent.length === 0) return undefined;
    try {
      const id = await (
        await work()
      ).recognise(
        folder,
        absent.map((r) => r.id),
      );
      return absent.find((r) => r.id === id);
    } catch {
      // It cannot be read; taking it in says why.
      return undefined;
    }
  }

  /** The server is there again: what changed meanwhile is looked for. */
  async function again(): Promise<void> {
    await finishWriting();
    try {
      await meet(await serverRoots());
      for (const root of library.roots) if (root.kind === 'server' && !root.halt && isOffered(root)) void scan(root);
    } catch (error) {
      tell.error((error as Error).message);
    }
  }

  /** A root that the server was not started with this time is there, but nobody can read it. */
  const isOffered = (root: RootRecord) =>
    root.kind !== 'server' || !offered.value || offered.value.has(root.serverId ?? '');
  // Sounds of such a root are out of reach, and so are those of one that cannot be read.
  watch(
    () => library.roots.filter((r) => !isOffered(r) || unavailable.value.has(r.id)).map((r) => r.id),
    (ids) => (library.outOfReach = new Set(ids)),
    { immediate: true },
  );

  /**
   * Takes a root out: it is not looked at any more, and nothing on disk changes.
   * @param how its sounds stay in the lists, are hidden for now, or are retired
   */
  async function takeOut(root: RootRecord, how: 'kept' | 'hidden' | 'retired'): Promise<void> {
    await (await work()).stop(root.id);
    watched.get(root.id)?.();
    watched.delete(root.id);
    const count = await catalogue.takeOut(root.id, how);
    tell.done(`${root.name} was taken out with ${things(count, 'sound')}; Ctrl Z takes it back`);
  }

  /** Puts a root back that was taken out, with its sounds. */
  async function putBack(root: RootRecord): Promise<void> {
    await catalogue.takeOut(root.id, undefined);
    const now = library.rootById.get(root.id);
    if (now && isOffered(now)) await scan({ ...now, removed: undefined });
  }

  async function observe(root: RootRecord): Promise<void> {
    if (watched.has(root.id) || root.kind !== 'picked') return;
    watched.set(root.id, () => undefined);
    const changed = () => {
      // As it is by then: it may have been paused since.
      const now = library.rootById.get(root.id);
      if (now && !now.halt) void scan(now);
    };
    const ends = await Promise.all(
      (root.handles ?? [])
        .filter((h) => h.kind === 'directory')
        .map((h) => observeFolder(h as FileSystemDirectoryHandle, changed)),
    );
    if (ends.some((e) => e === undefined)) watched.delete(root.id);
    else watched.set(root.id, () => ends.forEach((e) => e?.()));
  }

  // Where nothing watches, coming back to the window is the moment to look.
  useEventListener(window, 'focus', () => {
    if (Date.now() - lastLook < LOOK_AGAIN) return;
    lastLook = Date.now();
    for (const root of library.roots)
      if (root.kind === 'picked' && !watched.has(root.id) && !root.halt) void scan(root);
  });

  /** Measures some sounds at once, those that have no anchor yet, and hands the records over as they are then. */
  async function ensureMeasured(sounds: readonly Sound[]): Promise<Sound[]> {
    const waiting = sounds.filter((s) => s.marks.anchor < 0).map((s) => s.id);
    if (waiting.length > 0) await (await work()).measureNow(waiting);
    return catalogue.sounds(sounds.map((s) => s.id));
  }

  /** Sounds that are on screen are measured before all others. */
  watch(
    () => library.shown,
    async (ids) => {
      if (report.value.works.some((w) => w.phase === 'Measuring')) await (await work()).prefer([...ids]);
    },
  );

  /** Adds picked or dropped handles as roots and takes them in; one that is there already is looked through again. @returns those roots */
  async function addHandles(handles: Handle[]): Promise<RootRecord[]> {
    const folders = handles.filter((h) => h.kind === 'directory');
    const files = handles.filter((h) => h.kind === 'file');
    const groups = folders.map((f): [string, Handle[]] => [f.name, [f]]);
    if (files.length > 0) groups.push([files.length === 1 ? files[0].name : 'Dropped files', files]);
    const roots: RootRecord[] = [];
    for (const [name, own] of groups) {
      const known = (await knownRoot(own)) ?? (await movedRoot(name, own));
      const root = known ?? (await addRoot({ name, kind: 'picked', handles: own }));
      roots.push(root);
      void scan(root);
    }
    return roots;
  }

  async function knownRoot(handles: Handle[]): Promise<RootRecord | undefined> {
    for (const root of library.roots) {
      if (root.handles?.length !== handles.length) continue;
      const same = await Promise.all(root.handles.map((h, i) => h.isSameEntry(handles[i])));
      if (same.every(Boolean)) return root;
    }
    return undefined;
  }

  /** A root that cannot be read any more where it was, and is found again in what was picked. */
  async function movedRoot(name: string, handles: Handle[]): Promise<RootRecord | undefined> {
    const absent = library.roots.filter((r) => library.outOfReach.has(r.id) && !r.removed);
    const old = await recognised({ id: 0, name, kind: 'picked', handles, added: 0 }, absent);
    if (!old) return undefined;
    const after = { kind: 'picked', name, handles, serverId: undefined, place: undefined };
    await library.patch(`Find ${old.name} again as ${name}`, 'roots', old, after, false);
    tell.done(`${old.name} was found again as ${name}; all that belongs to its sounds stays with them`);
    return library.rootById.get(old.id);
  }

  /** Copies files in, where the browser cannot keep handles, and takes them in. @returns the root that they are */
  async function addCopies(files: File[]): Promise<RootRecord[]> {
    if (files.length === 0) return [];
    const name = files[0].webkitRelativePath.split('/')[0] || (files.length === 1 ? files[0].name : 'Chosen files');
    const root = await addRoot({ name, kind: 'copied' });
    try {
      await copyIn(root, files);
    } catch (error) {
      tell.error(`${name} could not be copied whole: ${(error as Error).message}`);
    }
    void scan(root);
    return [root];
  }

  /** The sounds of roots that were just added, once their labels are read. */
  async function soundsIn(roots: readonly RootRecord[]): Promise<Sound[]> {
    await (await work()).labelsRead();
    return (await Promise.all(roots.map((r) => catalogue.soundsOf(r.id)))).flat();
  }

  /** Asks the browser again for a picked root, then takes it in. */
  async function allowAgain(root: RootRecord): Promise<void> {
    for (const handle of root.handles ?? []) await handle.requestPermission?.({ mode: 'read' });
    await scan(root);
  }

  /** Forgets problems and reads those files again. */
  async function retry(ids: readonly number[]): Promise<void> {
    const own = library.problems.filter((p) => ids.includes(p.id));
    await library.edit(
      'Try again',
      own.map((p) => removalOf('problems', p)),
      false,
    );
    for (const root of library.roots) if (own.some((p) => p.rootId === root.id)) void scan(root);
  }

  /** Finds the files of a root's missing sounds below another folder; nothing is changed yet. */
  async function planReconnection(
    rootId: number,
    target: RootRecord,
  ): Promise<{ found: Reconnection[]; lost: { id: number; path: string }[] }> {
    return (await work()).plan(rootId, { ...target });
  }

  /** Reconnects, as previewed. */
  async function reconnect(target: RootRecord, found: readonly Reconnection[]): Promise<void> {
    await (
      await work()
    ).reconnect(
      { ...target },
      found.map((f) => ({ ...f, to: { ...f.to } })),
    );
    await scan(target);
  }

  /** Adds a folder without taking it in yet: sounds are to be reconnected to it first. */
  async function addUnread(handle: FileSystemDirectoryHandle): Promise<RootRecord> {
    const known = await knownRoot([handle]);
    const root = known ?? (await addRoot({ name: handle.name, kind: 'picked', handles: [handle], halt: 'paused' }));
    // Fails here, in words, rather than in the middle of comparing.
    for await (const { files } of listFiles(root)) if (files.length > 0) break;
    return root;
  }

  return {
    report,
    works,
    unavailable,
    current,
    isOffered,
    soundsIn,
    takeOut,
    putBack,
    begin,
    scan,
    halt,
    ensureMeasured,
    measure,
    addHandles,
    addCopies,
    allowAgain,
    retry,
    planReconnection,
    reconnect,
    addUnread,
  };
});
