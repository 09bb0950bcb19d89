import { plainShape } from '@core/audio';
import type { GraphPlan } from '@core/engine';
import { frameRate, frameToSample, isHeard, type Scene, type Track } from '@core/scene';
import type { Loadable } from '@platform/index';

/** Under which number the line of the picture's own sound goes: beyond all that cues and tracks are given. */
const GUIDE = 1_999_999_990;
/** Where the numbers of such sounds begin, one for each picture that was opened. */
const SOUNDS = 1_999_000_000;
const known = new Map<string, number>();

/** The number under which the sound of a picture is loaded. @param key what tells it from others */
export function guideId(key: string): number {
  const id = known.get(key) ?? SOUNDS + known.size;
  known.set(key, id);
  return id;
}

/** What the engine plays, with the picture's own sound beside the tracks: heard like one of them, and never part of the mix that is written. */
export function withGuide(
  plan: GraphPlan,
  scene: Scene,
  tracks: readonly Track[],
  item: Loadable | undefined,
): GraphPlan {
  const guide = scene.picture?.guide;
  if (!guide || !item) return plan;
  const { id: material, format } = item.sound;
  const { rate, frames } = format;
  const own = { mute: guide.mute, solo: false } as Track;
  const at = frameToSample(scene.picture?.offset ?? 0, frameRate(scene.fps), scene.sampleRate);
  const line = { id: GUIDE, gain: guide.gain, place: 0, open: isHeard(own, tracks), inserts: [] };
  const clip = {
    material,
    rate,
    at,
    anchor: 0,
    region: { start: 0, end: frames },
    shape: plainShape,
    gain: 0,
    place: 0,
  };
  return {
    ...plan,
    lines: new Map([...plan.lines, [GUIDE, line]]),
    clips: guide.mute ? plan.clips : new Map([...plan.clips, [GUIDE, { line: GUIDE, clip }]]),
  };
}
