import type { Change } from '@core/library';
import type { MadeItem, WriteHow, WriteOutcome, WriteProgress, WriteRow } from '@platform/index';
import { proxy } from 'comlink';
import { reactive } from 'vue';
import { fileWriter } from './workers';

/** The work on files that runs: what it does, how far it is, and whether it rests. */
export const fileWork = reactive({
  what: '' as '' | 'plan' | 'write' | 'undone' | 'done' | 'settle',
  share: 0,
  done: 0,
  total: 0,
  /** Of the files that are done. */
  bytes: 0,
  current: '',
  paused: false,
  /** When it began, in milliseconds, less the time that it rested. */
  started: 0,
});

let rested = 0;

/** Does something of which only one may run at a time. */
async function working<T>(what: typeof fileWork.what, task: () => Promise<T>): Promise<T> {
  if (fileWork.what !== '') throw new Error('Files are being worked on already; wait for it, or cancel it.');
  Object.assign(fileWork, { what, share: 0, done: 0, total: 0, bytes: 0, current: '', paused: false });
  fileWork.started = performance.now();
  try {
    return await task();
  } finally {
    fileWork.what = '';
  }
}

const report = () =>
  proxy((p: WriteProgress) => void Object.assign(fileWork, p, { share: p.total === 0 ? 0 : p.done / p.total }));

/** Works out what writing would do; nothing is written. @returns undefined when it was cancelled */
export const planFiles = (ids: readonly number[], how: WriteHow): Promise<WriteRow[] | undefined> =>
  working('plan', async () =>
    (await fileWriter()).plan(
      [...ids],
      { ...how },
      proxy((share: number, current: string) => void Object.assign(fileWork, { share, current })),
    ),
  );

/** Writes the files of some sounds, as one edit. */
export const writeFiles = (ids: readonly number[], how: WriteHow): Promise<WriteOutcome> =>
  working('write', async () => (await fileWriter()).write([...ids], { ...how }, report()));

/** Makes files of parts of longer ones, as one edit. */
export const makeFiles = (
  items: readonly MadeItem[],
  rootId: number,
  label: string,
  more: readonly Change[],
): Promise<WriteOutcome> =>
  working('write', async () => (await fileWriter()).make([...items], rootId, label, [...more], report()));

/** Makes the files of an edit the old ones again, or the new ones. */
export const turnFiles = (job: number, to: 'undone' | 'done'): Promise<WriteOutcome> =>
  working(to, async () => (await fileWriter()).turn(job, to, report()));

/** Finishes what was broken off. @returns how many files were written that the library did not know of */
export const settleFiles = (): Promise<number> => working('settle', async () => (await fileWriter()).settle());

/** Ends what runs after the files in hand. */
export const cancelFiles = async (): Promise<void> => (await fileWriter()).cancel();

/** Lets it rest, or go on. */
export async function restFiles(paused: boolean): Promise<void> {
  fileWork.paused = paused;
  const writer = await fileWriter();
  await (paused ? writer.pause() : writer.proceed());
  if (paused) rested = performance.now();
  else fileWork.started += performance.now() - rested;
}
