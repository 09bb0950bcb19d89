import type { Sound } from '@core/library';
import { startTaker } from '@platform/index';
import { proxy } from 'comlink';
import { useDebounceFn } from '@vueuse/core';
import { onUnmounted, watch } from 'vue';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { takeHow, takenOf, usablePattern } from './take';

/** A drag out of the window needs its file at once, so that of the open sound is made beforehand, if it is no longer than this. Seconds. */
const LONGEST = 120;
/** Milliseconds for which a sound is open before its file is made. */
const RESTED = 500;

/** Keeps the file of the open sound ready for being dragged to the desktop: with its region and shape, as files were taken last. */
export function useCarried(sound: () => Sound | undefined): void {
  const audition = useAudition();
  const library = useLibrary();
  const prefs = usePrefs();
  let running: ReturnType<typeof startTaker> | undefined;

  function forget(): void {
    if (audition.carried) URL.revokeObjectURL(audition.carried.url);
    audition.carried = undefined;
  }
  const make = useDebounceFn(async () => {
    const own = sound();
    const how = takeHow(prefs.taking);
    const region = own && ((how.region && own.marks.region) || { start: 0, end: own.format.frames });
    if (!own || !region || region.end - region.start > LONGEST * own.format.rate) return;
    const tags = new Map(library.tags.map((t) => [t.id, t.name]));
    const [taken] = takenOf([own], library.loadable, how, tags, usablePattern(prefs.taking.pattern));
    if (!taken) return;
    running ??= startTaker();
    // What cannot be taken is told of when somebody takes it.
    const { blob } = await running.taker
      .take(
        [taken],
        tags,
        how,
        undefined,
        proxy(() => undefined),
      )
      .catch(() => ({ blob: undefined }));
    if (!blob || sound() !== own) return;
    forget();
    audition.carried = { id: own.id, name: taken.name, url: URL.createObjectURL(blob) };
  }, RESTED);
  watch(
    [sound, () => prefs.taking],
    () => {
      forget();
      void make();
    },
    { deep: 1, immediate: true },
  );
  onUnmounted(() => {
    forget();
    running?.end();
  });
}
