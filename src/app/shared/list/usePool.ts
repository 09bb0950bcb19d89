import { nameOf, TRAY, type Sound } from '@core/library';
import { searchWords } from '@core/naming';
import { rankAlternates } from '@core/scene';
import type { Search } from '@platform/index';
import { computed, ref, shallowRef, watch } from 'vue';
import { bandTitle } from './bands';
import { useFind } from '../../stores/find';
import { useLibrary } from '../../stores/library';
import { usePulls } from '../../stores/pulls';
import { useScene } from '../../stores/scene';
import { searchOf } from '../../stores/view';
import { catalogue } from '../../stores/workers';

/** As many rows are listed, and as many sounds may stand in for one. */
const [SHOWN, POOL] = [100, 2000];

/** The sounds that Spot offers: those that may stand in for the selected cue, or be placed where none is selected. */
export function usePool() {
  const scene = useScene();
  const library = useLibrary();
  const pulls = usePulls();
  const find = useFind();
  const query = ref('');
  /** `own`: the category of the cue, or the tray; else the whole library, the newest arrival, what Find lists, or `pull 7`. */
  const source = ref('own');
  const list = shallowRef<Sound[]>([]);
  /** What stands above the first sound of a band, by its id. */
  const headings = shallowRef(new Map<number, string>());
  const sources = computed(() => [
    { value: 'own', label: scene.cue ? 'Its category' : 'The tray' },
    { value: 'library', label: 'The whole library' },
    { value: 'find', label: 'What Find lists' },
    { value: 'arrival', label: 'The newest arrival' },
    ...pulls.all.filter((p) => p.id !== TRAY).map((p) => ({ value: `pull ${p.id}`, label: p.name })),
  ]);

  /** What is asked of the catalogue for those that may stand in for a sound; undefined where the answer is none. */
  async function searchFor(own: Sound | undefined, text: string): Promise<Search | undefined> {
    const [kind, id] = source.value.split(' ');
    switch (kind) {
      case 'pull':
        return { text, facets: {}, pullId: Number(id) };
      case 'find': {
        const trail = find.view.trail.map(searchOf);
        const search = searchOf(find.view);
        return text ? { text, facets: {}, inside: [...trail, search] } : { ...search, inside: trail };
      }
      case 'arrival': {
        const intakes = (await catalogue.all('intakes')) as { id: number; added: number }[];
        const newest = intakes.filter((i) => i.added > 0).sort((a, b) => b.id - a.id)[0];
        return newest && { text, facets: {}, intakeId: newest.id };
      }
      case 'library':
        return { text, facets: {} };
      default: {
        // What is typed is looked for everywhere.
        if (text) return { text, facets: {} };
        if (!own) return { text, facets: {}, pullId: TRAY };
        const catId = own.fields.catId as string | undefined;
        if (catId) return { text, facets: { catId: [catId] } };
        // One without a category is known by its name, and where that says nothing, by how it sounds.
        const words = searchWords(nameOf(own)).filter((w) => !/^\d+$/.test(w));
        const named: Search = { text: words.join(' '), facets: {} };
        if (words.length > 0 && (await catalogue.rows(named)).ids.length > 1) return named;
        return { text: '', facets: {}, nearId: own.id };
      }
    }
  }

  let filling: Promise<void> = Promise.resolve();
  watch(
    () => [scene.cue?.id, query.value, source.value, library.revision] as const,
    () => void (filling = fill()),
    { immediate: true },
  );
  watch(
    () => scene.cueId,
    () => (query.value = ''),
  );

  async function fill(): Promise<void> {
    const text = query.value.trim();
    const [{ cue }, from] = [scene, source.value];
    const own = cue && (await library.need([cue.soundId]))[0];
    const search = await searchFor(own, text);
    const { ids, bands } = search ? await catalogue.rows(search) : { ids: new Uint32Array(0), bands: [] };
    const sounds = await library.need([...ids.slice(0, SHOWN)]);
    // What was typed decides its own order; of a whole category the likeliest come first.
    const rest = own && !text ? rankAlternates(own, sounds) : sounds.filter((s) => s.id !== own?.id);
    if (scene.cue?.id !== cue?.id || query.value.trim() !== text || source.value !== from) return;
    list.value = own ? [own, ...rest] : rest;
    const several = /\S\s+\S/.test(text);
    const listed = new Set(rest.map((s) => s.id));
    headings.value = new Map(
      bands.flatMap((band, i) => {
        const first = ids.subarray(band.at, bands[i + 1]?.at).find((id) => listed.has(id));
        return first === undefined ? [] : [[first, bandTitle(band, several)] as const];
      }),
    );
    void library.needPeaks(sounds.map((s) => s.id));
  }

  /** All that may stand in for a sound, by the same query and source. */
  async function poolOf(own: Sound): Promise<readonly Sound[]> {
    const search = await searchFor(own, query.value.trim());
    if (!search) return [];
    const { ids } = await catalogue.rows(search);
    return library.need([...ids.slice(0, POOL)]);
  }

  const nothing = computed(() => {
    if (query.value) return 'Nothing matches.';
    if (source.value !== 'own') return 'There is nothing in it.';
    return scene.cue
      ? 'No other sound has its category; type a query.'
      : 'The tray is empty: type a query, or hold sounds in Find.';
  });
  return { query, source, sources, list, headings, poolOf, nothing, settled: () => filling };
}
