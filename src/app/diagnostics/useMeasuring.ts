import { promiseTimeout, until } from '@vueuse/core';
import { ref } from 'vue';
import { useAudition } from '../stores/audition';
import { useOutput } from '../stores/output';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';

/** Sounds that are walked through, and for how long each is heard. Milliseconds. */
const WALKED = 40;
const HEARD = 250;
/** One that has not begun by then is passed over. */
const PATIENCE = 5000;

/** Walks through the first sounds of the list as a hand on the arrow keys does, and measures how soon each is heard. */
export function useMeasuring() {
  const audition = useAudition();
  const output = useOutput();
  const find = useFind();
  const library = useLibrary();
  /** Share that is done; undefined when nothing is being measured. */
  const progress = ref<number>();
  let cancelled = false;

  async function measure(): Promise<void> {
    const ids = [...find.answer.ids.subarray(0, WALKED)];
    cancelled = false;
    for (let i = 0; i < ids.length && !cancelled; i++) {
      progress.value = i / ids.length;
      const [sound, next] = await library.need(ids.slice(i, i + 2));
      if (!sound) continue;
      const before = output.latencies;
      audition.choose(sound, true);
      await until(() => output.latencies !== before).toBe(true, { timeout: PATIENCE });
      if (next) audition.prepare([next]);
      await promiseTimeout(HEARD);
    }
    audition.stop();
    progress.value = undefined;
  }

  return { progress, measure, cancel: () => (cancelled = true) };
}
