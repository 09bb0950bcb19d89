import type { Change, Edit, Origin, Patch, Sound, Tag, Values } from '@core/library';
import { changeOf, patchOf, tagByName, valuesFrom } from '@core/library';
import type { SoundTable } from '@core/search';
import { ShortNames, type ShortName } from '@core/naming';
import { categoryOf, useCategories, type OwnCategory } from '@core/suggest';
import type { Catalogue } from '../catalogue/catalogue';
import type { Store } from '../store/store';

/** Share of the work done, 0 to 1, with what is being done in words. */
export type Progress = (share: number, what: string) => void;

/** The catalogue as labelling needs it, be it here or in another worker. */
export type DeskCatalogue = Pick<Catalogue, 'apply' | 'newIds' | 'enough'> & {
  soundTable(keys: readonly string[]): SoundTable | undefined | Promise<SoundTable | undefined>;
};

/** What labelling many sounds at once works with: its own view of the store, and the catalogue for changing it. */
export interface Desk {
  store: Store;
  catalogue: DeskCatalogue;
  /** Says who may still cancel; see {@link Gate}. */
  gate?: Gate;
}

/** Why a work ended that its user cancelled in time. */
export class Cancelled extends Error {
  override name = 'Cancelled';

  constructor() {
    super('Cancelled. Nothing was changed.');
  }
}

/**
 * Decides between keeping and cancelling, in memory that the window and the worker share: whichever comes first holds. So "nothing was
 * changed" is only said where it is true.
 */
export class Gate {
  constructor(private readonly cell: Int32Array) {}

  /** From now on it is too late to cancel. @throws Cancelled */
  enter(): void {
    for (;;) {
      const now = Atomics.load(this.cell, 0);
      if (now < 0) throw new Cancelled();
      if (Atomics.compareExchange(this.cell, 0, now, now + 1) === now) return;
    }
  }

  leave(): void {
    Atomics.sub(this.cell, 0, 1);
  }

  /** Whether somebody is keeping something now. */
  get closed(): boolean {
    return Atomics.load(this.cell, 0) > 0;
  }

  /** @returns whether it came in time: nothing is kept from now on */
  cancel(): boolean {
    return Atomics.compareExchange(this.cell, 0, 0, -1) <= 0;
  }
}

/** Does what cannot be cancelled any more once it has begun. @throws Cancelled when it was before */
export async function keeping<T>({ gate }: Desk, task: () => Promise<T>): Promise<T> {
  gate?.enter();
  try {
    return await task();
  } finally {
    gate?.leave();
  }
}

const CHUNK = 1000;
const PART = 5000;

/**
 * Reads sounds in their order, some at a time; those that are gone are passed over.
 * @param chunk how many: whatever else is asked for meanwhile waits for as many
 */
export async function eachSound(
  { store }: Pick<Desk, 'store'>,
  ids: readonly number[],
  visit: (sound: Sound, index: number) => void,
  progress?: (share: number) => void,
  chunk = CHUNK,
): Promise<void> {
  for (let from = 0; from < ids.length; from += chunk) {
    const rows = await store.sounds.bulkGet(ids.slice(from, from + chunk) as number[]);
    rows.forEach((row, i) => row && visit(row, from + i));
    progress?.(Math.min(1, (from + chunk) / ids.length));
  }
}

/**
 * Reads a whole table in the order of its ids, some thousand records at a time: a cursor would take several times as long.
 * @param seen called with each part
 */
export async function everyRow<T extends { id: number }>(
  { store }: Desk,
  table: string,
  seen: (rows: T[]) => void | Promise<void>,
): Promise<void> {
  for (let after = -Infinity; ;) {
    const rows = (await store.table(table).where(':id').above(after).limit(PART).toArray()) as T[];
    if (rows.length === 0) return;
    after = rows[rows.length - 1].id;
    await seen(rows);
  }
}

export async function tagNames({ store }: Pick<Desk, 'store'>): Promise<Map<number, string>> {
  return new Map((await store.tags.toArray()).map((t) => [t.id, t.name]));
}

/** The table of short names, and the user's own categories put to use in this thread. */
export async function tables({ store }: Desk): Promise<ShortNames> {
  useCategories((await store.categories.toArray()) as OwnCategory[]);
  return new ShortNames((await store.shortNames.toArray()) as ShortName[]);
}

/** Values about to be put on a sound. */
export interface Plan {
  sound: Sound;
  values: Values;
  /** Changes beside the fields, such as marks. */
  more?: Patch;
}

/**
 * Carries plans out as one edit; tags that are not there yet are made in it.
 * @returns how many sounds changed
 */
export async function carryOut(
  desk: Desk,
  plans: readonly Plan[],
  origin: Origin,
  edit: Pick<Edit, 'label' | 'by'> & { keepVendor?: boolean },
): Promise<number> {
  const { store, catalogue } = desk;
  const known = new Map<string, number>();
  for (const [name, tag] of tagByName((await store.tags.toArray()) as Tag[])) known.set(name, tag.id);
  const wanted = new Map<string, string>();
  for (const { values } of plans)
    for (const name of Object.values(values.tagNames).flat())
      if (!known.has(name.toLocaleLowerCase())) wanted.set(name.toLocaleLowerCase(), name);
  const ids = wanted.size > 0 ? await catalogue.newIds('tags', wanted.size) : [];
  const changes: Change[] = [...wanted].map(([key, name], i) => {
    known.set(key, ids[i]);
    return { table: 'tags', id: ids[i], after: { id: ids[i], name } };
  });
  const made = changes.length;
  const tagId = (name: string) => known.get(name.toLocaleLowerCase());
  for (const { sound, values, more } of plans) {
    const patch = patchOf(sound, values, tagId, { origin, category: categoryOf, keepVendor: edit.keepVendor });
    const change = changeOf('sounds', sound, { ...patch, ...more });
    if (change) changes.push(change);
  }
  const count = changes.length - made;
  const { label, by } = edit;
  if (count > 0)
    await keeping(desk, () =>
      catalogue.apply({ label, by, at: Date.now(), undoable: true, precondition: 'match', changes }),
    );
  return count;
}

/** Texts about to be typed into fields of a sound. */
export interface TypedTexts {
  id: number;
  texts: Record<string, string>;
}

/**
 * Puts typed or pasted texts into fields, as one edit.
 * @returns how many sounds changed, and which texts their fields refuse
 */
export async function putTexts(
  desk: Desk,
  rows: readonly TypedTexts[],
  label: string,
  keepVendor: boolean,
): Promise<{ changed: number; faults: { id: number; message: string }[] }> {
  await tables(desk);
  const plans: Plan[] = [];
  const faults: { id: number; message: string }[] = [];
  await eachSound(
    desk,
    rows.map((r) => r.id),
    (sound, i) => {
      const values = valuesFrom(rows[i].texts);
      if ('fault' in values) faults.push({ id: sound.id, message: values.fault });
      else plans.push({ sound, values });
    },
  );
  return { changed: await carryOut(desk, plans, 'typed', { label, keepVendor }), faults };
}
