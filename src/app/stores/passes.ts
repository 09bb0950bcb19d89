import type { Pass, PassStroke } from '@core/build';
import { moverValues, type Turn } from '@core/effects';
import { BLOCK } from '@core/engine';
import { RATE } from '@platform/index';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, triggerRef, watch } from 'vue';
import { useBuilds } from './builds';
import { useInstrument } from './instrument';
import { useMovers } from './movers';
import { useOutput } from './output';
import { useScene } from './scene';

/** Passes: what somebody plays of a build by keys, kept for as long as the build is open. */
export const usePasses = defineStore('passes', () => {
  const builds = useBuilds();
  const scene = useScene();
  const instrument = useInstrument();
  const output = useOutput();
  const movers = useMovers();
  const isRecording = ref(false);
  const strokes = shallowRef<readonly PassStroke[]>([]);
  const turns = shallowRef<Turn[]>([]);
  /** When the first stroke was. Milliseconds */
  let began = 0;
  // In whole blocks, as the engine strikes.
  const since = () => Math.round(((performance.now() - began) / 1000) * (RATE / BLOCK)) * BLOCK;

  function struck(stroke: Omit<PassStroke, 'at' | 'lifted'>): void {
    const isFirst = strokes.value.length === 0;
    if (isFirst) {
      began = performance.now();
      turns.value = scene.movers
        .filter((m) => m.kind === 'controller')
        .map((m) => ({ at: 0, mover: m.id, share: movers.shares.get(m.id) ?? moverValues(m).at / 100 }));
    }
    strokes.value = [...strokes.value, { ...stroke, at: isFirst ? 0 : since() }];
  }
  function lifted(key: number): void {
    const at = since();
    strokes.value = strokes.value.map((s) =>
      s.key === key && s.lifted === undefined && !s.rings ? { ...s, lifted: at } : s,
    );
  }
  function turned(mover: number, share: number): void {
    if (strokes.value.length === 0) return;
    const now = { at: since(), mover, share };
    // A hand is faster than blocks: of each block its last word counts.
    const all = turns.value;
    let last = all.length - 1;
    while (all[last]?.at === now.at && all[last].mover !== mover) last--;
    if (all[last]?.at === now.at) all[last] = now;
    else all.push(now);
    triggerRef(turns);
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
    drop();
    isRecording.value = true;
    // Whoever records means to play.
    instrument.armed = true;
    builds.recorder = { struck, lifted, turned };
  }
  function stop(): void {
    if (!isRecording.value) return;
    isRecording.value = false;
    instrument.armed = false;
    builds.recorder = undefined;
  }
  function drop(): void {
    strokes.value = [];
    turns.value = [];
  }
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
  const pass = computed((): Pass | undefined =>
    isRecording.value || strokes.value.length === 0 ? undefined : { strokes: strokes.value, turns: turns.value },
  );
  /** What hands turned meanwhile, by name. */
  const hands = computed(() => {
    const turned = new Set(turns.value.flatMap((t) => (t.at > 0 ? [t.mover] : [])));
    return scene.movers.filter((m) => turned.has(m.id)).map(movers.nameOf);
  });
  /** Seconds from its first stroke to its last. */
  const length = computed(() => (strokes.value.at(-1)?.at ?? 0) / RATE);
  return { isRecording, strokes, pass, hands, length, record, stop, drop };
});
