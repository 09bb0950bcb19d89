import { spanOf, type Scene } from '@core/scene';
import { RATE } from '@platform/index';
import { useScene } from './scene';
import { useTransport } from './transport';

// What the scene goes round: from in to out, or about a cue.

/** In and out as they were set last, until they are kept: a quick hand sets the other one before that. */
let setting: { sceneId: number; loop: NonNullable<Scene['loop']> } | undefined;

/** Sets in or out at the playhead. */
export async function setLoop(edge: 'start' | 'end'): Promise<void> {
  const scene = useScene();
  const transport = useTransport();
  if (!scene.current) return;
  const { id: sceneId, length } = scene.current;
  const old = setting?.sceneId === sceneId ? setting.loop : scene.current.loop;
  const loop = { ...(old ?? { start: 0, end: length }), [edge]: transport.position };
  if (loop.end - loop.start < RATE / 10) Object.assign(loop, edge === 'start' ? { end: length } : { start: 0 });
  const mine = (setting = { sceneId, loop });
  transport.goRound(loop);
  await scene.patch(edge === 'start' ? 'Set in' : 'Set out', 'scenes', scene.current, { loop });
  if (setting === mine) setting = undefined;
}

export function clearLoop(): void {
  const scene = useScene();
  if (!scene.current) return;
  void scene.patch('Clear in and out', 'scenes', scene.current, { loop: undefined });
  useTransport().goRound(null);
}

/** Goes round the selected cue, with a second before and behind. */
export function loopCue(): void {
  const scene = useScene();
  const { cue, current } = scene;
  if (!cue || !current) return;
  scene.use();
  const { start, end } = spanOf(cue, RATE);
  const loop = { start: Math.max(0, Math.floor(start) - RATE), end: Math.ceil(end) + RATE };
  void scene.patch(`Go round ${cue.name}`, 'scenes', current, { loop });
  useTransport().run(true, loop.start, loop);
}
