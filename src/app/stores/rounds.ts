import { spanOf } from '@core/scene';
import { RATE } from '@platform/index';
import { useScene } from './scene';
import { useTransport } from './transport';

// What the scene goes round: from in to out, or about a cue.

/** Sets in or out at the playhead. */
export async function setLoop(edge: 'start' | 'end'): Promise<void> {
  const scene = useScene();
  const transport = useTransport();
  if (!scene.current) return;
  const { length } = scene.current;
  // A quick hand sets the other one before this one is kept.
  const loop = { ...(transport.loopOf(scene.current) ?? { start: 0, end: length }), [edge]: transport.position };
  if (loop.end - loop.start < RATE / 10) Object.assign(loop, edge === 'start' ? { end: length } : { start: 0 });
  transport.setLoop(scene.current, loop);
  const kept = await scene.patch(edge === 'start' ? 'Set in' : 'Set out', 'scenes', scene.current, { loop });
  if (!kept) transport.goRound(scene.current.loop ?? null);
}

export function clearLoop(): void {
  const scene = useScene();
  if (!scene.current) return;
  useTransport().setLoop(scene.current, null);
  void scene.patch('Clear in and out', 'scenes', scene.current, { loop: undefined });
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
