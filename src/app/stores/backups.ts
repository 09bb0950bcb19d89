import { chooseFolder, folderIn, mayWrite, writeInto } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { ref } from 'vue';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLabels } from './labels';
import { useLibrary } from './library';

const DAY = 86_400_000;

/** Backups: by hand as a download, by themselves into a folder that was chosen for them. */
export const useBackups = defineStore('backups', () => {
  const labels = useLabels();
  const library = useLibrary();
  /** Days between two that are written by themselves; 0 for none. */
  const every = useLocalStorage('backup-every', 0);
  const last = useLocalStorage('backup-last', 0);
  const folder = ref('');
  /** The browser asks before it writes again after a restart, and only asks when one clicks. */
  const waits = ref(false);
  let handle: FileSystemDirectoryHandle | undefined;
  const canChoose = 'showDirectoryPicker' in window;

  /** `Cormorant 2026-11-23 14.05.backup` */
  function nameOf(at: Date): string {
    const two = (n: number) => String(n).padStart(2, '0');
    const day = `${at.getFullYear()}-${two(at.getMonth() + 1)}-${two(at.getDate())}`;
    return `Cormorant ${day} ${two(at.getHours())}.${two(at.getMinutes())}.backup`;
  }

  async function download(): Promise<void> {
    const blob = await labels.run((l, report) => l.writeBackup(report));
    if (!blob) return;
    save(blob, 'application/octet-stream', nameOf(new Date()));
    last.value = Date.now();
  }

  async function choose(): Promise<void> {
    try {
      handle = await chooseFolder('backup');
      folder.value = handle.name;
      waits.value = false;
      if (every.value === 0) every.value = 1;
      await writeByItself();
    } catch (error) {
      if ((error as Error).name !== 'AbortError') tell.error(`The folder cannot be used: ${(error as Error).message}`);
    }
  }

  async function allow(): Promise<void> {
    if (!handle) return;
    waits.value = !(await mayWrite(handle, true));
    await writeByItself();
  }

  /** Writes one when it is due. */
  async function writeByItself(): Promise<void> {
    if (!handle || every.value === 0 || Date.now() - last.value < every.value * DAY || waits.value || !library.ready)
      return;
    try {
      const blob = await labels.run((l, report) => l.writeBackup(report), true);
      if (!blob) return;
      const name = nameOf(new Date());
      await writeInto(handle, name, blob);
      last.value = Date.now();
      tell.done(`Backed up as ${name}`);
    } catch (error) {
      tell.error(
        `The backup could not be written into ${folder.value}: ${(error as Error).message}. Choose the folder again.`,
      );
    }
  }

  /** Looks once an hour, and a while after the catalogue was opened. */
  async function begin(): Promise<void> {
    handle = await folderIn('backup');
    folder.value = handle?.name ?? '';
    waits.value = handle !== undefined && !(await mayWrite(handle, false));
    setTimeout(() => void writeByItself(), 60_000);
    setInterval(() => void writeByItself(), DAY / 24);
  }

  return { every, last, folder, waits, canChoose, download, choose, allow, begin };
});
