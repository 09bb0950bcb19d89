import type { Peaks } from '@core/audio';
import {
  nameOf,
  nameSlices,
  sliceRecord,
  type Change,
  type CutSlice,
  type NamedSlice,
  type Sound,
} from '@core/library';
import { nameFaults } from '@core/naming';
import { sliceSettings, type ReelKind, type Slice, type SliceSettings } from '@core/suggest';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowReactive, shallowRef } from 'vue';
import { patternFault } from '../shared/take/take';
import { makeFiles } from './file-work';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { catalogue, slicer } from './workers';

/** A reel that is being cut: nothing of it is kept yet. */
export interface Draft {
  reel: Sound;
  slices: readonly CutSlice[];
  /** How much of it was read, 0 to 1. */
  share: number;
  peaks?: Peaks;
  /** Somebody changed its slices: other settings leave them as they are. */
  touched: boolean;
  /** What they were before, newest last. */
  past: readonly (readonly CutSlice[])[];
  /** Why it could not be read. */
  fault?: string;
}

/** Slices are at least so long. Seconds */
const LEAST = 0.005;
/** Changes that can be taken back before anything is kept. */
const PAST = 200;

/** Reels on their way to becoming sounds: how they are cut, what was changed by hand, what is kept of them. */
export const useSlices = defineStore('slices', () => {
  const library = useLibrary();
  const intake = useIntake();
  const settings = ref<SliceSettings>({ ...sliceSettings.mixed });
  const naming = useLocalStorage('slice-naming', {
    pattern: '{reel} {take}',
    first: 1,
    spoken: 'names' as const as 'names' | 'leave' | 'keep',
  });
  /** Where they go: parts of their reels, or files in a folder of a root. */
  const target = useLocalStorage('slice-target', { files: false, rootId: 0, folder: 'Slices', hide: true });
  const drafts = shallowReactive(new Map<number, Draft>());
  const currentId = ref<number>();
  const row = ref(0);
  /** Begun by hand and not a slice yet. */
  const hand = shallowRef<{ start: number; end?: number }>();
  const busy = reactive({ reading: false, share: 0, current: '' });

  const current = computed(() => (currentId.value === undefined ? undefined : drafts.get(currentId.value)));
  const list = computed(() => [...drafts.values()]);

  function update(id: number, change: Partial<Draft>): void {
    const draft = drafts.get(id);
    if (draft) drafts.set(id, { ...draft, ...change });
  }
  const cutOf = (found: readonly Slice[]): CutSlice[] =>
    found.map(({ start, end, anchor, spoken }) => ({ start, end, anchor, ...(spoken ? { spoken } : {}) }));
  const plain = () => ({ ...settings.value });

  let cancelled = false;
  /** Reads reels and cuts them, one after another. Those that are there already stay as they are. */
  async function read(sounds: readonly Sound[]): Promise<void> {
    const wanted = new Set(sounds.map((s) => s.id));
    for (const id of drafts.keys()) if (!wanted.has(id)) drafts.delete(id);
    void slicer().keepOnly([...wanted]);
    const fresh = sounds.filter((s) => drafts.get(s.id)?.peaks === undefined);
    for (const reel of fresh) drafts.set(reel.id, { reel, slices: [], share: 0, touched: false, past: [] });
    if (!drafts.has(currentId.value ?? -1)) choose(sounds[0]?.id);
    cancelled = false;
    Object.assign(busy, { reading: true, share: 0 });
    for (const [i, reel] of fresh.entries()) {
      if (cancelled) break;
      busy.current = nameOf(reel);
      try {
        const item = library.loadable(reel);
        if (!item) throw new Error('its folder is not in the library any more');
        const loadable = JSON.parse(JSON.stringify({ sound: item.sound })) as typeof item;
        const peaks = await slicer().measure(
          { ...loadable, root: { ...item.root } },
          plain(),
          proxy((share: number, slices: Slice[]) => {
            busy.share = (i + share) / fresh.length;
            update(reel.id, { share, slices: cutOf(slices) });
          }),
        );
        if (!peaks) break;
        update(reel.id, { share: 1, peaks });
        await recut(reel.id);
      } catch (error) {
        update(reel.id, { fault: (error as Error).message });
      }
      busy.share = (i + 1) / fresh.length;
    }
    for (const [id, draft] of drafts) if (!draft.peaks && !draft.fault) drafts.delete(id);
    busy.reading = false;
  }
  function cancel(): void {
    cancelled = true;
    void slicer().cancel();
  }

  /** Cuts a reel by the settings, or all that nobody changed by hand. */
  async function recut(id?: number): Promise<void> {
    for (const draft of list.value) {
      if (!draft.peaks || (id === undefined ? draft.touched : draft.reel.id !== id)) continue;
      const found = await slicer().cut(draft.reel.id, plain());
      if (found) update(draft.reel.id, { slices: cutOf(found), touched: false, past: [] });
    }
    row.value = Math.min(row.value, Math.max(0, (current.value?.slices.length ?? 1) - 1));
  }
  const setKind = (kind: ReelKind) => (settings.value = { ...sliceSettings[kind] });

  function choose(id: number | undefined): void {
    if (id === currentId.value) return;
    currentId.value = id;
    row.value = 0;
    hand.value = undefined;
  }

  /** Changes the slices of the current reel by hand. */
  function change(next: readonly CutSlice[], at = row.value): void {
    const draft = current.value;
    if (!draft) return;
    update(draft.reel.id, { slices: next, touched: true, past: [...draft.past, draft.slices].slice(-PAST) });
    row.value = Math.max(0, Math.min(next.length - 1, at));
  }
  function back(): void {
    const draft = current.value;
    const before = draft?.past.at(-1);
    if (draft && before) update(draft.reel.id, { slices: before, past: draft.past.slice(0, -1) });
    row.value = Math.max(0, Math.min((before?.length ?? 1) - 1, row.value));
  }
  function alter(at: number, by: Partial<CutSlice>): void {
    const { slices = [] } = current.value ?? {};
    if (slices[at])
      change(
        slices.map((s, i) => (i === at ? { ...s, ...by } : s)),
        at,
      );
  }
  const least = () => Math.round(LEAST * (current.value?.reel.format.rate ?? 48_000));

  /** How far an edge can go: up to the next slice, and not through the other edge. */
  function within(at: number, edge: 'start' | 'end', frame: number): number {
    const { slices, reel } = current.value!;
    const { start, end } = slices[at];
    return edge === 'start'
      ? Math.round(Math.max(slices[at - 1]?.end ?? 0, Math.min(end - least(), frame)))
      : Math.round(Math.min(slices[at + 1]?.start ?? reel.format.frames, Math.max(start + least(), frame)));
  }
  async function setEdge(at: number, edge: 'start' | 'end', frame: number): Promise<void> {
    const { slices, reel } = current.value!;
    const next = { ...slices[at], [edge]: within(at, edge, frame) };
    // An anchor that lies outside now, or was never placed, is looked for anew.
    const lost = next.anchor < next.start || next.anchor >= next.end || !next.placed;
    const { start, end } = next;
    alter(at, {
      start,
      end,
      ...(lost ? { anchor: await slicer().anchor(reel.id, { start, end }), placed: false } : {}),
    });
  }
  async function anchored(span: { start: number; end: number }): Promise<CutSlice> {
    return { ...span, anchor: await slicer().anchor(current.value!.reel.id, span) };
  }
  async function split(at: number, frame: number): Promise<boolean> {
    const slice = current.value?.slices[at];
    if (!slice || frame < slice.start + least() || frame > slice.end - least()) return false;
    const parts = await Promise.all([
      anchored({ start: slice.start, end: frame }),
      anchored({ start: frame, end: slice.end }),
    ]);
    change(
      current.value!.slices.flatMap((s, i) => (i === at ? parts : [s])),
      at,
    );
    return true;
  }
  async function join(at: number): Promise<void> {
    const [first, second] = current.value?.slices.slice(at, at + 2) ?? [];
    if (!second) return;
    const { spoken, said, own } = first;
    const whole = { spoken, said, own, ...(await anchored({ start: first.start, end: second.end })) };
    change(
      current.value!.slices.flatMap((s, i) => (i === at ? [whole] : i === at + 1 ? [] : [s])),
      at,
    );
  }
  const drop = (at: number) => change(current.value?.slices.filter((_, i) => i !== at) ?? [], at);

  /** A slice by hand; those that it covers give way. */
  async function add(start: number, end: number): Promise<void> {
    const draft = current.value;
    if (!draft || end - start < least()) return;
    const made = await anchored({ start, end });
    const others = draft.slices.flatMap((s) => {
      if (s.end <= start || s.start >= end) return [s];
      return [
        { ...s, end: start },
        { ...s, start: end },
      ].filter((part) => part.end - part.start >= least() && part.anchor >= part.start && part.anchor < part.end);
    });
    const next = [...others, made].sort((a, b) => a.start - b.start);
    change(next, next.indexOf(made));
  }

  /** What is wrong with the pattern, in words. */
  const fault = computed(() =>
    naming.value.pattern.trim() === '' ? 'A pattern is needed.' : patternFault(naming.value.pattern, true),
  );
  /** What would be kept of all reels, under which names. */
  const named = computed<NamedSlice[]>(() => {
    if (fault.value) return [];
    const reels = list.value.filter((d) => d.peaks);
    return nameSlices(reels, naming.value, new Map(library.tags.map((t) => [t.id, t.name])));
  });
  const nameBySlice = computed(() => new Map(named.value.map((n) => [n.slice, n.name])));
  const place = computed(() =>
    target.value.folder
      .split('/')
      .map((f) => f.trim())
      .filter(Boolean),
  );
  const faults = computed(() => {
    if (!target.value.files) return [];
    const wrong = (name: string, faulty: string[]) => (faulty.length > 0 ? [`“${name}”: ${faulty.join('; ')}`] : []);
    return [
      ...place.value.flatMap((part) => wrong(part, nameFaults(part))),
      ...named.value.flatMap(({ name }) => wrong(name, nameFaults(`${name}.wav`))),
    ];
  });
  const pathOf = (name: string) => [...place.value, `${name}.wav`].join('/');

  /** Makes files of sounds that are parts of reels; whatever uses them plays the files then. */
  async function makeParts(
    ids: readonly number[],
  ): Promise<{ written: number; failed: { path: string; reason: string }[]; stopped?: string }> {
    const parts = (await catalogue.sounds([...ids])).filter((s) => s.excerpt);
    const used = new Set<string>();
    const items = parts.map(({ id, ...part }) => {
      let name = nameOf(part);
      for (let n = 2; used.has(name.toLowerCase()); n++) name = `${nameOf(part)} ${n}`;
      used.add(name.toLowerCase());
      return { id, part: JSON.parse(JSON.stringify(part)) as Omit<Sound, 'id'>, path: pathOf(name) };
    });
    return makeFiles(items, target.value.rootId, 'Make', []);
  }

  /** Keeps what was cut: as parts of the reels, or as files. @returns what came of it */
  async function keep(): Promise<{ written: number; failed: { path: string; reason: string }[]; stopped?: string }> {
    const now = Date.now();
    const kept = named.value;
    const ids = await catalogue.newIds('sounds', kept.length);
    const records = kept.map((n) => JSON.parse(JSON.stringify(sliceRecord(n, now))) as Omit<Sound, 'id'>);
    const reels = [...new Set(kept.map((n) => n.reel.id))];
    const hiding: Change[] = target.value.hide
      ? reels.map((id) => ({ table: 'sounds', id, before: { hidden: undefined }, after: { hidden: 'aside' } }))
      : [];
    if (!target.value.files) {
      const changes = records.map((after, i): Change => ({ table: 'sounds', id: ids[i], after: { ...after } }));
      const done = await library.edit(`Cut ${kept.length} takes`, [...changes, ...hiding]);
      if (!done) return { written: 0, failed: [] };
      for (const id of reels) drafts.delete(id);
      void intake.measure(ids);
      return { written: kept.length, failed: [] };
    }
    const { rootId } = target.value;
    const items = kept.map((n, i) => ({ id: ids[i], part: records[i], path: pathOf(n.name) }));
    const outcome = await makeFiles(items, rootId, 'Cut', hiding);
    // What could not be written stays here, to be tried again.
    const there = new Set((await catalogue.sounds(ids)).map((made) => made.id));
    for (const id of reels) {
      const rest = kept.flatMap((n, i) =>
        n.reel.id === id && !there.has(ids[i]) ? [{ ...n.slice, own: n.name, take: n.take }] : [],
      );
      if (rest.length > 0) update(id, { slices: rest, touched: true, past: [] });
      else drafts.delete(id);
    }
    void intake.measure([...there]);
    return outcome;
  }

  return {
    ...{
      settings,
      naming,
      target,
      drafts,
      list,
      current,
      currentId,
      row,
      hand,
      busy,
      fault,
      faults,
      named,
      nameBySlice,
    },
    ...{ read, cancel, recut, setKind, choose, alter, back, setEdge, within, split, join, drop, add, keep, makeParts },
  };
});
