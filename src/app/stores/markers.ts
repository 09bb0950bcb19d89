import { type Patch, additionOf, removalOf } from '@core/library';
import { nextMarker, type Marker } from '@core/scene';
import { tell } from '../shell/notice';
import { useTransport } from './transport';
import { useScene } from './scene';
import { catalogue } from './workers';

// Instants that somebody named.

/** Each begins where the one before it has ended: a key pressed quickly means what the last one left. */
let turn: Promise<unknown> = Promise.resolve();
function inTurn(task: () => Promise<void> | void): Promise<void> {
  const done = turn.then(task);
  turn = done.catch(() => undefined);
  return done;
}

/** Sets a marker at the playhead, also while the scene runs. */
export function addMarker(): Promise<void> {
  // Where the playhead is when the key goes down, not when the marker is kept.
  const at = useScene().playheadSample;
  return inTurn(() => addAt(at));
}
async function addAt(at: number): Promise<void> {
  const scene = useScene();
  if (!scene.current || scene.isHeld()) return;
  if (scene.markers.some((m) => m.at === at)) return tell.info('There is a marker already');
  const taken = new Set(scene.markers.map((m) => m.name));
  let n = scene.markers.length + 1;
  while (taken.has(`Marker ${n}`)) n++;
  const [id] = await catalogue.newIds('markers', 1);
  const marker: Marker = { id, sceneId: scene.current.id, at, name: `Marker ${n}` };
  await scene.edit(`Set ${marker.name}`, [additionOf('markers', marker)]);
}

export async function setMarker(of: Marker, after: Partial<Pick<Marker, 'name' | 'colour'>>): Promise<void> {
  const scene = useScene();
  const patch: Patch = { ...after };
  await scene.patch(`Change ${of.name}`, 'markers', of, patch);
}

export async function moveMarker(of: Marker, at: number): Promise<void> {
  const scene = useScene();
  await scene.patch(`Move ${of.name}`, 'markers', of, { at });
}

export async function removeMarker(of: Marker): Promise<void> {
  const scene = useScene();
  await scene.edit(`Remove ${of.name}`, [removalOf('markers', of)]);
}

/** Goes to the next marker, or the one before. */
export const toMarker = (direction: 1 | -1) => inTurn(() => goToMarker(direction));
function goToMarker(direction: 1 | -1): void {
  const scene = useScene();
  const transport = useTransport();
  const marker = nextMarker(scene.markers, transport.position + direction, direction);
  if (marker) transport.seek(marker.at);
  else
    tell.info(
      scene.markers.length === 0
        ? 'There are no markers yet'
        : `There is no marker ${direction > 0 ? 'behind' : 'before'} this`,
    );
}
