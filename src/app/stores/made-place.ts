import { additionOf } from '@core/library';
import { nameFaults } from '@core/naming';
import { whyNotWritten, type RootRecord } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed } from 'vue';
import { useLibrary } from './library';
import { catalogue } from './workers';

/** What sounds are kept in that have no folder of their own. */
const OWN = 'Built sounds';

/** Where the files of sounds go that are made here: asked for once. */
export const useMadePlace = defineStore('made-place', () => {
  const library = useLibrary();
  /** A root and a folder of it: 0 for the browser's own storage. */
  const target = useLocalStorage('build-target', { rootId: 0, folder: 'Built' });

  const places = computed(() => [
    ...library.folders.map((r) => ({ value: r.id, label: r.name, title: r.name })),
    { value: 0, label: 'the browser’s own storage', title: 'the browser’s own storage' },
  ]);
  const isHere = computed(() => places.value.some((p) => p.value === target.value.rootId));
  const folders = computed(() =>
    target.value.rootId === 0
      ? []
      : target.value.folder
          .split('/')
          .map((f) => f.trim())
          .filter(Boolean),
  );
  const partsOf = (name: string, ending: string) => [...folders.value, `${name}.${ending}`];
  const pathOf = (name: string, ending = 'wav') => partsOf(name, ending).join('/');
  /** Why nothing can be written there under a name; none where it can. */
  const faultsOf = (name: string) => [
    ...(name === '' ? ['A name is needed.'] : partsOf(name, 'wav').flatMap((part) => nameFaults(part))),
    ...(isHere.value ? [] : ['Choose where it goes.']),
  ];

  /** The root that sounds go to, or why there is none; the browser's own is made when it is first needed. */
  async function rootFor(): Promise<RootRecord | string> {
    const { rootId } = target.value;
    if (rootId !== 0) {
      const root = library.roots.find((r) => r.id === rootId);
      if (!root) return 'choose where it goes';
      return (await whyNotWritten(root, 'asking').catch((e: Error) => e.message)) ?? root;
    }
    const own = library.roots.find((r) => r.kind === 'copied' && r.name === OWN && !r.removed);
    if (own) return own;
    const [id] = await catalogue.newIds('roots', 1);
    const root: RootRecord = { id, name: OWN, kind: 'copied', added: Date.now() };
    return (await library.edit(`Add ${OWN}`, [additionOf('roots', root)], false)) ? root : 'there is no room for it';
  }

  /** A path that no sound of that place has yet. @param taken those of files that are made with it; this one joins them */
  async function freePath(root: RootRecord, name: string, taken: Set<string>, ending?: string): Promise<string> {
    for (let n = 1; ; n++) {
      const path = pathOf(n === 1 ? name : `${name} ${n}`, ending);
      const [known] = await catalogue.idsOfPlaces([{ root: root.name, path }]);
      if (known !== undefined || taken.has(path.toLowerCase())) continue;
      taken.add(path.toLowerCase());
      return path;
    }
  }

  return { target, places, pathOf, faultsOf, rootFor, freePath };
});
