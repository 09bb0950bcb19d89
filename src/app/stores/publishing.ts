import type { PublishHow, PublishRow } from '@core/library';
import { fields } from '@core/library';
import type {
  PublishExtras,
  Publishing,
  PublishOutcome,
  PublishTarget,
  TakenBack,
  WriteProgress,
} from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { reactive, shallowRef } from 'vue';
import { publisher } from './workers';

/** Fields of a published sheet: what people give sounds, and what is measured of them; not where they lie here. */
const KEYS = fields
  .filter((f) => f.edited || ['length', 'rate', 'bits', 'channels', 'loudness', 'truePeak'].includes(f.key))
  .map((f) => f.key);

/** A library on its way out: how it is put together, what it would come to, what came of it. */
export const usePublishing = defineStore('publishing', () => {
  const how = useLocalStorage<PublishHow>('publish-how', {
    title: 'My library',
    tree: '{library}/{category}/{subCategory}',
    names: '',
    format: { kind: 'own' },
  });
  const extras = useLocalStorage<Omit<PublishExtras, 'keys'>>('publish-extras', {
    sheet: 'csv',
    artwork: true,
    licence: true,
    terms: '',
    credits: true,
    contents: true,
    sums: true,
  });
  const rows = shallowRef<PublishRow[]>();
  const outcome = shallowRef<PublishOutcome>();
  const ids = shallowRef<readonly number[]>([]);
  const work = reactive({
    running: false,
    paused: false,
    share: 0,
    done: 0,
    total: 0,
    current: '',
    started: 0,
    what: 'Publishing' as 'Publishing' | 'Taking back',
  });
  /** Libraries that were published and can be taken back, the newest first. */
  const earlier = shallowRef<readonly Publishing[]>([]);

  const plain = <T>(value: T) => JSON.parse(JSON.stringify(value)) as T;

  async function plan(of: readonly number[]): Promise<void> {
    outcome.value = undefined;
    ids.value = of;
    rows.value = await (await publisher()).plan([...of], plain(how.value));
  }

  async function lookBack(): Promise<void> {
    earlier.value = await (await publisher()).publishings();
  }

  /** Does a work that takes its time, and shows how far it is. */
  async function working<T>(
    what: typeof work.what,
    task: (report: (p: WriteProgress) => void) => Promise<T>,
  ): Promise<T> {
    const begun = { done: 0, total: 0, current: '', started: performance.now() };
    Object.assign(work, { what, running: true, paused: false, share: 0, ...begun });
    try {
      return await task(
        proxy((p: WriteProgress) => void Object.assign(work, p, { share: p.total === 0 ? 0 : p.done / p.total })),
      );
    } finally {
      work.running = false;
      await lookBack();
    }
  }

  async function publish(target: PublishTarget): Promise<PublishOutcome> {
    const done = await working('Publishing', async (report) =>
      (await publisher()).publish(
        [...ids.value],
        plain(how.value),
        { ...plain(extras.value), keys: [...KEYS] },
        target,
        report,
      ),
    );
    outcome.value = done;
    rows.value = undefined;
    return done;
  }

  async function takeBack(id: number): Promise<TakenBack> {
    outcome.value = undefined;
    return working('Taking back', async (report) => (await publisher()).takeBack(id, report));
  }

  const cancel = async () => (await publisher()).cancel();
  async function rest(paused: boolean): Promise<void> {
    work.paused = paused;
    const p = await publisher();
    await (paused ? p.pause() : p.proceed());
  }

  return { how, extras, rows, outcome, ids, work, earlier, plan, publish, lookBack, takeBack, cancel, rest };
});
