import type { Change } from '@core/library';
import type { Cue, Scene } from '@core/scene';
import { tell } from '../shell/notice';
import { useAudition } from './audition';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

// What is done with scenes as wholes. It is no step within a scene: the library takes it back.

/** Works on another scene from now on. */
export async function openScene(id: number): Promise<void> {
  const scene = useScene();
  const audition = useAudition();
  if (scene.current?.id === id) return;
  if (audition.scenePlaying) audition.transport(false);
  await scene.select(undefined);
  scene.currentId = id;
  audition.transport(false, 0, scene.current?.loop ?? null);
}

/** Makes an empty scene, and opens it. */
export async function newScene(): Promise<void> {
  const scene = useScene();
  const made = await scene.create(freeName('Untitled scene'));
  await openScene(made.id);
}

/** A name that no scene has yet. */
function freeName(name: string): string {
  const taken = new Set(useScene().scenes.map((s) => s.name));
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(free)) return free;
  }
}

/** Copies the scene with its tracks and cues, and opens the copy. */
export async function copyScene(of: Scene): Promise<void> {
  const scene = useScene();
  const tracks = scene.allTracks.filter((t) => t.sceneId === of.id);
  const cues = ((await catalogue.all('cues')) as Cue[]).filter((c) => c.sceneId === of.id);
  const [[id], trackIds, cueIds] = await Promise.all([
    catalogue.newIds('scenes', 1),
    catalogue.newIds('tracks', tracks.length),
    catalogue.newIds('cues', cues.length),
  ]);
  const onto = new Map(tracks.map((t, i) => [t.id, trackIds[i]]));
  const name = freeName(`${of.name}, copy`);
  const changes: Change[] = [
    { table: 'scenes', id, after: { ...of, id, name } },
    ...tracks.map((t, i): Change => ({
      table: 'tracks',
      id: trackIds[i],
      after: { ...t, id: trackIds[i], sceneId: id },
    })),
    ...cues.flatMap((c, i): Change[] => {
      const trackId = onto.get(c.trackId);
      return trackId === undefined
        ? []
        : [{ table: 'cues', id: cueIds[i], after: { ...c, id: cueIds[i], sceneId: id, trackId } }];
    }),
  ];
  if (!(await useLibrary().edit(`Copy ${of.name}`, changes))) return;
  await scene.load();
  await openScene(id);
  tell.done(`${name} is open`);
}

/** Gives the scene another name. */
export async function renameScene(of: Scene, name: string): Promise<void> {
  if (name.trim() !== '' && name !== of.name)
    await useLibrary().patch(`Rename ${of.name}`, 'scenes', of, { name: name.trim() });
}

/** Removes the scene with its tracks and cues; Ctrl Z, outside of Spot as well, brings it back. */
export async function removeScene(of: Scene): Promise<void> {
  const scene = useScene();
  const cues = ((await catalogue.all('cues')) as Cue[]).filter((c) => c.sceneId === of.id);
  const gone = (table: Change['table'], row: { id: number }): Change => ({ table, id: row.id, before: { ...row } });
  const next = scene.scenes.find((s) => s.id !== of.id);
  const changes = [
    ...cues.map((c) => gone('cues', c)),
    ...scene.allTracks.filter((t) => t.sceneId === of.id).map((t) => gone('tracks', t)),
    gone('scenes', of),
  ];
  if (next) await openScene(next.id);
  if (await useLibrary().edit(`Remove the scene ${of.name}`, changes))
    tell.done(`${of.name} is removed. Ctrl Z in Find or Label brings it back`);
  await scene.load();
}
