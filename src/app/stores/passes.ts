import type { PassStroke } from '@core/build';
import { BLOCK } from '@core/engine';
import { RATE } from '@platform/index';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { useBuilds } from './builds';
import { useInstrument } from './instrument';
import { useOutput } from './output';
import { useScene } from './scene';

/** Passes: what somebody plays of a build by keys, kept for as long as the build is open. */
export const usePasses = defineStore('passes', () => {
  const builds = useBuilds();
  const scene = useScene();
  const instrument = useInstrument();
  const output = useOutput();
  const isRecording = ref(false);
  const strokes = shallowRef<readonly PassStroke[]>([]);
  /** When the first stroke was. Milliseconds */
  let began = 0;
  // In whole blocks, as the engine strikes.
  const since = () => Math.round(((performance.now() - began) / 1000) * (RATE / BLOCK)) * BLOCK;

  function struck(stroke: Omit<PassStroke, 'at' | 'lifted'>): void {
    if (strokes.value.length === 0) began = performance.now();
    strokes.value = [...strokes.value, { ...stroke, at: since() }];
  }
  function lifted(key: number): void {
    const at = since();
    strokes.value = strokes.value.map((s) =>
      s.key === key && s.lifted === undefined && !s.rings ? { ...s, lifted: at } : s,
    );
  }
  // Told a moment later, also of strokes that were the last ones.
  output.onStatus(({ gave }) => {
    if (!gave) return;
    strokes.value = strokes.value.map((s) => {
      const own = gave.filter((g) => g.stroke === s.id).map(({ stroke: _stroke, ...how }) => how);
      return own.length === 0 ? s : { ...s, gave: [...(s.gave ?? []), ...own] };
    });
  });
  function record(): void {
    strokes.value = [];
    isRecording.value = true;
    // Whoever records means to play.
    instrument.armed = true;
    builds.recorder = { struck, lifted };
  }
  function stop(): void {
    if (!isRecording.value) return;
    isRecording.value = false;
    instrument.armed = false;
    builds.recorder = undefined;
  }
  const drop = () => void (strokes.value = []);
  // A pass is one of its build, and of keys that play it.
  watch(
    () => scene.buildId,
    () => {
      stop();
      drop();
    },
  );
  watch(
    () => builds.isPlayed,
    (is) => is || stop(),
  );

  /** What was played, once nobody records any more. */
  const pass = computed(() => (isRecording.value || strokes.value.length === 0 ? undefined : strokes.value));
  /** Seconds from its first stroke to its last. */
  const length = computed(() => (strokes.value.at(-1)?.at ?? 0) / RATE);
  return { isRecording, strokes, pass, length, record, stop, drop };
});
