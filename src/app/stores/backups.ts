import type { KeptBackup } from '@core/library';
import { askToPersist, chooseFolder, folderIn, isPersistent, mayWrite, shelves, writeInto } from '@platform/index';
import { useDocumentVisibility, useLocalStorage, useTimeoutFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLabels } from './labels';
import { useLibrary } from './library';
import { catalogue } from './workers';

const MINUTE = 60_000;
const DAY = 24 * 60 * MINUTE;
/**
 * Between two that are written by themselves while something changes: as short as may be, as what was done since would be lost with the
 * browser's database. @param took milliseconds that the last one took; what takes long is done less often
 */
const pauseAfter = (took: number) => Math.max(MINUTE, Math.min(10 * MINUTE, 200 * took), 20 * took);
/** Edits after which losing them would hurt: the page asks for a folder then. */
const WORTH = 20;

/** A backup with its copies, the nearest first. */
export interface Kept {
  at: number;
  bytes: number;
  copies: KeptBackup[];
}

/** `Cormorant 2026-11-23 14.05.backup` */
function fileName(at: number): string {
  const date = new Date(at);
  const two = (n: number) => String(n).padStart(2, '0');
  const day = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
  return `Cormorant ${day} ${two(date.getHours())}.${two(date.getMinutes())}.backup`;
}

/**
 * Backups: by themselves in the browser and with our own server from the start, and into a folder once one is chosen; by hand as a
 * download.
 */
export const useBackups = defineStore('backups', () => {
  const labels = useLabels();
  const library = useLibrary();
  const places = shelves();
  /** Days between two that are written into the folder; 0 for none. */
  const every = useLocalStorage('backup-every', 1);
  const lastInFolder = useLocalStorage('backup-last', 0);
  const folder = ref('');
  /** The browser asks before it writes again after a restart, and only asks when one clicks. */
  const waits = ref(false);
  /** Those that were written by themselves, newest first; each once, wherever it lies. */
  const kept = shallowRef<Kept[]>([]);
  /** Whether our own server keeps them, too. */
  const hasServer = ref(false);
  /** Why the last one could not be written. */
  const failure = ref('');
  /** A backup that is to be looked at before it is restored. */
  const pending = shallowRef<File>();
  const persistent = ref<boolean>();
  const declined = useLocalStorage('backup-folder-declined', false);
  let handle: FileSystemDirectoryHandle | undefined;
  const canChoose = 'showDirectoryPicker' in window;
  const newest = computed(() => Math.max(lastInFolder.value, kept.value[0]?.at ?? 0));
  /** There is work that would hurt to lose, and it lies in this browser alone. */
  const worth = ref(false);
  const folderWanted = computed(() => canChoose && !folder.value && !declined.value && worth.value);

  async function list(): Promise<void> {
    const found = await Promise.all(places.map((shelf) => shelf.list().catch(() => undefined)));
    // With a library that is gone, its own are what one looks for.
    const whose = library.loss?.was.store ?? (await catalogue.known()).store;
    const mine = found.flatMap((all) => all ?? []).filter((b) => b.library === undefined || b.library === whose);
    kept.value = [...new Set(mine.map((b) => b.at))]
      .map((at) => mine.filter((b) => b.at === at))
      .map((copies) => ({ at: copies[0].at, bytes: copies[0].bytes, copies }))
      .sort((a, b) => b.at - a.at);
    hasServer.value = places.some(({ where }, i) => where === 'server' && found[i] !== undefined);
    worth.value = (await catalogue.journal(WORTH)).length >= WORTH;
  }

  async function download(): Promise<void> {
    const blob = await labels.run((l, report) => l.writeBackup(report));
    if (blob) save(blob, 'application/octet-stream', fileName(Date.now()));
  }

  async function choose(): Promise<void> {
    try {
      handle = await chooseFolder('backup');
      folder.value = handle.name;
      waits.value = false;
      if (every.value === 0) every.value = 1;
      await intoFolder();
    } catch (error) {
      if ((error as Error).name !== 'AbortError') tell.error(`The folder cannot be used: ${(error as Error).message}`);
    }
  }

  async function allow(): Promise<void> {
    if (!handle) return;
    waits.value = !(await mayWrite(handle, true));
    await intoFolder();
  }

  /** Writes one into the folder when it is due. */
  async function intoFolder(): Promise<void> {
    const due = every.value > 0 && Date.now() - lastInFolder.value >= every.value * DAY;
    if (!handle || !due || waits.value || !library.ready) return;
    try {
      const blob = await labels.run((l, report) => l.writeBackup(report), true);
      if (!blob) return;
      const name = fileName(Date.now());
      await writeInto(handle, name, blob);
      lastInFolder.value = Date.now();
      tell.done(`Backed up as ${name}`);
    } catch (error) {
      tell.error(
        `The backup could not be written into ${folder.value}: ${(error as Error).message}. Choose the folder again.`,
      );
    }
  }

  /** Writes one wherever backups are kept by themselves, if anything changed; never over a library that went missing. */
  async function byItself(): Promise<void> {
    if (!library.ready || library.loss) return;
    const from = performance.now();
    try {
      // One tab writes for all.
      await navigator.locks.request('cormorant-backup', { ifAvailable: true }, async (lock) => {
        if (lock) await labels.run((l, report) => l.backUpByItself(report), true);
      });
      failure.value = '';
    } catch (error) {
      failure.value = (error as Error).message;
    }
    pause.value = pauseAfter(performance.now() - from);
    await list();
  }

  /** Opens a backup that was kept, to be looked at before anything is restored. */
  async function open(backup: Kept): Promise<void> {
    const blob = await read(backup);
    if (blob) pending.value = new File([blob], fileName(backup.at));
  }

  async function saveCopy(backup: Kept): Promise<void> {
    const blob = await read(backup);
    if (blob) save(blob, 'application/octet-stream', fileName(backup.at));
  }

  /** The first of its copies that can be read; undefined, and said, where none can. */
  async function read({ at, copies }: Kept): Promise<Blob | undefined> {
    let why = '';
    for (const copy of copies) {
      try {
        return await places.find((p) => p.where === copy.where)!.read(copy);
      } catch (error) {
        why = (error as Error).message;
      }
    }
    tell.error(`${fileName(at)} cannot be read: ${why}`);
    return undefined;
  }

  async function persist(): Promise<void> {
    persistent.value = await askToPersist();
    if (persistent.value) tell.done('The browser keeps this library from now on, also when the disk runs low');
    else
      tell.info(
        'The browser did not agree. It usually does for pages that are bookmarked, installed or used often; ask again later.',
      );
  }

  const pause = ref(MINUTE);
  const timer = useTimeoutFn(
    async () => {
      await byItself();
      await intoFolder();
      timer.start();
    },
    pause,
    { immediate: false },
  );
  // A disk that is full is when a browser throws its database away.
  watch(
    () => labels.refused,
    () => void byItself(),
  );

  // Who turns away may not come back.
  const visibility = useDocumentVisibility();
  watch(visibility, (now) => now === 'hidden' && void byItself());

  /** Looks a minute after the catalogue was opened, and again and again from then on. */
  async function begin(): Promise<void> {
    persistent.value = await isPersistent();
    await list();
    handle = await folderIn('backup');
    folder.value = handle?.name ?? '';
    waits.value = handle !== undefined && !(await mayWrite(handle, false));
    timer.start();
    await intoFolder();
  }

  return {
    ...{
      every,
      lastInFolder,
      folder,
      waits,
      canChoose,
      kept,
      hasServer,
      newest,
      failure,
      pending,
      persistent,
      declined,
    },
    ...{ folderWanted, download, choose, allow, byItself, open, saveCopy, persist, list, begin },
  };
});
