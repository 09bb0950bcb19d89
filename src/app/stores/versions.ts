import { MAIN } from '@core/engine';
import { changeOf, additionOf, removalOf } from '@core/library';
import { changesTo, type Cue, type Difference, type Version } from '@core/scene';
import { tell } from '../shell/notice';
import { useScene } from './scene';
import { catalogue } from './workers';

// States of a scene that were kept under a name.

/** A name that no version of the scene has yet. */
export function nextName(): string {
  const taken = new Set(useScene().versions.map((v) => v.name));
  for (let n = 1; ; n++) if (!taken.has(`Version ${n}`)) return `Version ${n}`;
}

/** Keeps the scene as it is. */
export async function keepVersion(name: string): Promise<void> {
  const scene = useScene();
  if (!scene.current || scene.isHeld()) return;
  const [id] = await catalogue.newIds('versions', 1);
  const version: Version = {
    id,
    sceneId: scene.current.id,
    name,
    at: Date.now(),
    ...structuredClone({ ...scene.state }),
  };
  if (await scene.edit(`Keep ${name}`, [additionOf('versions', version)])) tell.done(`${name} is kept`);
}

/** Makes the scene what it was in a version; one step to take back. */
export async function returnTo(version: Version): Promise<void> {
  const scene = useScene();
  if (!scene.current) return;
  scene.comparingId = undefined;
  scene.select(undefined);
  const changes = changesTo(scene.current, scene.state, version);
  if (changes.length === 0) return tell.info(`The scene is as ${version.name} already`);
  if (await scene.edit(`Return to ${version.name}`, changes)) tell.done(`The scene is as in ${version.name}`);
}

/** Sees and hears a version in place of the scene, from the same instant on; or the scene again. */
export function compare(version: Version | undefined): void {
  const scene = useScene();
  scene.select(undefined);
  scene.comparingId = version?.id;
}

/** Takes one thing over from a version: what it was there, it is now. */
export async function takeOver(version: Version, difference: Difference): Promise<void> {
  const scene = useScene();
  if (!scene.current) return;
  const only = <T extends { id: number }>(now: readonly T[], then: readonly T[], of: Difference['of']): T[] => {
    if (difference.of !== of) return [...now];
    const one = then.find((r) => r.id === difference.id);
    const rest = now.filter((r) => r.id !== difference.id);
    return one ? [...rest, one] : rest;
  };
  const { state } = scene;
  const cues = only(state.cues, version.cues, 'cue');
  // A cue brings the track along on which it stands there, and a track that goes takes its cues.
  const brought = cues.find((c) => c.id === difference.id);
  let tracks = only(state.tracks, version.tracks, 'track');
  const missing = brought && !tracks.some((t) => t.id === brought.trackId);
  if (missing) tracks = [...tracks, ...version.tracks.filter((t) => t.id === brought.trackId)];
  const known = new Set(tracks.map((t) => t.id));
  const then = {
    ...state,
    tracks,
    cues: cues.filter((c: Cue) => known.has(c.trackId)),
    markers: only(state.markers, version.markers, 'marker'),
    effects: only(state.effects ?? [], version.effects ?? [], 'effect').filter(
      (e) => e.lineId === MAIN || known.has(e.lineId),
    ),
  };
  scene.comparingId = undefined;
  await scene.edit(`Take ${difference.name} from ${version.name}`, changesTo(scene.current, state, then));
}

export async function renameVersion(version: Version, name: string): Promise<void> {
  const scene = useScene();
  if (name.trim() === '' || name === version.name) return;
  await scene.edit(`Rename ${version.name}`, [changeOf('versions', version, { name: name.trim() })]);
}

export async function removeVersion(version: Version): Promise<void> {
  const scene = useScene();
  if (scene.comparing?.id === version.id) scene.comparingId = undefined;
  await scene.edit(`Remove ${version.name}`, [removalOf('versions', version)]);
}
