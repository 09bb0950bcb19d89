import type { Peaks } from '@core/audio';
import type { Sound } from '@core/library';
import type { RootRecord } from '@platform/index';
import { defineStore } from 'pinia';
import { shallowRef } from 'vue';
import { useAudition } from './audition';
import { useLibrary } from './library';
import { fileReader } from './workers';

/** A file that was opened from elsewhere, with what it takes to find it again. */
export interface LooseFile {
  file: File;
  handle?: FileSystemFileHandle;
}

/** One that is heard without being in the library; or why it cannot be. */
export interface LooseSound extends LooseFile {
  id: number;
  sound?: Sound;
  reason?: string;
}

/** Sounds opened from the desktop, or dropped to be heard: they play as any other, and nothing of them is kept. */
export const useLoose = defineStore('loose', () => {
  const library = useLibrary();
  const audition = useAudition();
  const opened = shallowRef<LooseSound[]>([]);
  // Below all ids of the catalogue.
  let next = -1;

  async function read({ file, handle }: LooseFile): Promise<LooseSound> {
    const id = next--;
    const root: RootRecord = { id, name: 'opened from elsewhere', kind: 'picked', files: [file], added: Date.now() };
    const found = {
      path: file.name,
      size: file.size,
      modified: file.lastModified,
      rootId: id,
      rootName: root.name,
      intakeId: 0,
      now: root.added,
    };
    const [result] = await fileReader().read(root, [found]);
    if (!('sound' in result)) return { id, file, handle, reason: result.reason };
    library.loose.set(id, root);
    const sound = { ...result.sound, id };
    // Its contour follows; it is heard meanwhile.
    void fileReader()
      .measure(root, { id, path: sound.path, size: sound.size, format: sound.format, loop: false })
      .then(({ peaks }) => library.peaks.set(id, peaks))
      .catch(() => undefined);
    return { id, file, handle, sound };
  }

  /** Lets a sound be heard that was made here and is in no library. @param part its record, but for what says where it lies */
  function adopt(file: File, part: Omit<Sound, 'id' | 'rootId'>, peaks: Peaks): Sound {
    const id = next--;
    const root: RootRecord = { id, name: 'made here', kind: 'picked', files: [file], added: Date.now() };
    library.loose.set(id, root);
    library.peaks.set(id, { ...peaks, id });
    return { ...part, id, rootId: id };
  }

  /** Lets go of sounds that were taken on. */
  function abandon(sounds: Iterable<{ id: number }>): void {
    for (const { id } of sounds) {
      if (audition.sound?.id === id) audition.choose(undefined, false);
      library.loose.delete(id);
      library.peaks.delete(id);
    }
  }

  /** Opens files and plays the first of them. */
  async function open(files: readonly LooseFile[]): Promise<void> {
    const fresh = await Promise.all(files.map(read));
    opened.value = [...fresh, ...opened.value];
    const first = fresh.find((l) => l.sound);
    if (first) audition.choose(first.sound, true);
  }

  let passing: LooseSound | undefined;
  /** Plays a file that was made for a moment, and lets go of the one before. */
  async function hear(file: File): Promise<void> {
    const before = passing;
    passing = await read({ file });
    if (passing.sound) audition.choose(passing.sound, true);
    if (before) library.loose.delete(before.id);
  }

  function play({ sound, id }: LooseSound): void {
    if (audition.sound?.id === id && audition.playing) audition.stop();
    else audition.choose(sound, true);
  }

  /** Lets go of one. */
  function close(one: LooseSound): void {
    opened.value = opened.value.filter((o) => o !== one);
    abandon([one]);
  }

  return { opened, open, hear, play, close, adopt, abandon };
});
