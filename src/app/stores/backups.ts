import type { KeptBackup } from '@core/library';
import { askToPersist, chooseFolder, folderIn, isPersistent, keptBackups, mayWrite, writeInto } from '@platform/index';
import { useIntervalFn, useLocalStorage, useTimeoutFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLabels } from './labels';
import { useLibrary } from './library';
import { catalogue } from './workers';

const MINUTE = 60_000;
const HOUR = 60 * MINUTE;
const DAY = 24 * HOUR;
/** Edits after which losing them would hurt: the page asks for a folder then. */
const WORTH = 20;

/** `Cormorant 2026-11-23 14.05.backup` */
function fileName(at: number): string {
  const date = new Date(at);
  const two = (n: number) => String(n).padStart(2, '0');
  const day = `${date.getFullYear()}-${two(date.getMonth() + 1)}-${two(date.getDate())}`;
  return `Cormorant ${day} ${two(date.getHours())}.${two(date.getMinutes())}.backup`;
}

/**
 * Backups: by themselves inside of the browser from the start, and into a folder once one is chosen; by hand as a download.
 */
export const useBackups = defineStore('backups', () => {
  const labels = useLabels();
  const library = useLibrary();
  const inBrowser = keptBackups();
  /** Days between two that are written into the folder; 0 for none. */
  const every = useLocalStorage('backup-every', 1);
  const lastInFolder = useLocalStorage('backup-last', 0);
  const folder = ref('');
  /** The browser asks before it writes again after a restart, and only asks when one clicks. */
  const waits = ref(false);
  /** Those in the browser, newest first. */
  const kept = shallowRef<KeptBackup[]>([]);
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
    kept.value = (await inBrowser?.list().catch(() => [])) ?? [];
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

  /** Writes one inside of the browser, if anything changed; never over a library that went missing. */
  async function byItself(): Promise<void> {
    if (!library.ready || library.loss || !inBrowser) return;
    try {
      // One tab writes for all.
      await navigator.locks.request('cormorant-backup', { ifAvailable: true }, async (lock) => {
        if (lock) await labels.run((l, report) => l.backUpByItself(report), true);
      });
      failure.value = '';
    } catch (error) {
      failure.value = (error as Error).message;
    }
    await list();
  }

  /** Opens a backup that was kept, to be looked at before anything is restored. */
  async function open(backup: KeptBackup): Promise<void> {
    const file = await inBrowser!.read(backup);
    pending.value = new File([file], fileName(backup.at));
  }

  async function saveCopy(backup: KeptBackup): Promise<void> {
    save(await inBrowser!.read(backup), 'application/octet-stream', fileName(backup.at));
  }

  async function persist(): Promise<void> {
    persistent.value = await askToPersist();
    if (persistent.value) tell.done('The browser keeps this library from now on, also when the disk runs low');
    else
      tell.info(
        'The browser did not agree. It usually does for pages that are bookmarked, installed or used often; ask again later.',
      );
  }

  const soon = useTimeoutFn(() => void byItself(), MINUTE, { immediate: false });
  const hourly = useIntervalFn(
    () => {
      void byItself();
      void intoFolder();
    },
    HOUR,
    { immediate: false },
  );

  /** Looks once an hour, and a minute after the catalogue was opened. */
  async function begin(): Promise<void> {
    persistent.value = await isPersistent();
    await list();
    handle = await folderIn('backup');
    folder.value = handle?.name ?? '';
    waits.value = handle !== undefined && !(await mayWrite(handle, false));
    soon.start();
    hourly.resume();
    await intoFolder();
  }

  return {
    ...{ every, lastInFolder, folder, waits, canChoose, kept, newest, failure, pending, persistent, declined },
    ...{ folderWanted, download, choose, allow, byItself, open, saveCopy, persist, list, begin },
  };
});
