import type { CopyGroup } from '@core/audio';
import type { Better, Sound } from '@core/library';
import { betterOf, changeOf } from '@core/library';
import { startCopies } from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { catalogue } from './workers';

/** A group of copies with their records and which of them to keep. */
export interface Copies extends CopyGroup {
  sounds: Sound[];
  better: Better;
}

/** Looking for copies and deciding on them. What was found is kept until it is looked for again. */
export const useCopies = defineStore('copies', () => {
  const library = useLibrary();
  const found = shallowRef<Copies[]>();
  /** 0..1 while it is being looked for. */
  const progress = ref<number>();
  let cancel: (() => void) | undefined;

  /** Groups that still have at least two sounds to choose between. */
  const open = computed(() => {
    void library.revision;
    return (found.value ?? [])
      .map((g) => ({ ...g, sounds: g.sounds.filter((s) => !hidden.value.has(s.id)) }))
      .filter((g) => g.sounds.length > 1);
  });
  const hidden = shallowRef(new Map<number, Sound>());

  async function refreshHidden(): Promise<void> {
    hidden.value = new Map((await catalogue.hidden()).map((s) => [s.id, s]));
  }
  library.onChange((tables) => {
    if (tables.includes('sounds') && found.value) void refreshHidden();
  });

  /** Looks through the whole catalogue. */
  async function look(): Promise<void> {
    if (progress.value !== undefined) return;
    progress.value = 0;
    const { finder, end } = startCopies();
    const stopped = new Promise<undefined>((done) => (cancel = () => done(undefined)));
    try {
      const groups = await Promise.race([finder.find(proxy((share) => (progress.value = share))), stopped]);
      if (!groups) return;
      const byId = new Map((await catalogue.sounds(groups.flatMap((g) => g.ids))).map((s) => [s.id, s]));
      await refreshHidden();
      found.value = groups.map((g) => {
        const sounds = g.ids.flatMap((id) => byId.get(id) ?? []);
        const better = betterOf(sounds);
        // The better one first: it is heard first, and the others are compared with it.
        sounds.sort((a, b) => Number(b.id === better.id) - Number(a.id === better.id));
        return { ...g, sounds, better };
      });
    } catch (error) {
      tell.error(`The duplicates could not be looked for: ${(error as Error).message}`);
    } finally {
      end();
      progress.value = undefined;
    }
  }

  /** Keeps one sound of each group and hides the others. Files stay as they are. */
  async function keep(
    groups: readonly { keepId: number; sounds: readonly Sound[] }[],
    how: 'aside' | 'retired',
  ): Promise<void> {
    const others = groups.flatMap((g) => g.sounds.filter((s) => s.id !== g.keepId));
    const verb = how === 'aside' ? 'Set aside' : 'Retire';
    await library.edit(
      `${verb} ${things(others.length, 'duplicate')}`,
      others.map((s) => changeOf('sounds', s, { hidden: how })),
    );
    tell.done(
      `${things(others.length, 'duplicate')} ${how === 'aside' ? 'set aside' : 'retired'}; the files stay on disk, and Ctrl Z takes it back`,
    );
  }

  /** Brings everything back that is set aside or retired. */
  async function bringBack(): Promise<void> {
    const all = await catalogue.hidden();
    await library.edit(
      `Bring back ${things(all.length, 'sound')}`,
      all.map((s) => changeOf('sounds', s, { hidden: undefined })),
    );
  }

  return { found, open, hidden, progress, look, cancel: () => cancel?.(), keep, bringBack, refreshHidden };
});
