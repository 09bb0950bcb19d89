import { NamePattern } from '@core/naming';
import { textsOf } from './batch';
import { excerptOf } from './excerpt';
import { isField } from './fields';
import { nameOf, type Sound, type Span } from './sound';
import type { TagNames } from './values';

/** A take of a reel as it is to become a sound. Frames of the reel. */
export interface CutSlice extends Span {
  anchor: number;
  /** Somebody placed its anchor. */
  placed?: boolean;
  /** Somebody says what comes, rather than a take. */
  spoken?: boolean;
  /** What is said, as somebody wrote it down. */
  said?: string;
  /** A name of its own, instead of that of the pattern. */
  own?: string;
  /** Its number among the takes, where it was given before others became sounds. */
  take?: string;
}

/** A reel with its takes. */
export interface CutReel {
  reel: Sound;
  slices: readonly CutSlice[];
}

/** How slices are named. */
export interface SliceNaming {
  /** May name fields of the reel, and what is in {@link sliceKeys}. */
  pattern: string;
  /** The first number. */
  first: number;
  /** Whether announcements become no sounds, and what they say is `{said}` of the takes behind them. */
  spoken: 'names' | 'leave' | 'keep';
}

/** What a pattern for slices may name beside the fields of the reel, and what that is. */
export const sliceKeys: Readonly<Record<string, string>> = {
  reel: 'name of the reel',
  number: 'counted over all reels',
  take: 'counted in its reel, or since the last announcement',
  said: 'what was written down of the announcement before it',
  time: 'where in the reel it begins',
};

/** A slice with what it will be called. */
export interface NamedSlice {
  reel: Sound;
  slice: CutSlice;
  name: string;
  /** Its number within its group of takes. */
  take: string;
  /** What the announcement before it said. */
  said?: string;
}

const padded = (n: number, of: number) => String(n).padStart(Math.max(2, String(of).length), '0');

/** Minutes and seconds, as they may stand in a file name. */
function clock(seconds: number): string {
  const whole = Math.floor(seconds);
  return `${padded(Math.floor(whole / 60), 1)}m${padded(whole % 60, 1)}s`;
}

/**
 * Names the slices of reels by a pattern, numbered through. Where two would be called the same, later ones get a number.
 * @throws PatternFault
 */
export function nameSlices(
  reels: readonly CutReel[],
  { pattern, first, spoken }: SliceNaming,
  tags: TagNames,
): NamedSlice[] {
  const names = new NamePattern(pattern);
  const kept = reels.map(({ reel, slices }) => ({
    reel,
    slices: slices.filter((s) => !s.spoken || spoken === 'keep'),
  }));
  const all = kept.reduce((sum, k) => sum + k.slices.length, 0);
  const used = new Set<string>();
  const named: NamedSlice[] = [];
  for (const { reel, slices } of reels) {
    const texts = textsOf(reel, names.keys.filter(isField), tags);
    let [take, said] = [0, undefined as string | undefined];
    for (const slice of slices) {
      if (slice.spoken && spoken !== 'keep') {
        if (spoken === 'names' && slice.said) [take, said] = [0, slice.said];
        continue;
      }
      take++;
      const values: Record<string, string | undefined> = {
        reel: nameOf(reel),
        number: padded(first + named.length, first + all - 1),
        take: slice.take ?? padded(take, slices.length),
        said,
        time: clock(slice.start / reel.format.rate),
      };
      const made = slice.own ?? names.compose((key) => (key in sliceKeys ? values[key] : texts[key])).trim();
      const name = made || `${nameOf(reel)} ${values.number}`;
      let free = name;
      for (let n = 2; used.has(free.toLowerCase()); n++) free = `${name} ${n}`;
      used.add(free.toLowerCase());
      named.push({ reel, slice, name: free, take: values.take!, ...(said === undefined ? {} : { said }) });
    }
  }
  return named;
}

/** The record of a slice as a part of its reel; nothing is written. It takes the reel's labels along, and is a take among the others. */
export function sliceRecord({ reel, slice, name, take, said }: NamedSlice, now: number): Omit<Sound, 'id'> {
  const made = excerptOf(reel, slice, name, now);
  // Its anchor is its own, and waits to be looked at as any suggested one.
  const { anchor: _, ...from } = made.from;
  const group = [reel.fields.takeGroup ?? `${reel.rootId}/${reel.path}`, said].filter(Boolean).join(' ');
  return {
    ...made,
    fields: { ...made.fields, take, takeGroup: group },
    from: { ...from, take: 'name', takeGroup: 'name', ...(slice.placed ? { anchor: 'typed' } : {}) },
    marks: { anchor: slice.anchor - slice.start },
  };
}
