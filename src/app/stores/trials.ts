import { changeOf, nameOf, type Sound } from '@core/library';
import { deal, passes, rankAlternates, swapSound, type Cue, type Deal, type PoolFilter } from '@core/scene';
import { defineStore } from 'pinia';
import { computed, ref, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useHands } from './hands';
import { useLibrary } from './library';
import { useScene } from './scene';

/** As many sounds as a cue remembers. */
const TRIED = 50;

/** Other sounds in the places of cues: heard there while the scene runs on, then kept, or let go of. */
export const useTrials = defineStore('trials', () => {
  const scene = useScene();
  const hands = useHands();
  const library = useLibrary();
  /** Bounds of what may stand in. */
  const filter = ref<PoolFilter>({});

  /** Sounds that were heard at cues since these were kept last. */
  const heardAt = new Map<number, number[]>();
  /** What a cue remembers of that. */
  function tried(of: Cue): Pick<Cue, 'tried'> {
    const all = [...new Set([...(of.tried ?? []), ...(heardAt.get(of.id) ?? [])])].filter((id) => id !== of.soundId);
    return all.length > 0 ? { tried: all.slice(-TRIED) } : {};
  }

  /** Hears other sounds in the places of cues; the anchors stay where they are. */
  function tryOut(sounds: ReadonlyMap<number, Sound>): void {
    if (scene.isHeld()) return;
    const changed = new Map(scene.trial);
    for (const [id, sound] of sounds) {
      const of = scene.cues.find((c) => c.id === id);
      if (!of || hands.isLocked(of)) continue;
      heardAt.set(id, [...(heardAt.get(id) ?? []), sound.id]);
      if (of.soundId === sound.id) changed.delete(id);
      else changed.set(id, sound);
    }
    scene.trial = changed;
  }

  /** Keeps the sounds that are being tried. */
  async function keep(): Promise<void> {
    const swaps = [...scene.trial].flatMap(([id, sound]) => {
      const of = scene.state.cues.find((c) => c.id === id);
      return of ? [{ of, sound }] : [];
    });
    const [first] = swaps;
    if (first) {
      const name = nameOf(first.sound);
      const several = swaps.length > 1;
      const label = several ? `Exchange ${things(swaps.length, 'cue')}` : `Put ${name} in place of ${first.of.name}`;
      const changes = swaps.flatMap(({ of, sound }) => swapSound(of, sound, tried(of)));
      if (await scene.edit(label, changes))
        tell.done(several ? `${things(swaps.length, 'cue')} exchanged` : `${name} took the place of ${first.of.name}`);
      for (const { of } of swaps) heardAt.delete(of.id);
    }
    scene.trial = new Map();
  }

  /** Returns to the cues' own sounds; they remember what was tried, and that is no step to take back. */
  function drop(): void {
    const of = scene.state.cues.filter((c) => heardAt.has(c.id));
    scene.trial = new Map();
    const changes = of.map((c) => changeOf('cues', c, { ...tried(c) }));
    heardAt.clear();
    void library.edit('Tried', changes, false);
  }

  // Whoever goes on to another cue has chosen.
  watch(
    () => scene.cueId,
    (id) => {
      scene.pending = [];
      if (scene.trial.size > 0 && (id === undefined || !scene.trial.has(id))) void keep();
    },
    { flush: 'sync' },
  );

  /** The sound that is heard at a cue now. */
  const now = (of: Cue): number => scene.trial.get(of.id)?.id ?? of.soundId;

  /**
   * Deals other sounds to the selected cues, out of those that a list offers each of them.
   * @param poolOf sounds that may stand in for one
   */
  async function dealOut(how: Deal, poolOf: (own: Sound) => Promise<readonly Sound[]>): Promise<void> {
    const cues = [...hands.free].sort((a, b) => a.at - b.at);
    if (cues.length === 0)
      return tell.info(hands.chosen.length > 0 ? 'What is selected is locked' : 'Select cues first');
    const sounds = new Map(
      (await library.need([...new Set(cues.flatMap((c) => [c.soundId, now(c)]))])).map((s) => [s.id, s]),
    );
    const pools = new Map<number, readonly Sound[]>();
    const seats: Parameters<typeof deal>[0][number][] = [];
    for (const cue of cues) {
      const own = sounds.get(cue.soundId);
      const there = sounds.get(now(cue));
      if (!own || !there) continue;
      let pool = pools.get(own.id);
      if (!pool) {
        const all = await poolOf(own);
        const ranked = [own, ...rankAlternates(own, all)];
        pool = ranked.filter((s) => passes(s, filter.value));
        pools.set(own.id, pool);
      }
      seats.push({ cueId: cue.id, now: there, pool });
    }
    const dealt = deal(seats, how);
    if (dealt.size === 0)
      return tell.info(
        'force' in how
          ? `Nothing here hits ${how.force}`
          : 'Nothing else may stand in: widen the filter, or choose more sounds',
      );
    tryOut(dealt);
    if (dealt.size < cues.length)
      tell.info(`${things(cues.length - dealt.size, 'cue')} stayed: nothing else may stand in there`);
  }

  const trying = computed(() => scene.trial.size + scene.pending.length > 0);
  return { filter, tryOut, keep, drop, dealOut, now, trying };
});
