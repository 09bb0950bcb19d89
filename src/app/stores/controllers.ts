import { controllerName } from '@core/engine';
import { heightOf, valueAtHeight, type CurveOf } from '@core/scene';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { tell } from '../shell/notice';
import { useCurves } from './curves';
import { useInstrument } from './instrument';
import { useMix } from './mix';
import { useScene } from './scene';
import { turnTrack } from './tracks';

/** A controller takes hold of a value once it comes so near to where that is. Part of its way */
const NEAR = 0.03;

/** Values of lines and effects that controllers of an instrument turn, as a hand would: heard at once, kept, recorded. */
export const useControllers = defineStore('controllers', () => {
  const scene = useScene();
  const curves = useCurves();
  const mix = useMix();
  const instrument = useInstrument();
  /** The value that each controller turns, by the controller's number. */
  const turns = useLocalStorage<Record<number, string>>('value-controllers', {});
  /** Whether the next controller that is moved takes the value that was turned last. */
  const learning = ref(false);

  const values = computed(() =>
    [...scene.lines, curves.main].flatMap((track) =>
      curves.of(track).map((curve) => ({ curve, name: `${curve.name} of ${track.name}` })),
    ),
  );
  const named = (key: string | undefined) => values.value.find((v) => curves.keyOf(v.curve) === key);
  /** The value that a hand turned last. */
  const touched = computed(() => named(curves.touched));
  /** What they turn in this scene. */
  const learnt = computed(() =>
    Object.entries(turns.value).flatMap(([control, key]) => {
      const of = named(key);
      return of ? [{ control: Number(control), controller: controllerName(Number(control)), value: of.name }] : [];
    }),
  );

  function learn(control: number): void {
    const of = touched.value;
    learning.value = false;
    if (!of) return;
    const key = curves.keyOf(of.curve);
    const others = Object.entries(turns.value).filter(([, own]) => own !== key);
    turns.value = { ...Object.fromEntries(others), [control]: key };
    // Where it put another value says nothing of this one.
    put.delete(control);
    tell.done(`${controllerName(control)} turns ${of.name}`);
  }
  function forget(control: number): void {
    const { [control]: _, ...others } = turns.value;
    turns.value = others;
  }

  /** Where each controller is, and where it put its value last. */
  const stood = new Map<number, number>();
  const put = new Map<number, number>();
  function turn({ table, id, key }: CurveOf, value: number): void {
    if (table === 'main') return mix.turnMain({ [key]: value });
    if (table === 'tracks') {
      const track = scene.lines.find((t) => t.id === id);
      return track && turnTrack(track, { [key]: value });
    }
    const effect = scene.effects.find((e) => e.id === id);
    if (effect) mix.turn(effect, key, value);
  }
  function onControl(control: number, share: number): boolean {
    if (learning.value) {
      learn(control);
      stood.set(control, share);
      return true;
    }
    const of = named(turns.value[control]);
    if (!of || scene.comparing) return false;
    const { curve } = of;
    const now = heightOf(curve.spec, curves.valueNow({ [curve.key]: curve.points }, curve.key, curve.still));
    const before = stood.get(control);
    stood.set(control, share);
    // One that is elsewhere takes hold as it passes where the value is, so that nothing jumps.
    const holds = Math.abs((put.get(control) ?? Infinity) - now) < NEAR;
    const meets = Math.abs(share - now) < NEAR || (before !== undefined && (before - now) * (share - now) <= 0);
    if (!holds && !meets) return true;
    put.set(control, share);
    turn(curve, Number(valueAtHeight(curve.spec, share).toPrecision(4)));
    return true;
  }
  watch(
    () => learning.value || learnt.value.length > 0,
    (wanted) => instrument.hear('values', wanted ? onControl : undefined),
    { immediate: true },
  );

  return { learning, touched, learnt, forget };
});
