import { layerRanges } from '@core/build';
import { effectOf, type ParamSpec } from '@core/effects';
import { MAIN } from '@core/engine';
import { changeOf } from '@core/library';
import type { ValueRange } from '@core/scene';
import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
import { tell } from '../shell/notice';
import { drafted } from './drafted';
import { useMix } from './mix';
import { useScene } from './scene';

type Spec = Pick<ParamSpec, 'label' | 'unit' | 'least' | 'most'>;
/** A value that may be left to chance. */
export type Left = Pick<ValueRange, 'of' | 'id' | 'key'>;

/** Values of a build that are left to chance: for each variation, and of layers for each stroke. */
export const useRanges = defineStore('ranges', () => {
  const scene = useScene();
  const mix = useMix();
  const draft = shallowRef<readonly ValueRange[]>();
  const all = computed(() => draft.value ?? scene.state.ranges ?? []);

  /** What is known of a value; undefined where it is gone, or a choice. */
  function specOf({ of, id, key }: Left): Spec | undefined {
    if (of === 'layer') return scene.tracks.some((t) => t.id === id) ? layerRanges[key] : undefined;
    const effect = scene.effects.find((e) => e.id === id);
    const spec = effectOf(effect?.kind ?? '')?.params.find((p) => p.key === key);
    return spec?.choices ? undefined : spec;
  }
  const lineNamed = (id: number) => (id === MAIN ? 'all layers' : (mix.lineName(id) ?? 'a layer that is gone'));
  function nameOf(left: Left): string {
    const spec = specOf(left);
    if (!spec) return 'a value that is gone';
    if (left.of === 'layer') return `${spec.label} of ${lineNamed(left.id)}`;
    const effect = scene.effects.find((e) => e.id === left.id)!;
    return `${spec.label} of ${mix.nameOf(effect)}, ${lineNamed(effect.lineId)}`;
  }

  async function keep(label: string, ranges: readonly ValueRange[]): Promise<void> {
    const of = scene.current;
    const kept = ranges.length > 0 ? ranges.map((r) => ({ ...r })) : undefined;
    if (of) await scene.edit(label, [changeOf('scenes', of, { ranges: kept })]);
  }
  const set = drafted(draft, keep);
  const same = (a: Left, b: Left) => a.of === b.of && a.id === b.id && a.key === b.key;

  /** Bounds to begin with: so much that it is heard, and no more. */
  function around(left: Left, { least, most }: Spec): Pick<ValueRange, 'least' | 'most'> {
    if (left.of === 'layer') {
      const by = { pitch: 2, later: 15, gain: 3 }[left.key] ?? 1;
      return { least: -by, most: by };
    }
    const effect = scene.effects.find((e) => e.id === left.id);
    const spec = effectOf(effect?.kind ?? '')?.params.find((p) => p.key === left.key);
    const now = effect?.values[left.key] ?? spec?.initial ?? 0;
    const within = (v: number) => Number(Math.max(least, Math.min(most, v)).toPrecision(4));
    if (spec?.curve === 'octaves') return { least: within(now / 1.5), most: within(now * 1.5) };
    return { least: within(now - (most - least) / 8), most: within(now + (most - least) / 8) };
  }
  /** Leaves a value to chance. */
  async function add(left: Left): Promise<void> {
    const spec = specOf(left);
    if (!scene.current || scene.isHeld()) return;
    if (!spec) return tell.info('This value cannot be left to chance');
    if (all.value.some((r) => same(r, left))) return tell.info(`${nameOf(left)} is left to chance already`);
    await set.rest();
    await keep(`Leave ${nameOf(left)} to chance`, [...all.value, { ...left, ...around(left, spec) }]);
  }
  async function remove(range: ValueRange): Promise<void> {
    await set.rest();
    const others = all.value.filter((r) => !same(r, range));
    await keep(`Leave ${nameOf(range)} as it is`, others);
  }
  function bound(range: ValueRange, after: Partial<Pick<ValueRange, 'least' | 'most'>>): void {
    if (scene.isHeld()) return;
    set(
      `Range of ${nameOf(range)}`,
      all.value.map((r) => (same(r, range) ? { ...r, ...after } : r)),
    );
  }

  return { all, specOf, nameOf, add, remove, bound };
});
