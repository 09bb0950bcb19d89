import type { PublishHow, PublishRow } from '@core/library';
import { fields } from '@core/library';
import type { PublishExtras, PublishOutcome, PublishTarget, WriteProgress } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { reactive, ref, shallowRef } from 'vue';
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
  const work = reactive({ running: false, paused: false, share: 0, done: 0, total: 0, current: '', started: 0 });
  /** Whether something can be taken back. */
  const made = ref(false);

  const plain = <T>(value: T) => JSON.parse(JSON.stringify(value)) as T;

  async function plan(of: readonly number[]): Promise<void> {
    outcome.value = undefined;
    ids.value = of;
    rows.value = await (await publisher()).plan([...of], plain(how.value));
  }

  async function publish(target: PublishTarget): Promise<PublishOutcome> {
    Object.assign(work, {
      running: true,
      paused: false,
      share: 0,
      done: 0,
      total: 0,
      current: '',
      started: performance.now(),
    });
    try {
      const report = proxy(
        (p: WriteProgress) => void Object.assign(work, p, { share: p.total === 0 ? 0 : p.done / p.total }),
      );
      const done = await (
        await publisher()
      ).publish([...ids.value], plain(how.value), { ...plain(extras.value), keys: [...KEYS] }, target, report);
      outcome.value = done;
      rows.value = undefined;
      made.value = target.kind !== 'zip' && done.written > 0;
      return done;
    } finally {
      work.running = false;
    }
  }

  async function takeBack(): Promise<{ removed: number; failed: { path: string; reason: string }[] }> {
    made.value = false;
    const done = await (await publisher()).takeBack();
    outcome.value = undefined;
    return done;
  }

  const cancel = async () => (await publisher()).cancel();
  async function rest(paused: boolean): Promise<void> {
    work.paused = paused;
    const p = await publisher();
    await (paused ? p.pause() : p.proceed());
  }

  return { how, extras, rows, outcome, ids, work, made, plan, publish, takeBack, cancel, rest };
});
