import { Gate, type RunningLabeller } from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowRef } from 'vue';
import { tell } from '../shell/notice';
import { useFind } from './find';
import { endLabeller, labeller } from './workers';

type Work = RunningLabeller['labeller'];
/** Reports how far a work is. */
export type Report = (share: number, what: string) => void;

/** A step of a recipe that stands still for this long does not come to an end. */
const STUCK = 6000;

/** What Label's views share: the selected sounds, what a batch is run on, and the work that runs. */
export const useLabels = defineStore('labels', () => {
  const find = useFind();
  const selected = shallowRef<ReadonlySet<number>>(new Set());
  const scope = ref<'selected' | 'list'>();
  /** `keeping`: it is too late to cancel. */
  const work = reactive({ running: false, cancelled: false, keeping: false, share: 0, what: '' });
  /** How often a disk had no room for what was asked. */
  const refused = ref(0);
  /** What fails when a labeller is ended, with whatever else runs in it. */
  const waiting = new Map<RunningLabeller, Set<(error: Error) => void>>();

  /** A batch goes to the selected sounds when there are several, else to the whole list, unless one says otherwise. */
  const scopeNow = computed(() => scope.value ?? (selected.value.size > 1 ? 'selected' : 'list'));
  const ids = computed(() => {
    const { ids: listed } = find.answer;
    return scopeNow.value === 'list' ? Array.from(listed) : Array.from(listed).filter((id) => selected.value.has(id));
  });

  /** Ends the labeller when a step of a recipe stands still. */
  function guard({ where }: RunningLabeller, stop: (step: number) => unknown): () => void {
    let seen = -1;
    let since = performance.now();
    const timer = setInterval(() => {
      const now = Atomics.load(where, 2);
      const idle = Atomics.load(where, 0) === 0 || Atomics.load(where, 1) < 0;
      if (idle || now !== seen) {
        seen = now;
        since = performance.now();
      } else if (performance.now() - since > STUCK) stop(Atomics.load(where, 1));
    }, 250);
    return () => clearInterval(timer);
  }

  /**
   * Has the labeller do something. Failures are told.
   * @param quiet no progress is shown, and failures are thrown
   */
  async function run<T>(task: (work: Work, report: Report) => Promise<T>, quiet = false): Promise<T | undefined> {
    if (!quiet) Object.assign(work, { running: true, cancelled: false, keeping: false, share: 0, what: '' });
    const report: Report = (share, what) => {
      if (!quiet) Object.assign(work, { share, what });
    };
    let release = () => {};
    try {
      const running = await labeller();
      return await new Promise<T>((done, fail) => {
        const gate = new Gate(running.where.subarray(3, 4));
        const failing = waiting.get(running) ?? new Set();
        waiting.set(running, failing.add(fail));
        /** Ends all that runs there, unless something is being kept. */
        const end = (reason: string): boolean => {
          if (!gate.cancel()) return false;
          void endLabeller(running);
          for (const each of failing) each(new Error(reason));
          return true;
        };
        const letGo = guard(running, (step) =>
          end(
            `Step ${step + 1} takes too long: its pattern does not come to an end on one of the texts. Make it simpler. Nothing was changed.`,
          ),
        );
        const watch = setInterval(() => {
          if (quiet) return;
          work.keeping = gate.closed;
          if (!work.cancelled) return;
          work.cancelled = false;
          if (!end('Cancelled. Nothing was changed.'))
            tell.info('It is being kept already. Undo takes it back once it is done.');
        }, 50);
        release = () => {
          letGo();
          clearInterval(watch);
          failing.delete(fail);
        };
        task(running.labeller, proxy(report)).then(done, fail);
      });
    } catch (error) {
      if ((error as Error).name === 'NoRoom') refused.value++;
      if (quiet) throw error;
      tell.error((error as Error).message);
      return undefined;
    } finally {
      release();
      if (!quiet) work.running = false;
    }
  }

  return { selected, scope, scopeNow, ids, work, refused, run };
});
