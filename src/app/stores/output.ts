import { toDb } from '@core/audio';
import type { Status } from '@core/engine';
import { Player, startLoader } from '@platform/index';
import { defineStore } from 'pinia';
import { markRaw, ref, shallowRef } from 'vue';

/** How long it took from a key or click to the first block of what it played. */
export interface Latency {
  id: number;
  container: string;
  /** Milliseconds. */
  ms: number;
}
/** As many of those are kept. */
const MEASURED = 200;

/** The one output: what is auditioned, played by keys and run as a scene sounds through it. */
export const useOutput = defineStore('output', () => {
  /** Highest levels of the last moments, dB, left and right. */
  const levels = ref<[number, number]>([-Infinity, -Infinity]);
  const latencies = shallowRef<Latency[]>([]);
  const listeners: ((status: Status) => void)[] = [];
  const failures: ((error: Error) => void)[] = [];
  let captured: ((planes: Float32Array[]) => void) | undefined;

  function onStatus(status: Status): void {
    if (status.captured) captured?.(status.captured);
    levels.value = status.peaks.map(toDb) as [number, number];
    for (const listener of listeners) listener(status);
  }

  const loader = startLoader();
  const player = markRaw(
    new Player(
      loader,
      onStatus,
      (error) => failures.forEach((say) => say(error)),
      (ms, item) => {
        const { id, format } = item.sound;
        latencies.value = [...latencies.value, { id, container: format.container, ms }].slice(-MEASURED);
      },
    ),
  );

  /** The first frames that the engine renders of what is played next. */
  function rendered(frames: number): Promise<Float32Array[]> {
    player.capture(frames);
    return new Promise((done) => (captured = done));
  }

  return {
    player,
    levels,
    latencies,
    /** Tells of every state of the engine. */
    onStatus: (listener: (status: Status) => void) => void listeners.push(listener),
    /** Tells why a sound that was asked for cannot be played. */
    onFailure: (say: (error: Error) => void) => void failures.push(say),
    rendered,
    /** What is known of the output now, and what is held for it. */
    state: () => player.output,
    holding: () => loader.holding(),
  };
});
