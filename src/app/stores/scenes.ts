import {
  carriedOver,
  idsIn,
  madeOf,
  sceneParts,
  type OtherIds,
  type Scene,
  type ScenePart,
  type SceneRows,
} from '@core/scene';
import { tell } from '../shell/notice';
import { useTransport } from './transport';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

// What is done with scenes as wholes. It is no step within a scene: the library takes it back.

/** Works on another scene, or another build, from now on. */
export async function openScene(id: number): Promise<void> {
  const scene = useScene();
  const transport = useTransport();
  if (scene.current?.id === id) return;
  if (transport.playing) transport.stop();
  await scene.select(undefined);
  if (scene.builds.some((b) => b.id === id)) scene.buildId = id;
  else scene.currentId = id;
  transport.run(false, scene.current?.build?.anchor ?? 0, scene.current?.loop ?? null);
}

/** Makes an empty scene, and opens it. */
export async function newScene(): Promise<void> {
  const scene = useScene();
  const made = await scene.create(freeName('Untitled scene'));
  await openScene(made.id);
}

/** A name that no scene has yet, or no build where that is asked for. */
export function freeName(name: string, of: 'scenes' | 'builds' = 'scenes'): string {
  const taken = new Set(useScene()[of].map((s) => s.name));
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(free)) return free;
  }
}

/** A scene with all that it is made of, as it is kept. */
export async function rowsOf(scene: Scene): Promise<SceneRows> {
  const all = await Promise.all(sceneParts.map((table) => catalogue.all(table)));
  const own = all.map((rows) => (rows as { sceneId: number }[]).filter((r) => r.sceneId === scene.id));
  return { scene, ...Object.fromEntries(sceneParts.map((table, i) => [table, own[i]])) } as unknown as SceneRows;
}

/** Fresh ids for all rows of a scene. */
export async function freshIds(rows: SceneRows): Promise<OtherIds> {
  const [scene] = await catalogue.newIds('scenes', 1);
  const old = idsIn(rows);
  const maps = await Promise.all(
    sceneParts.map(async (table) => {
      const fresh = await catalogue.newIds(table, old[table].length);
      return [table, new Map(old[table].map((was, i) => [was, fresh[i]]))] as const;
    }),
  );
  return { scene, ...(Object.fromEntries(maps) as Record<ScenePart, Map<number, number>>) };
}

/** Copies the scene with all that it is made of, its versions too, and opens the copy. */
export async function copyScene(of: Scene): Promise<void> {
  const name = freeName(`${of.name}, copy`, of.build ? 'builds' : 'scenes');
  const rows = await rowsOf({ ...of, name });
  const ids = await freshIds(rows);
  if (!(await useLibrary().edit(`Copy ${of.name}`, madeOf(carriedOver(rows, ids))))) return;
  await useScene().load();
  await openScene(ids.scene);
  tell.done(`${name} is open`);
}

/** Gives the scene another name. */
export async function renameScene(of: Scene, name: string): Promise<void> {
  if (name.trim() !== '' && name !== of.name)
    await useLibrary().patch(`Rename ${of.name}`, 'scenes', of, { name: name.trim() });
}

/** Puts the scene with all that it is made of into the bin. */
export async function removeScene(of: Scene): Promise<void> {
  const scene = useScene();
  const own = await rowsOf(of);
  const next = (of.build ? scene.builds : scene.scenes).find((s) => s.id !== of.id);
  const rows = sceneParts.flatMap((table) => own[table].map((record) => ({ table, record: { ...record } })));
  if (next) await openScene(next.id);
  if (await useLibrary().discard('scenes', { ...of }, [], { rows }))
    tell.done(`${of.name} is in the bin, under History and backup in Label`);
  await scene.load();
}
