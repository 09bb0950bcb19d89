import { lengthOf, type Sound } from '@core/library';

// Sets of sounds that are played by one key each.

/** The keys of the pads, by their place on a keyboard, and what stands on them. */
export const padKeys: ReadonlyMap<string, string> = new Map([
  ['KeyA', 'A'],
  ['KeyS', 'S'],
  ['KeyD', 'D'],
  ['KeyF', 'F'],
  ['KeyJ', 'J'],
  ['KeyK', 'K'],
  ['KeyL', 'L'],
  ['Semicolon', ';'],
]);
export const PADS = 8;
/** The MIDI key of the first pad, where none was learnt. */
export const FIRST_NOTE = 36;

/** Where a pad has its sounds from: put there by hand, a pull, or a query that keeps answering. */
export type PadSource =
  { by: 'hand'; soundIds: readonly number[] } | { by: 'pull'; pullId: number } | { by: 'query'; text: string };

/** Which sounds end when the key is let go: those that last, all, or none. */
export const padEndings = ['lasting', 'all', 'none'] as const;

/** A set of sounds that is played by one key. */
export interface Pad {
  /** From 0 to 7. */
  slot: number;
  source: PadSource;
  /** Where its cues go; the chosen track when absent. */
  trackId?: number;
  /** Of the softest and of the hardest stroke, dB. */
  gain: { least: number; most: number };
  /** Of the sounds that may be played; see the fact `force`. */
  force?: { least: number; most: number };
  ends: (typeof padEndings)[number];
}

export const emptyPad = (slot: number): Pad => ({
  ...{ slot, source: { by: 'hand', soundIds: [] } },
  ...{ gain: { least: -12, most: 0 }, ends: 'lasting' },
});

/** How hard a stroke was, 0 to 1. @param velocity of MIDI, 1 to 127 */
export const hardnessOf = (velocity: number): number => Math.min(1, Math.max(0, (velocity - 1) / 126));

/** dB of a stroke. @param hardness undefined for keys that do not tell: those are as loud as can be */
export const strokeGain = ({ gain }: Pad, hardness = 1): number => gain.least + hardness * (gain.most - gain.least);

/** The sounds of a set that suit a stroke: the third whose force is nearest, and three at least. */
function suited(pool: readonly Sound[], hardness: number | undefined): readonly Sound[] {
  if (hardness === undefined) return pool;
  const forced = pool
    .filter((s) => s.fields.force !== undefined)
    .sort((a, b) => (a.fields.force as number) - (b.fields.force as number) || a.id - b.id);
  if (forced.length === 0) return pool;
  const wide = Math.min(forced.length, Math.max(3, Math.ceil(forced.length / 3)));
  const from = Math.round(hardness * (forced.length - wide));
  return forced.slice(from, from + wide);
}

/** Deals the sounds of a set to one stroke after another: none comes again until all that suit have come, and none twice running. */
export class Dealer {
  private readonly uses = new Map<number, number>();
  private last: number | undefined;

  constructor(private readonly random: () => number = Math.random) {}

  /** The sound of the next stroke. @param hardness 0 to 1; undefined for keys that do not tell */
  next(pool: readonly Sound[], hardness?: number): Sound | undefined {
    const near = suited(pool, hardness);
    const others = near.length > 1 ? near.filter((s) => s.id !== this.last) : near;
    const usesOf = (s: Sound) => this.uses.get(s.id) ?? 0;
    const least = others.reduce((n, s) => Math.min(n, usesOf(s)), Infinity);
    const fresh = others.filter((s) => usesOf(s) === least);
    const chosen = fresh[Math.floor(this.random() * fresh.length)] as Sound | undefined;
    if (!chosen) return undefined;
    this.uses.set(chosen.id, least + 1);
    this.last = chosen.id;
    return chosen;
  }
}

/** Sounds this long or longer last: they end with the key. Seconds */
const LASTING = 2;
/** Whether a sound ends when the key of its pad is let go. */
export const endsWithKey = ({ ends }: Pad, sound: Sound): boolean =>
  ends === 'all' || (ends === 'lasting' && lengthOf(sound) >= LASTING);
