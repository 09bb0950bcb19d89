import { labelsOfRoll, madeOf, soundMade } from '@core/build';
import type { Made, Sound } from '@core/library';
import { categoryOf } from '@core/suggest';
import {
  manyBetween,
  patches,
  patchNames,
  rollFrom,
  rollsOf,
  seedOf,
  turned,
  type Patch,
  type PatchName,
  type Roll,
} from '@core/synth';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { useAudition } from './audition';
import { makeFiles } from './file-work';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useMadePlace } from './made-place';
import { keyOf, RollMaker, type MadeRoll } from './made-rolls';
import { usePrefs } from './prefs';
import { catalogue } from './workers';

/** Rolls that are listed at once, and how many lists can be walked back through. */
const [ROLLS, LISTS] = [30, 50];
/** Longer ones go on where they are when a value of them is turned; shorter ones begin anew. Seconds */
const LONG = 1.5;

/** Rolls that came together, and what a hand made of them. */
interface List {
  family: PatchName;
  /** How they came about. */
  how: string;
  rolled: readonly Roll[];
  turned: ReadonlyMap<number, Roll>;
}

/** Making sounds from nothing: a family, its rolls, what is locked of them, and what is kept. */
export const useMaking = defineStore('making', () => {
  const library = useLibrary();
  const intake = useIntake();
  const audition = useAudition();
  const place = useMadePlace();
  const prefs = usePrefs();

  const family = useLocalStorage<PatchName>('made-family', 'blip');
  if (!patchNames.includes(family.value)) family.value = 'blip';
  const patch = computed<Patch>(() => patches[family.value]);
  /** The numbers that stay as they are, by family. */
  const lockedOf = useLocalStorage<Partial<Record<PatchName, string[]>>>('made-locked', {});
  const locked = computed(() => new Set(lockedOf.value[family.value]));

  const lists = shallowRef<readonly List[]>([]);
  const at = ref(-1);
  const list = computed<List | undefined>(() => lists.value[at.value]);
  const index = ref(0);
  /** Rows that are marked, for keeping them or for what lies between two. */
  const marked = ref<ReadonlySet<number>>(new Set());
  const rolls = computed<readonly Roll[]>(() => list.value?.rolled.map((r, i) => list.value!.turned.get(i) ?? r) ?? []);
  const chosen = computed<Roll | undefined>(() => rolls.value[index.value]);
  const isTurned = computed(() => list.value?.turned.has(index.value) === true);

  /** The seed of the next list, drawn ahead: its first sounds are made before they are asked for. */
  let ahead = Math.floor(Math.random() * 2 ** 31);
  const lockedValues = () =>
    Object.fromEntries(
      Object.entries(chosen.value?.family === family.value ? chosen.value.values : {}).filter(([key]) =>
        locked.value.has(key),
      ),
    );
  const nextRolls = () => rollsOf(family.value, ROLLS, ahead, lockedValues());

  const isHere = ref(false);
  /** Whether sounds are being kept. */
  const busy = ref(false);
  const maker = new RollMaker(() => {
    if (!isHere.value || !chosen.value) return keeping;
    return [chosen.value, ...keeping, ...rolls.value, ...nextRolls().slice(0, 2)];
  });
  /** Rolls that are being kept, wherever one looks meanwhile. */
  let keeping: readonly Roll[] = [];
  const madeAs = (roll: Roll | undefined): MadeRoll | undefined => roll && maker.made.get(keyOf(roll));

  function show(how: string, rolled: readonly Roll[]): void {
    const next: List = { family: family.value, how, rolled, turned: new Map() };
    lists.value = [...lists.value.slice(0, at.value + 1), next].slice(-LISTS);
    at.value = lists.value.length - 1;
    index.value = 0;
    marked.value = new Set();
  }
  /** Another list; what is locked stays. */
  function roll(): void {
    show(locked.value.size > 0 ? `rolled with ${locked.value.size} locked` : 'rolled', nextRolls());
    ahead = Math.floor(Math.random() * 2 ** 31);
    hear();
  }
  /** What lies between the two marked ones. */
  function between(): void {
    const [a, b] = [...marked.value].map((i) => rolls.value[i]);
    if (!a || !b) return;
    const seed = Math.floor(Math.random() * 2 ** 31);
    show('between two', [a, ...manyBetween(a, b, ROLLS - 2, seed), b]);
    hear();
  }
  /** Goes back or on through the lists. */
  function walk(by: -1 | 1): boolean {
    const next = lists.value[at.value + by];
    if (!next) return false;
    at.value += by;
    family.value = next.family;
    index.value = 0;
    marked.value = new Set();
    hear();
    return true;
  }
  function setFamily(name: PatchName): void {
    if (name === family.value && list.value) return;
    family.value = name;
    show('rolled', rollsOf(name, ROLLS, ahead));
    ahead = Math.floor(Math.random() * 2 ** 31);
    hear();
  }

  // What is wanted is heard as soon as it is made.
  let wanted: string | undefined;
  /** Plays the chosen roll. */
  function hear(): void {
    wanted = chosen.value && keyOf(chosen.value);
    maker.go();
    sound();
  }
  function sound(): void {
    const made = madeAs(chosen.value);
    if (!made || keyOf(made.roll) !== wanted) return;
    wanted = undefined;
    const { sound: next } = made;
    const before = audition.playing ? audition.sound : undefined;
    const goesOn =
      before?.made?.seed === made.roll.seed &&
      before.made.family === made.roll.family &&
      made.roll.values.length > LONG;
    const from = audition.frame;
    audition.choose(next, !goesOn && prefs.playOnMove);
    if (goesOn && from < next.format.frames) audition.play(from);
  }
  watch(() => madeAs(chosen.value), sound);
  watch([rolls, locked], () => isHere.value && maker.go());

  function choose(i: number): void {
    index.value = Math.max(0, Math.min(rolls.value.length - 1, i));
    hear();
  }
  function mark(i: number): void {
    const next = new Set(marked.value);
    if (!next.delete(i)) next.add(i);
    marked.value = next;
  }
  function setRow(i: number, own: Roll | undefined): void {
    const now = list.value;
    if (!now) return;
    const changed = new Map(now.turned);
    if (own) changed.set(i, own);
    else changed.delete(i);
    lists.value = lists.value.map((l) => (l === now ? { ...now, turned: changed } : l));
    hear();
  }
  /** Turns a number of the chosen roll, and hears it. */
  function turn(key: string, value: number): void {
    if (chosen.value) setRow(index.value, turned(chosen.value, key, value));
  }
  /** Other chance in the same numbers. */
  function reseed(): void {
    if (chosen.value) setRow(index.value, { ...chosen.value, seed: seedOf(`${chosen.value.seed}`) });
  }
  const asRolled = () => setRow(index.value, undefined);
  function lock(key: string): void {
    const next = new Set(locked.value);
    if (!next.delete(key)) next.add(key);
    lockedOf.value = { ...lockedOf.value, [family.value]: [...next] };
  }

  /** Opens what a sound was made by. @returns false where its family is not known here */
  function open(made: Made): boolean {
    const own = rollFrom(made);
    if (!own) return false;
    family.value = own.family;
    show('as it was kept', [own, ...rollsOf(own.family, ROLLS - 1, ahead)]);
    return true;
  }

  function enter(): void {
    isHere.value = true;
    if (!list.value) show('rolled', nextRolls());
    maker.go();
  }
  function leave(): void {
    isHere.value = false;
    wanted = undefined;
    // What is being kept is made all the same.
    if (!busy.value) maker.end();
  }

  /** What would be kept: the marked ones, or the chosen one. */
  const meant = computed<readonly Roll[]>(() =>
    marked.value.size > 0
      ? [...marked.value].sort((a, b) => a - b).map((i) => rolls.value[i])
      : chosen.value
        ? [chosen.value]
        : [],
  );
  /**
   * Makes sounds of the library of rolls: one step that can be taken back.
   * @param name of one; several are numbered. Each has its own, by what is heard, when absent
   */
  async function keep(
    own: readonly Roll[],
    name?: string,
  ): Promise<{ sounds: Sound[]; where?: string; failure?: string }> {
    if (busy.value || own.length === 0) return { sounds: [], failure: 'another is being kept; wait for it' };
    busy.value = true;
    keeping = own;
    try {
      const root = await place.rootFor();
      if (typeof root === 'string') return { sounds: [], failure: root };
      const ids = await catalogue.newIds('sounds', own.length);
      const taken = new Set<string>();
      const items: Parameters<typeof makeFiles>[0][number][] = [];
      for (const [i, r] of own.entries()) {
        const made = await maker.whenMade(r);
        const called =
          name === undefined ? made.name : own.length > 1 ? `${name} ${String(i + 1).padStart(2, '0')}` : name;
        const path = await place.freePath(root, called, taken);
        const { format, marks } = made.sound;
        const file = {
          ...{ rootId: root.id, rootName: root.name, path, size: made.audio.size },
          ...{ format, anchor: marks.anchor, now: Date.now() },
        };
        const labels = labelsOfRoll(called, r, made.facts, categoryOf(patches[r.family].catId));
        const part = JSON.parse(JSON.stringify(soundMade(labels, file, { made: madeOf(r) }))) as Omit<Sound, 'id'>;
        items.push({ id: ids[i], part, path, rendered: made.audio });
      }
      const written = await makeFiles(items, root.id, 'Make', []);
      const why = written.failed[0]?.reason ?? written.stopped;
      void intake.measure(items.map((i) => i.id));
      if (written.written === 0) return { sounds: [], failure: why ?? 'it was not written' };
      const sounds = await library.need(items.map((i) => i.id));
      return { sounds, where: `${root.name}/${items[0].path}`, ...(why === undefined ? {} : { failure: why }) };
    } catch (error) {
      return { sounds: [], failure: (error as Error).message };
    } finally {
      busy.value = false;
      keeping = [];
      if (!isHere.value) maker.end();
    }
  }

  return {
    ...{ family, patch, locked, list, lists, at, index, marked, rolls, chosen, isTurned, meant, busy },
    ...{ madeAs, roll, between, walk, setFamily, hear, choose, mark },
    ...{ turn, reseed, asRolled, lock, open, enter, leave, keep },
  };
});
