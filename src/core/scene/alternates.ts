import type { Sound } from '@core/library';
import { lengthOf, nameOf } from '@core/library';
import { searchWords } from '@core/naming';

/**
 * Orders sounds by how well they might stand in for another: words of the name that both share, then how near their
 * lengths are. A doubling or halving of the length weighs as much as one shared word.
 */
export function rankAlternates(own: Sound, others: readonly Sound[]): Sound[] {
  const words = new Set(searchWords(nameOf(own)).filter((w) => !/^\d+$/.test(w)));
  const score = (s: Sound) => {
    const shared = new Set(searchWords(nameOf(s)).filter((w) => words.has(w))).size;
    return shared - Math.abs(Math.log2(lengthOf(s) / lengthOf(own)));
  };
  return others
    .filter((s) => s.id !== own.id)
    .map((sound) => ({ sound, score: score(sound) }))
    .sort((a, b) => b.score - a.score)
    .map((s) => s.sound);
}

/** What sounds must be like to stand in; see the fact `force`, and seconds. */
export interface PoolFilter {
  force?: { least: number; most: number };
  length?: { least: number; most: number };
}

const forceOf = (sound: Sound): number | undefined => sound.fields.force as number | undefined;

/** Whether a sound is within bounds of force and length; one whose force nobody could measure is within no bounds of it. */
export function passes(sound: Sound, { force, length }: PoolFilter): boolean {
  const own = forceOf(sound);
  const lasts = lengthOf(sound);
  if (force && (own === undefined || own < force.least || own > force.most)) return false;
  return !length || (lasts >= length.least && lasts <= length.most);
}

/** How others are chosen: so many steps on in a list, at random, or by how hard they hit. */
export type Deal = { by: 1 | -1 } | { random: () => number } | { force: 'softer' | 'harder' };

/** Points of force by which a step softer or harder is one that is heard. */
const FORCE_STEP = 4;

/** The sounds of a list in the order in which one that stands there now gives way to them. */
function line(now: Sound, pool: readonly Sound[], how: Deal): readonly Sound[] {
  if ('force' in how) {
    const own = forceOf(now);
    if (own === undefined) return [];
    const sign = how.force === 'softer' ? -1 : 1;
    const by = (s: Sound) => sign * (forceOf(s)! - own);
    return pool
      .filter((s) => forceOf(s) !== undefined && by(s) >= FORCE_STEP)
      .sort((a, b) => by(a) - by(b) || a.id - b.id);
  }
  if ('random' in how) {
    const others = pool.filter((s) => s.id !== now.id);
    for (let i = others.length - 1; i > 0; i--) {
      const j = Math.floor(how.random() * (i + 1));
      [others[i], others[j]] = [others[j], others[i]];
    }
    return others;
  }
  const at = pool.findIndex((s) => s.id === now.id);
  const turned = how.by > 0 ? pool : [...pool].reverse();
  // Whoever does not stand in the list begins with its first one.
  const from = at < 0 ? 0 : how.by > 0 ? at + 1 : pool.length - at;
  return [...turned.slice(from), ...turned.slice(0, from)].filter((s) => s.id !== now.id);
}

/**
 * Deals other sounds to any number of cues: each gets another one than it has, and no two get the same while there are others.
 * @param seats what stands there now and may stand there, by cue, in the order of time
 * @returns by cue; without those for whom there is none
 */
export function deal(
  seats: readonly { cueId: number; now: Sound; pool: readonly Sound[] }[],
  how: Deal,
): Map<number, Sound> {
  const uses = new Map<number, number>();
  const dealt = new Map<number, Sound>();
  let last: number | undefined;
  for (const { cueId, now, pool } of seats) {
    let best: Sound | undefined;
    for (const sound of line(now, pool, how)) {
      const [own, most] = [uses.get(sound.id) ?? 0, best ? (uses.get(best.id) ?? 0) : Infinity];
      // Where all were used already, at least no two neighbours are alike.
      if (own < most || (own === most && best?.id === last && sound.id !== last)) best = sound;
      if (own === 0) break;
    }
    if (!best) continue;
    dealt.set(cueId, best);
    uses.set(best.id, (uses.get(best.id) ?? 0) + 1);
    last = best.id;
  }
  return dealt;
}
