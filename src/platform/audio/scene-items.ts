import { stretchOf } from '@core/audio';
import type { GraphPlan } from '@core/engine';
import { materialId, type Loadable } from './loader';
import type { StretchedIds } from './stretch';

/** What a scene plays, each clip by the key under which its audio is loaded, and what has to be loaded under which key. */
export interface LoadablePlan {
  plan: GraphPlan;
  items: ReadonlyMap<number, Loadable>;
}

/**
 * Finds keys for what a scene plays.
 * @param plan with sounds for materials; @param items the sounds, as they lie in their files
 */
export function loadablePlan(plan: GraphPlan, items: readonly Loadable[], ids: StretchedIds): LoadablePlan {
  const bySound = new Map(items.map((i) => [i.sound.id, i]));
  const byKey = new Map<number, Loadable>();
  const clips = new Map(plan.clips);
  for (const [id, { line, clip }] of plan.clips) {
    const plain = bySound.get(clip.material);
    if (!plain) continue;
    const stretch = stretchOf(clip.shape);
    const item = stretch ? { ...plain, stretched: { id: ids.of(plain.sound.id, stretch), stretch } } : plain;
    byKey.set(materialId(item), item);
    if (stretch) clips.set(id, { line, clip: { ...clip, material: materialId(item) } });
  }
  for (const { inserts } of plan.lines.values())
    for (const { sound } of inserts) {
      const item = sound && bySound.get(sound.material);
      if (item) byKey.set(materialId(item), item);
    }
  return { plan: { ...plan, clips }, items: byKey };
}
