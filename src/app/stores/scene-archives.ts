import { additionOf } from '@core/library';
import type { Change, Pull, Tag } from '@core/library';
import {
  carriedOver,
  isSameSound,
  madeOf,
  pictureKey,
  SCENES,
  sceneFileOf,
  soundIn,
  soundsOfFile,
  type PictureRef,
  type SceneFile,
  type SceneRows,
} from '@core/scene';
import {
  dropCopies,
  sizeOf,
  startListReader,
  startMixer,
  type ArchivedFile,
  type RootRecord,
  type SceneArchive,
  type ToArchive,
  type Unpacked,
} from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { things } from '../shared/controls/format';
import { saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { usePulls } from './pulls';
import { useScene } from './scene';
import { freeName, freshIds, openScene, rowsOf } from './scenes';
import { catalogue } from './workers';

const plain = <T>(value: T): T => JSON.parse(JSON.stringify(value)) as T;

/** How much of their sounds and pictures goes with scenes. */
export type WithMedia = 'none' | 'sounds' | 'all';

/** What of a scene file is here already, and what is not. */
interface Matched {
  /** Ids here of sounds there. */
  sounds: Map<number, number>;
  /** Where pictures lie here, by what tells them from others there. */
  pictures: Map<string, number>;
}

/** Scenes as files of their own: written with or without what they play, and opened again, here or elsewhere. */
export const useSceneArchives = defineStore('sceneArchives', () => {
  const library = useLibrary();
  const scene = useScene();
  const pulls = usePulls();
  const intake = useIntake();

  // Out
  /** Share that is packed; undefined while nothing is. */
  const packing = shallowRef<number>();
  let stopPacking = () => undefined as void;

  async function goodsOf(rows: readonly SceneRows[]) {
    const named = new Set(
      rows.flatMap((r) => (r.scene.pads ?? []).flatMap((p) => (p.source.by === 'pull' ? p.source.pullId : []))),
    );
    const own = library.pulls.filter((p) => named.has(p.id));
    const kept = await Promise.all(own.map(async (p) => ({ id: p.id, name: p.name, soundIds: await pulls.idsOf(p) })));
    const sounds = await library.needOrigins([...soundsOfFile(rows, kept)]);
    const pictures = new Map<string, number>();
    for (const { scene: of } of rows) {
      const root = of.picture && library.rootById.get(of.picture.rootId);
      const size = root && of.picture && (await sizeOf(root, of.picture.path).catch(() => undefined));
      if (of.picture && size !== undefined) pictures.set(pictureKey(of.picture), size);
    }
    const roots = new Map(library.roots.map((r) => [r.id, r.name]));
    return { sounds, roots, tags: new Map(library.tags.map((t) => [t.id, t.name])), pulls: kept, pictures };
  }

  /** Saves scenes as one file. */
  async function save(scenes: 'this' | 'all', withMedia: WithMedia): Promise<void> {
    const of = scene.current;
    if (!of || packing.value !== undefined) return;
    packing.value = 0;
    const { mixer, end } = startMixer();
    const stopped = new Promise<undefined>((done) => (stopPacking = () => done(undefined)));
    try {
      const rows = await Promise.all((scenes === 'this' ? [of] : scene.scenes).map(rowsOf));
      const goods = await goodsOf(rows);
      const what = { sounds: withMedia !== 'none', pictures: withMedia === 'all' };
      const file = plain(sceneFileOf(rows, goods, what, new Date()));
      const wanted: (ToArchive | undefined)[] = [
        ...file.sounds.map(({ sound, media }) => ofRoot(sound.rootId, sound.path, sound.size, media)),
        ...file.pictures.map(({ rootId, path, size, media }) => ofRoot(rootId, path, size, media)),
      ];
      // Excerpts of one file need it once.
      const files = [...new Map(wanted.flatMap((f) => (f ? [[f.media, f] as const] : []))).values()];
      const told = proxy((share: number) => void (packing.value = share));
      const made = await Promise.race([mixer.scenes(JSON.stringify(file), files, told), stopped]);
      if (!made) return tell.info('The scene file was cancelled; nothing was saved');
      const more = rows.length - 1;
      const name = of.name + (more > 0 ? ` and ${more} more` : '');
      saveBlob(made.zip, `${name}${SCENES.ending}`);
      tell.done(
        `${things(rows.length, 'scene')} saved with ${made.files === 0 ? 'no files: sounds are found by place and audio' : things(made.files, 'file')}`,
      );
      for (const { name: lost, reason } of made.missing) tell.error(`${lost} is not in the scene file: ${reason}`);
    } catch (error) {
      tell.error(`The scene file could not be made: ${(error as Error).message}`);
    } finally {
      end();
      packing.value = undefined;
    }
  }
  function ofRoot(rootId: number, path: string, size: number, media?: string): ToArchive | undefined {
    const root = library.rootById.get(rootId);
    return root && media !== undefined ? { root: { ...root }, path, size, media } : undefined;
  }

  // In
  const file = shallowRef<File>();
  const held = shallowRef<SceneArchive>();
  const matched = shallowRef<Matched>();
  const failure = shallowRef('');
  /** Share that is unpacked; undefined while nothing is. */
  const unpacking = shallowRef<number>();
  let reader: ReturnType<typeof startListReader> | undefined;
  /** Rises with each file that is looked at: what an earlier one holds comes too late. */
  let looking = 0;
  let stopped: Promise<undefined>;
  let stop = () => undefined as void;

  /** Looks what a file holds, and what of it is here; nothing is changed yet. */
  async function look(from: File): Promise<void> {
    close();
    const mine = ++looking;
    file.value = from;
    reader = startListReader();
    stopped = new Promise((done) => (stop = () => done(undefined)));
    try {
      const read = await reader.reader.scenes(from, from.name);
      const own = await match(read.file);
      if (mine !== looking) return;
      held.value = read;
      matched.value = own;
    } catch (error) {
      if (mine === looking) failure.value = (error as Error).message;
    }
  }
  function close(): void {
    looking++;
    reader?.end();
    stop();
    reader = undefined;
    file.value = undefined;
    held.value = undefined;
    matched.value = undefined;
    unpacking.value = undefined;
    failure.value = '';
  }

  async function match({ sounds, roots, pictures }: SceneFile): Promise<Matched> {
    const rootName = new Map(roots.map((r) => [r.id, r.name]));
    const places = sounds.map(({ sound: { rootId, path, excerpt, hash } }) => ({
      root: rootName.get(rootId) ?? '',
      path,
      ...(excerpt ? { part: excerpt } : {}),
      ...(hash ? { hash } : {}),
    }));
    const out: Matched = { sounds: new Map(), pictures: new Map() };
    const look = async (which: readonly number[], byPlace: boolean) => {
      const ids = await catalogue.idsOfPlaces(
        which.map((i) => (byPlace ? places[i] : { ...places[i], root: '', path: '' })),
      );
      const rows = new Map((await library.need(ids.flatMap((id) => id ?? []))).map((s) => [s.id, s]));
      which.forEach((i, n) => {
        const here = ids[n] === undefined ? undefined : rows.get(ids[n]);
        if (here && isSameSound(here, sounds[i].sound)) out.sounds.set(sounds[i].sound.id, here.id);
      });
    };
    await look(
      sounds.map((_, i) => i),
      true,
    );
    // Another sound in its place: it may lie elsewhere.
    await look(
      sounds.flatMap(({ sound }, i) => (out.sounds.has(sound.id) || !sound.hash ? [] : i)),
      false,
    );
    for (const p of pictures)
      for (const root of library.roots) {
        if (root.removed || root.name !== rootName.get(p.rootId)) continue;
        const size = await sizeOf(root, p.path).catch(() => undefined);
        if (size !== undefined && (p.size === 0 || size === p.size)) out.pictures.set(pictureKey(p), root.id);
      }
    return out;
  }

  /** What of the file's sounds and pictures is here, comes with it, and is nowhere. */
  const fate = computed(() => {
    const [read, own] = [held.value, matched.value];
    if (!read || !own) return undefined;
    const { sounds, pictures } = read.file;
    const comes = ({ media }: { media?: string }) => media !== undefined && read.media.has(media);
    const lost = sounds.filter((s) => !own.sounds.has(s.sound.id));
    const shown = pictures.filter((p) => !own.pictures.has(pictureKey(p)));
    return {
      here: sounds.length - lost.length,
      comes: lost.filter(comes),
      nowhere: lost.filter((s) => !comes(s)),
      pictures: {
        here: pictures.length - shown.length,
        comes: shown.filter(comes),
        nowhere: shown.filter((p) => !comes(p)),
      },
    };
  });

  /** A new root for each one of the file's that something has to come into, by the id that it has there. */
  async function newRoots(read: SceneFile, needed: ReadonlySet<number>): Promise<Map<number, RootRecord>> {
    const taken = new Set(library.roots.map((r) => r.name));
    const ids = await catalogue.newIds('roots', needed.size);
    return new Map(
      [...needed].map((id, i): [number, RootRecord] => {
        const name = read.roots.find((r) => r.id === id)?.name || 'Sounds';
        const own = taken.has(name) ? `${name} (${read.scenes[0]?.scene.name ?? 'scene'})` : name;
        taken.add(own);
        return [id, { id: ids[i], name: own, kind: 'copied', added: Date.now() }];
      }),
    );
  }

  /** Opens the scenes of the file: unpacks what is not here, and makes the scenes, which is one step. */
  async function take(): Promise<void> {
    const [from, read, own, of, worker] = [file.value, held.value, matched.value, fate.value, reader];
    if (!from || !read || !own || !of || !worker || unpacking.value !== undefined) return;
    const mine = looking;
    unpacking.value = 0;
    const comes = [...of.comes, ...of.pictures.comes];
    const rootIdOf = (p: (typeof comes)[number]) => ('sound' in p ? p.sound.rootId : p.rootId);
    const roots = await newRoots(read.file, new Set([...comes, ...of.nowhere].map(rootIdOf)));
    let isMade = false;
    try {
      // Files
      const written = new Map<string, Unpacked>();
      const inRoot = (media: string) => media.slice(media.indexOf('/') + 1);
      for (const [id, root] of roots) {
        const wanted = new Map(
          comes.flatMap((p): [string, ArchivedFile][] =>
            rootIdOf(p) === id
              ? [[p.media!, { media: p.media!, path: inRoot(p.media!), size: read.media.get(p.media!)! }]]
              : [],
          ),
        );
        if (wanted.size === 0) continue;
        const told = proxy((share: number) => {
          if (mine === looking) unpacking.value = share;
        });
        const unpacked = await Promise.race([
          worker.reader.unpack({ id: root.id }, from, [...wanted.values()], told),
          stopped,
        ]);
        if (!unpacked) return tell.info(`${from.name} was not opened; nothing was changed`);
        for (const one of unpacked) written.set(one.media, one);
      }
      if (mine !== looking) return;

      // Sounds
      const changes: Change[] = [];
      const row = (table: Change['table'], record: { id: number }) => changes.push(additionOf(table, record));
      const started = Date.now();
      const lost = [...of.comes, ...of.nowhere];
      const tagIds = await tagsNamed(
        lost.flatMap((s) => s.tags),
        row,
      );
      const soundIds = new Map(own.sounds);
      const ids = await catalogue.newIds('sounds', lost.length);
      const intakes = await catalogue.newIds('intakes', roots.size);
      [...roots].forEach(([id, root], i) => {
        row('roots', root);
        const added = lost.filter((s) => s.sound.rootId === id).length;
        if (added > 0) row('intakes', { id: intakes[i], rootId: root.id, started, added } as { id: number });
      });
      const rootOrder = [...roots.keys()];
      lost.forEach(({ sound }, i) => soundIds.set(sound.id, ids[i]));
      lost.forEach(({ sound, tags, media }, i) => {
        const file = media === undefined ? undefined : written.get(media);
        const there =
          file?.modified === undefined ? undefined : { path: file.path, size: file.size, modified: file.modified };
        const own = tags.flatMap((t) => tagIds.get(t.toLowerCase()) ?? []);
        const rootId = roots.get(sound.rootId)!.id;
        const intakeId = intakes[rootOrder.indexOf(sound.rootId)];
        row('sounds', soundIn(sound, { id: ids[i], rootId, intakeId, tags: own }, there, soundIds));
      });
      if (changes.length > 0 && !(await library.edit(`Sounds of ${from.name}`, changes, false))) return;
      isMade = true;

      // Scenes
      const steps: Change[] = [];
      const pullIds = new Map<number, number>();
      for (const p of read.file.pulls) pullIds.set(p.id, await pullOf(p, soundIds, steps));
      const taken = new Set<string>();
      let first: number | undefined;
      const noRoot = (await catalogue.newIds('roots', 1))[0];
      for (const rows of read.file.scenes) {
        const ids = await freshIds(rows);
        first ??= ids.scene;
        const made = carriedOver(rows, { ...ids, sounds: soundIds, pulls: pullIds }, placeOf(rows.scene.picture));
        let name = freeName(made.scene.name);
        for (let n = 2; taken.has(name); n++) name = freeName(`${made.scene.name} ${n}`);
        taken.add(name);
        steps.push(...madeOf({ ...made, scene: { ...made.scene, name } }));
      }
      function placeOf(picture: PictureRef | undefined): PictureRef | undefined {
        if (!picture) return undefined;
        const key = pictureKey(picture);
        const here = own!.pictures.get(key);
        if (here !== undefined) return { ...picture, rootId: here };
        const told = of!.pictures.comes.find((p) => pictureKey(p) === key);
        const file = told?.media === undefined ? undefined : written.get(told.media);
        // In a folder that is none here, it is asked for again.
        if (!file || file.reason !== undefined) return { ...picture, rootId: noRoot };
        return { ...picture, rootId: roots.get(picture.rootId)!.id, path: file.path };
      }
      if (!(await library.edit(`Open ${from.name}`, plain(steps)))) return;
      await scene.load();
      for (const root of roots.values()) void intake.scan(root);
      if (first !== undefined) await openScene(first);
      const failed = [...written.values()].filter((w) => w.reason !== undefined);
      tell.done(`${things(read.file.scenes.length, 'scene')} opened from ${from.name}`);
      for (const { path, reason } of failed.slice(0, 5))
        tell.error(`${path} of ${from.name} was not unpacked: ${reason}`);
      if (failed.length > 5)
        tell.error(`${things(failed.length - 5, 'further file')} of ${from.name} could not be unpacked`);
      close();
    } catch (error) {
      if (mine === looking) failure.value = (error as Error).message;
    } finally {
      // What was unpacked for nothing is thrown away.
      if (!isMade) for (const root of roots.values()) await dropCopies(root);
      if (mine === looking) unpacking.value = undefined;
    }
  }

  /** Ids of tags by their names in small letters; those that are not here are made. */
  async function tagsNamed(
    names: readonly string[],
    row: (table: Change['table'], record: Tag) => void,
  ): Promise<Map<string, number>> {
    const byName = new Map(library.tags.map((t) => [t.name.toLowerCase(), t.id]));
    const fresh = new Map(names.filter((n) => n && !byName.has(n.toLowerCase())).map((n) => [n.toLowerCase(), n]));
    const ids = await catalogue.newIds('tags', fresh.size);
    [...fresh].forEach(([key, name], i) => {
      byName.set(key, ids[i]);
      row('tags', { id: ids[i], name });
    });
    return byName;
  }

  /** The pull of that name with those sounds, or a new one. */
  async function pullOf(
    of: SceneFile['pulls'][number],
    sounds: ReadonlyMap<number, number>,
    steps: Change[],
  ): Promise<number> {
    const soundIds = of.soundIds.flatMap((id) => sounds.get(id) ?? []);
    const same = pulls.all.find((p) => p.name === of.name && p.soundIds.join() === soundIds.join());
    if (same) return same.id;
    const [id] = await catalogue.newIds('pulls', 1);
    const pull: Pull = { id, name: of.name || 'Pull', soundIds, created: Date.now() };
    steps.push(additionOf('pulls', pull));
    return id;
  }

  return { packing, save, stopPacking: () => stopPacking(), file, held, fate, failure, unpacking, look, take, close };
});
