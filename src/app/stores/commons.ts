import { askOf, contourOf, keptAs, labelsOfOpen, licencesMeant, rowOf, widened, type OpenAsk } from '@core/elsewhere';
import { soundMade } from '@core/build';
import { conflictOf } from '@core/scene';
import type { OpenPage, OpenSound } from '@core/schemas';
import type { Sound } from '@core/library';
import { Commons, type OpenSounds, type RootRecord } from '@platform/index';
import { useDebounceFn, useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, reactive, ref, shallowReactive, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useAudition } from './audition';
import { makeFiles } from './file-work';
import { useFind } from './find';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useMadePlace } from './made-place';
import { usePrefs } from './prefs';
import { useServices } from './services';
import { searchOf, wide } from './view';
import { catalogue, fileReader } from './workers';

/** Ids of what is listed from elsewhere: below those of sounds that were opened from the desktop. */
const [ROOT, FIRST] = [-1_000_000, -1_000_001];
/** The most that is remembered of what was listed. */
const REMEMBERED = 2000;

/** Which file of an open sound is fetched. */
export type Fetched = 'original' | 'preview';

/** Open sounds that others share: searched by the query of Find, heard at once, and fetched into the library. */
export const useCommons = defineStore('commons', () => {
  const library = useLibrary();
  const audition = useAudition();
  const find = useFind();
  const intake = useIntake();
  const prefs = usePrefs();
  const place = useMadePlace();

  /** What it calls itself; nothing while none is known. */
  const name = ref('');
  const all = ref(0);
  const licences = shallowRef<readonly string[]>([]);
  let service: OpenSounds | undefined;
  let root: RootRecord | undefined;
  /** For how many seconds it asks to wait. */
  const waiting = ref(0);

  /** Looks once whether there is one. */
  let looked: Promise<void> | undefined;
  const look = (): Promise<void> => (looked ??= lookNow());
  async function lookNow(): Promise<void> {
    const { commons: base } = await useServices().look();
    if (base === undefined) return;
    service = new Commons(base, (seconds) => (waiting.value = seconds));
    root = service.root(ROOT);
    library.loose.set(ROOT, root);
    await meet().catch(() => undefined);
  }
  /** Has it say what it is: which licences there are, and so what may be used, is known before anything is asked. */
  async function meet(): Promise<void> {
    // Where it cannot be met now, there is one all the same.
    name.value ||= 'The commons';
    const about = await service!.about();
    [name.value, all.value, licences.value] = [about.name, about.sounds, about.licences];
  }

  // What is asked
  const onlyFree = useLocalStorage('commons-only-usable', true);
  const chosen = reactive({ licences: [] as string[], authors: [] as string[], order: 'fit' as OpenAsk['order'] });
  const like = ref<{ code: string; name: string }>();
  /** What speaks against using a sound in the job at hand; empty where nothing does. */
  const against = (of: Pick<OpenSound, 'licence'>): string => conflictOf(of.licence, prefs.job);
  const usable = computed(() => licences.value.filter((licence) => against({ licence }) === ''));
  const asked = computed(() => askOf(find.view.text));

  function askNow(): OpenAsk {
    const among = onlyFree.value ? usable.value : [];
    const isAmong = (l: string) => among.length === 0 || among.includes(l);
    const picked = chosen.licences.filter(isAmong);
    const [typed] = asked.value.ask.licences;
    if (typed !== undefined) {
      const meant = licencesMeant(typed, picked.length > 0 ? picked : licences.value).filter(isAmong);
      // One that is not there finds nothing.
      return { ...filtered(), licences: meant.length > 0 ? meant : [typed] };
    }
    return { ...filtered(), licences: picked.length > 0 ? picked : [...among] };
  }
  /** What is asked but for the licence. */
  const filtered = (): OpenAsk => ({
    ...asked.value.ask,
    authors: [...chosen.authors],
    order: chosen.order,
    ...(like.value ? { like: like.value.code } : {}),
  });

  // What it answers
  const page = shallowRef<OpenPage>();
  const ids = shallowRef<number[]>([]);
  /** By what is found that is listed: where nothing has all of the words, by what they mean, and else by some of them. */
  const band = ref<'all' | 'meant' | 'some'>('all');
  let answered: OpenAsk | undefined;
  const busy = ref(false);
  const failure = ref('');
  const items = shallowReactive(new Map<number, OpenSound>());
  const idOf = new Map<string, number>();
  let next = FIRST;
  let asking = new AbortController();

  function rowFor(item: OpenSound): number {
    const id = idOf.get(item.id) ?? next--;
    idOf.set(item.id, id);
    if (!library.sounds.has(id) || !items.has(id))
      library.sounds.set(id, rowOf(item, { sound: id, root: ROOT }, name.value));
    if (!library.peaks.has(id)) library.peaks.set(id, { ...contourOf(item), id });
    items.set(id, item);
    return id;
  }
  /** Lets go of what is not listed any more, where much was. */
  function forget(): void {
    if (items.size <= REMEMBERED) return;
    const listed = new Set(ids.value);
    for (const [id, item] of items) {
      if (listed.has(id) || audition.sound?.id === id) continue;
      items.delete(id);
      idOf.delete(item.id);
      library.sounds.delete(id);
      library.peaks.delete(id);
    }
  }

  /** Asks anew; what was asked before and is not answered yet is let go of. */
  async function search(): Promise<void> {
    await look();
    asking.abort();
    const { signal } = (asking = new AbortController());
    if (!service) return;
    busy.value = true;
    try {
      if (licences.value.length === 0) await meet();
      if (onlyFree.value && usable.value.length === 0 && licences.value.length > 0) {
        page.value = undefined;
        ids.value = [];
        return;
      }
      const ask = askNow();
      let found = await service.find(ask, 1, signal);
      let by: typeof band.value = 'all';
      answered = ask;
      const instead = async (other: typeof by, looser: OpenAsk): Promise<void> => {
        if (found.total > 0) return;
        const next = await service!.find(looser, 1, signal);
        if (next.total > 0) [found, by, answered] = [next, other, looser];
      };
      if (found.total === 0 && ask.words.length > 0) {
        const near = await catalogue.nearWords(ask.words.flatMap((word) => word.split('|')));
        await instead('meant', widened(ask, near));
        if (ask.words.length > 1) await instead('some', { ...ask, any: true });
      }
      if (signal.aborted) return;
      band.value = by;
      failure.value = '';
      page.value = found;
      ids.value = found.sounds.map(rowFor);
      forget();
      void known(found.sounds);
    } catch (error) {
      if (signal.aborted) return;
      failure.value = (error as Error).message;
      // What was listed is an answer to another question.
      page.value = undefined;
      ids.value = [];
    } finally {
      if (asking.signal === signal) busy.value = false;
    }
  }
  const hasMore = computed(() => page.value !== undefined && page.value.page < page.value.pages);
  /** Fetches the next page of what is listed. */
  async function more(): Promise<void> {
    const before = page.value;
    if (!service || !before || !answered || busy.value || before.page >= before.pages) return;
    const { signal } = asking;
    busy.value = true;
    try {
      const found = await service.find(answered, before.page + 1, signal);
      if (signal.aborted) return;
      page.value = found;
      ids.value = [...new Set([...ids.value, ...found.sounds.map(rowFor)])];
      void known(found.sounds);
    } catch (error) {
      if (!signal.aborted) failure.value = (error as Error).message;
    } finally {
      if (asking.signal === signal) busy.value = false;
    }
  }
  const later = useDebounceFn(search, 200);
  /** While somebody looks, what is asked is answered. */
  const isShown = ref(false);
  watch(
    () => [isShown.value, find.view.text, onlyFree.value, prefs.job, like.value, JSON.stringify(chosen)],
    ([shown]) => shown && void later(),
  );

  // Hearing one
  const currentId = ref<number>();
  const current = computed(() => (currentId.value === undefined ? undefined : items.get(currentId.value)));
  const read = new Set<number>();
  /** Goes to one, and plays it as it comes in. */
  async function choose(id: number, sounding?: boolean): Promise<void> {
    currentId.value = id;
    const { stops } = audition;
    const sound = await readable(id).catch((error: Error) => void tell.error(`It cannot be heard: ${error.message}`));
    if (!sound || currentId.value !== id) return;
    audition.choose(sound, audition.stops === stops && sounding);
  }
  /** The row as its preview really is: what its file says of itself was read. */
  async function readable(id: number): Promise<Sound | undefined> {
    const [row, item] = [library.sounds.get(id), items.get(id)];
    if (!row || !item || read.has(id)) return row;
    const { format } = await described(root!, item.preview.href, item.preview.size);
    const anchor = Math.min(format.frames - 1, Math.round((item.anchor * format.rate) / item.rate));
    const sound: Sound = { ...row, format, marks: { anchor } };
    library.sounds.set(id, sound);
    read.add(id);
    return sound;
  }
  async function described(from: RootRecord, path: string, size: number): Promise<Omit<Sound, 'id'>> {
    const found = { path, size, modified: 0, rootId: from.id, rootName: from.name, intakeId: 0, now: Date.now() };
    const [result] = await fileReader().read({ ...from }, [found]);
    if ('reason' in result) throw new Error(result.reason);
    return result.sound;
  }

  // Fetching one
  /** Sounds of the library that came from here, by what they are there. */
  const fetched = shallowReactive(new Map<string, number>());
  /** Finds those that are in the library already. */
  async function known(list: readonly OpenSound[]): Promise<void> {
    for (const { id, page } of list) {
      const found = await catalogue.ids(searchOf({ ...wide(), text: `page:"${page}"` }));
      const [own] = (await library.need([...found.slice(0, 20)])).filter((s) => s.fields.page === page);
      if (own) fetched.set(id, own.id);
      else fetched.delete(id);
    }
  }
  // While sounds come in, the library changes many times a second.
  const seeAgain = useDebounceFn(() => known(ids.value.flatMap((id) => items.get(id) ?? [])), 400);
  watch(
    () => library.revision,
    () => isShown.value && page.value && void seeAgain(),
  );

  /** What is being fetched, and how much of it is here. */
  const fetching = ref<{ id: string; title: string; share: number }>();
  let fetches = new AbortController();
  const cancel = () => fetches.abort();

  /** Fetches a file of a sound into the library, checked by its sum, and labelled; one that is there already is not fetched again. */
  async function fetch(item: OpenSound, which: Fetched): Promise<Sound | undefined> {
    if (fetching.value) return void tell.info(`${fetching.value.title} is being fetched; wait for it, or cancel it`);
    fetches = new AbortController();
    const { signal } = fetches;
    fetching.value = { id: item.id, title: item.title, share: 0 };
    try {
      await known([item]);
      const own = fetched.get(item.id);
      if (own !== undefined) {
        tell.info(`${item.title} is in the library already`);
        return (await library.need([own]))[0];
      }
      const into = await place.rootFor();
      if (typeof into === 'string') throw new Error(into);
      const told = (share: number) => fetching.value && (fetching.value = { ...fetching.value, share });
      const blob = await service!.fetch(item[which], told, signal);
      return await keep(item, which, blob, into);
    } catch (error) {
      if (signal.aborted) tell.info(`${item.title} was not fetched`);
      else tell.error(`${item.title} was not fetched: ${(error as Error).message}`);
      return undefined;
    } finally {
      fetching.value = undefined;
    }
  }
  async function keep(item: OpenSound, which: Fetched, blob: Blob, into: RootRecord): Promise<Sound | undefined> {
    const { name: called, ending } = keptAs(item, item[which]);
    const path = await place.freePath(into, called, new Set(), ending);
    const file = new File([blob], item[which].name);
    const from: RootRecord = { id: 0, name: name.value, kind: 'picked', files: [file], added: 0 };
    const { format, artwork } = await described(from, file.name, file.size);
    const anchor = Math.min(format.frames - 1, Math.round((item.anchor * format.rate) / item.rate));
    const lies = { rootId: into.id, rootName: into.name, path, size: blob.size, format, anchor, now: Date.now() };
    const part = { ...soundMade(labelsOfOpen(item, name.value), lies, {}), ...(artwork ? { artwork } : {}) };
    const [id] = await catalogue.newIds('sounds', 1);
    const plain = JSON.parse(JSON.stringify(part)) as typeof part;
    const written = await makeFiles([{ id, part: plain, path, rendered: blob }], into.id, `Fetch ${item.title}`, []);
    if (written.written === 0) throw new Error(written.failed[0]?.reason ?? written.stopped ?? 'it was not written');
    fetched.set(item.id, id);
    void intake.measure([id]);
    tell.done(`${item.title} is in the library now, as ${into.name}/${path}`);
    return (await library.need([id]))[0];
  }

  return {
    ...{ name, all, waiting, look, onlyFree, usable, chosen, like, against, asked },
    ...{ page, ids, items, band, busy, failure, search, more, hasMore, isShown },
    ...{ currentId, current, choose, fetched, fetching, fetch, cancel },
  };
});
