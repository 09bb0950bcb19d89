import type { GraphPlan } from '@core/engine';
import type { Loadable } from '@platform/index';
import { defineStore } from 'pinia';
import { ref, shallowRef } from 'vue';
import { useAudition } from './audition';
import { useOutput } from './output';

/** Samples of a scene from which it goes round, and before which. */
type Loop = { start: number; end: number };

/** How the scene runs: where it is, which way and how fast, and what of it came too late. */
export const useTransport = defineStore('transport', () => {
  const audition = useAudition();
  const { player, onStatus } = useOutput();
  const playing = ref(false);
  /** Samples from the scene's start. */
  const position = ref(0);
  /** Times real time; backward when negative. */
  const speed = ref(1);
  /** Cues whose audio has not come in time just now, and the blocks in which that was so since the output was opened. */
  const late = shallowRef<ReadonlySet<number>>(new Set());
  const missed = ref(0);
  /** What it was asked to do last, and whether it ran before. */
  const asked = shallowRef<{ on: boolean; from?: number; ran: boolean }>({ on: false, ran: false });

  /** In and out as they were set last; they count until the scene has others than those before. */
  let set: { of: number; before: Loop | undefined; loop: Loop | null } | undefined;

  onStatus(({ scene }) => {
    // Said before the engine heard of what the scene was asked to do since.
    if (scene.turn === player.turn) {
      position.value = scene.position;
      playing.value = scene.playing;
      speed.value = scene.speed;
    }
    if (scene.late.length + late.value.size > 0) late.value = new Set(scene.late);
    missed.value = scene.missing;
  });

  /** Hands what is to be heard to the engine. */
  async function send(plan: GraphPlan, items: readonly Loadable[]): Promise<void> {
    await player.setScene(plan, items, position.value);
  }

  /**
   * Runs or stops the scene.
   * @param from sample to go on from; where it is, when absent
   * @param loop what is gone round, null for nothing; as before, when absent
   * @param at times real time; as before, when absent, and 1 after a stop
   */
  function run(on: boolean, from?: number, loop?: Loop | null, at?: number): void {
    if (on && audition.playing) audition.stop();
    const ran = playing.value;
    if (from !== undefined) position.value = from;
    playing.value = on;
    if (at !== undefined) speed.value = at;
    else if (!on) speed.value = 1;
    player.transport(on, from, loop, at);
    asked.value = { on, ran, ...(from === undefined ? {} : { from }) };
  }

  /** Goes round what was just set, before that is kept. */
  function setLoop(of: { id: number; loop?: Loop }, loop: Loop | null): void {
    set = { of: of.id, before: of.loop, loop };
    run(playing.value, undefined, loop);
  }
  /** What a scene goes round now; null for nothing. */
  const loopOf = (of: { id: number; loop?: Loop } | undefined): Loop | null =>
    set && set.of === of?.id && set.before === of.loop ? set.loop : (of?.loop ?? null);

  return {
    setLoop,
    loopOf,
    playing,
    position,
    speed,
    late,
    missed,
    asked,
    send,
    run,
    stop: () => run(false),
    /** Goes to a sample, and runs on from there if it runs. */
    seek: (to: number) => run(playing.value, to),
    /** Changes what is gone round, null for nothing. */
    goRound: (loop: Loop | null) => {
      set = undefined;
      run(playing.value, undefined, loop);
    },
    /** Where the scene is that is heard at a moment of `performance.now`. Samples */
    soundingAt: (moment: number) => player.soundingAt(moment),
  };
});
