import { nameOf, type Sound } from '@core/library';
import { usePool } from '../shared/list/usePool';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';
import { useTrials } from '../stores/trials';

/** Other sounds in the place of the opened layer's: stepped through while the build goes round, its anchor staying where it is. */
export function useExchange() {
  const scene = useScene();
  const trials = useTrials();
  const transport = useTransport();
  const audition = useAudition();
  const pool = usePool();
  /** In turn: a key pressed quickly begins where the last one ended. */
  let hand: Promise<unknown> = Promise.resolve();

  async function step(by: 1 | -1): Promise<void> {
    const { cue } = scene;
    if (!cue) return tell.info('Open a layer first');
    await pool.settled();
    const list = pool.list.value;
    const at = list.findIndex((s) => s.id === trials.now(cue));
    const next: Sound | undefined = list[at + by];
    if (!next)
      return tell.info(
        by > 0
          ? `Nothing else may stand in for ${cue.name}`
          : `That was ${list[0] ? nameOf(list[0]) : cue.name}, the first one`,
      );
    trials.tryOut(new Map([[cue.id, next]]));
    // Stopped, it is heard by itself.
    audition.choose(next, !transport.playing);
  }
  return {
    step: (by: 1 | -1) => void (hand = hand.then(() => step(by))),
    keep: () => void (hand = hand.then(() => trials.keep())),
    drop: () => trials.drop(),
  };
}
