import { changeOf, TRAY, type Folder, type Pull, additionOf } from '@core/library';
import { checkedFile, validators, type PullFile } from '@core/schemas';
import { defineStore } from 'pinia';
import { computed } from 'vue';
import { things } from '../shared/controls/format';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { catalogue } from './workers';

/** What two lists have in common, and what only one of them has. */
export interface Comparison {
  onlyFirst: number[];
  both: number[];
  onlySecond: number[];
}

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** Lists of sounds: pulls in their folders, and folders of roots that stand among them. */
export const usePulls = defineStore('pulls', () => {
  const library = useLibrary();
  const all = computed(() => library.pulls.filter((p) => p.id !== TRAY));
  /** Folders of lists, those around them included. */
  const shelves = computed(() => {
    const paths = all.value.flatMap(({ shelf }) => {
      const parts = shelf?.split('/') ?? [];
      return parts.map((_, i) => parts.slice(0, i + 1).join('/'));
    });
    return [...new Set(paths)].sort((a, b) => a.localeCompare(b));
  });
  const byId = (id: number | undefined) => library.pulls.find((p) => p.id === id);

  async function make(label: string, pull: Omit<Pull, 'id' | 'created'>): Promise<number> {
    const [id] = await catalogue.newIds('pulls', 1);
    const record: Pull = { id, created: Date.now(), ...plain(pull) };
    await library.edit(label, [additionOf('pulls', record)]);
    return id;
  }

  /** Keeps what the tray holds as a pull, or begins an empty one. The tray stays as it is. */
  const keepTray = (name: string) =>
    make(`Keep the tray as ${name}`, { name, soundIds: [...(library.tray?.soundIds ?? [])] });

  /** Keeps a folder of a root among the pulls: it lists whatever lies in it. */
  const keepFolder = (name: string, live: Folder) =>
    make(`Keep the folder ${name}`, { name, soundIds: [], live: { rootId: live.rootId, folder: live.folder } });

  const rename = (pull: Pull, name: string) => library.patch(`Rename ${pull.name} to ${name}`, 'pulls', pull, { name });

  /** Puts a pull into a folder of lists, `/` between folders; to the top without one. */
  function move(pull: Pull, shelf: string): Promise<boolean> {
    const path = shelf
      .split('/')
      .map((part) => part.trim())
      .filter(Boolean)
      .join('/');
    return library.patch(`Move ${pull.name}`, 'pulls', pull, { shelf: path || undefined });
  }

  /** The sounds of a pull now, also of one that is a folder. */
  const idsOf = async (pull: Pull): Promise<number[]> =>
    pull.live ? [...(await catalogue.ids({ text: '', pullId: pull.id }))] : [...pull.soundIds];

  async function duplicate(pull: Pull): Promise<void> {
    const { name, shelf, live, notes } = pull;
    await make(`Duplicate ${name}`, { name: `${name} (copy)`, shelf, live, notes, soundIds: [...pull.soundIds] });
  }

  /** Adds the sounds and notes of a pull to another, behind what is there. */
  async function merge(from: Pull, into: Pull): Promise<void> {
    const soundIds = [...new Set([...into.soundIds, ...(await idsOf(from))])];
    const notes = { ...from.notes, ...into.notes };
    const change = changeOf('pulls', into, { soundIds, ...(Object.keys(notes).length > 0 ? { notes } : {}) });
    if (!change) return tell.info(`${into.name} has all of ${from.name} already`);
    const label = `Add ${from.name} to ${into.name}`;
    if (await library.edit(label, [change]))
      tell.done(`${things(soundIds.length - into.soundIds.length, 'sound')} of ${from.name} added to ${into.name}`);
  }

  /** Compares two pulls, each in its own order. */
  async function compare(a: Pull, b: Pull): Promise<Comparison> {
    const [first, second] = [await idsOf(a), await idsOf(b)];
    const [inFirst, inSecond] = [new Set(first), new Set(second)];
    return {
      onlyFirst: first.filter((id) => !inSecond.has(id)),
      both: first.filter((id) => inSecond.has(id)),
      onlySecond: second.filter((id) => !inFirst.has(id)),
    };
  }

  /** Notes something on a member; nothing when empty. */
  function note(pull: Pull, soundId: number, text: string): Promise<boolean> {
    const notes: Record<number, string> = { ...pull.notes };
    if (text.trim()) notes[soundId] = text.trim();
    else delete notes[soundId];
    return library.patch(`Note in ${pull.name}`, 'pulls', pull, {
      notes: Object.keys(notes).length > 0 ? notes : undefined,
    });
  }

  /** Moves members before another one, or to the end. */
  function place(pull: Pull, ids: readonly number[], before: number | undefined): Promise<boolean> {
    const moved = new Set(ids);
    const rest = pull.soundIds.filter((id) => !moved.has(id));
    const at = before === undefined ? -1 : rest.indexOf(before);
    rest.splice(at < 0 ? rest.length : at, 0, ...pull.soundIds.filter((id) => moved.has(id)));
    return library.setPull(pull, rest, `Reorder ${pull.name}`);
  }

  async function saveFile(pull: Pull): Promise<void> {
    const rootName = (id: number) => library.rootById.get(id)?.name ?? '';
    const sounds = await library.need(pull.soundIds);
    const file: PullFile = {
      format: 'cormorant-pull',
      version: 1,
      name: pull.name,
      ...(pull.shelf ? { shelf: pull.shelf } : {}),
      ...(pull.live ? { live: { root: rootName(pull.live.rootId), folder: pull.live.folder } } : {}),
      sounds: sounds.map(({ id, rootId, path, excerpt, hash }) => ({
        root: rootName(rootId),
        path,
        ...(excerpt ? { part: { ...excerpt } } : {}),
        ...(hash ? { hash } : {}),
        ...(pull.notes?.[id] ? { note: pull.notes[id] } : {}),
      })),
    };
    save(JSON.stringify(file, null, 2), 'application/json', `${pull.name}.pull.json`);
  }

  /** Reads a pull file. Sounds that are not in the library are told and left out. @returns the pull's id */
  async function readFile(file: File): Promise<number | undefined> {
    try {
      const read = checkedFile<PullFile>(await file.text(), validators.pullFile, file.name);
      const root = read.live && library.roots.find((r) => r.name === read.live!.root);
      if (read.live && !root)
        throw new Error(`${file.name} is the folder ${read.live.root}/${read.live.folder}; add that root first.`);
      const found = await catalogue.idsOfPlaces(read.sounds);
      const notes: Record<number, string> = {};
      read.sounds.forEach((s, i) => {
        if (found[i] !== undefined && s.note) notes[found[i]] = s.note;
      });
      const soundIds = [...new Set(found.filter((id) => id !== undefined))];
      const live = read.live && root && { rootId: root.id, folder: read.live.folder };
      const id = await make(`Read the pull ${read.name}`, {
        ...{ name: read.name, shelf: read.shelf, live, soundIds },
        notes: Object.keys(notes).length > 0 ? notes : undefined,
      });
      const lost = read.sounds.filter((_, i) => found[i] === undefined);
      if (lost.length === 0) tell.done(`Read ${read.name}, ${things(soundIds.length, 'sound')}`);
      else
        tell.error(
          `${things(lost.length, 'sound')} of ${read.name} ${lost.length === 1 ? 'is' : 'are'} not in this library, such as ${lost[0].root}/${lost[0].path}. Add the root and read the file again.`,
        );
      return id;
    } catch (error) {
      tell.error((error as Error).message);
      return undefined;
    }
  }

  /** Adds dropped or chosen sounds to a pull. */
  function add(pull: Pull, ids: readonly number[]): Promise<boolean> {
    if (pull.live) {
      tell.error(`${pull.name} is a folder on disk; put sounds into a pull instead.`);
      return Promise.resolve(false);
    }
    return library.addToPull(pull, ids, `Add to ${pull.name}`);
  }

  const remove = (pull: Pull) => library.discard('pulls', pull);

  return {
    all,
    shelves,
    byId,
    keepTray,
    keepFolder,
    rename,
    move,
    idsOf,
    duplicate,
    merge,
    compare,
    note,
    place,
    saveFile,
    readFile,
    add,
    remove,
    make,
  };
});
