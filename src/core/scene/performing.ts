import { fullShape, stretchOf } from '@core/audio';
import { changeOf, type Change, type Sound, removalOf } from '@core/library';
import { takeOf, type Cue, type Scene, type Take } from './scene';

// Sounds played by hand to the picture: strokes that become cues, passes that are kept as takes.

/** The cue of a stroke: its anchor is the instant of the stroke. @param at sample */
export function struckCue(
  sound: Sound,
  where: Pick<Cue, 'id' | 'sceneId' | 'trackId' | 'gain' | 'made' | 'take'> & { at: number },
): Cue {
  return { mute: false, ...where, at: Math.max(0, Math.round(where.at)), ...takeOf(sound) };
}

/** Seconds in which they die away then, as is heard while they are played. */
const LET_GO = 0.08;

/** The cue of a stroke whose key was let go after so many seconds. */
export function letGo(cue: Cue, seconds: number): Cue {
  const shape = fullShape(cue.shape);
  const frames = Math.round(((seconds + LET_GO) * cue.rate * shape.speed) / (stretchOf(shape)?.length ?? 1));
  const back = shape.direction === 'backward';
  const edge = back ? Math.max(cue.start, cue.anchor - frames) : Math.min(cue.end, cue.anchor + frames);
  if (edge === (back ? cue.start : cue.end)) return cue;
  return { ...cue, ...(back ? { start: edge } : { end: edge }), fadeOut: LET_GO };
}

/**
 * Draws cues to the nearest instants of the picture.
 * @param marks samples; @param strength 0 leaves them, 1 has them land there; @param reach samples within which one is drawn
 * @returns those that move
 */
export function drawnTo(cues: readonly Cue[], marks: readonly number[], strength: number, reach: number): Cue[] {
  return cues.flatMap((cue) => {
    if (cue.locked) return [];
    const nearest = marks.reduce<number | undefined>(
      (best, m) => (best === undefined || Math.abs(m - cue.at) < Math.abs(best - cue.at) ? m : best),
      undefined,
    );
    if (nearest === undefined || Math.abs(nearest - cue.at) > reach) return [];
    const at = Math.round(cue.at + strength * (nearest - cue.at));
    return at === cue.at ? [] : [{ ...cue, at }];
  });
}

/** What was measured of a player's reaction. */
export interface Reaction {
  /** Milliseconds from a flash to the stroke: the middle, and the spread as a standard deviation. */
  median: number;
  spread: number;
  /** Strokes that counted. */
  count: number;
}

/** A stroke within less than this was no answer to the flash, and one after more was none any more. Milliseconds */
const [SOONEST, LATEST] = [100, 700];
/** Strokes that a measurement needs. */
const ENOUGH = 8;

const middle = (values: readonly number[]): number => {
  const sorted = [...values].sort((a, b) => a - b);
  const half = sorted.length >> 1;
  return sorted.length % 2 ? sorted[half] : (sorted[half - 1] + sorted[half]) / 2;
};

/** A player's reaction out of single times, in milliseconds; the spread is the median absolute deviation, scaled to the normal distribution. @returns undefined where too few of them are answers */
export function reactionOf(times: readonly number[]): Reaction | undefined {
  const answers = times.filter((t) => t >= SOONEST && t <= LATEST);
  if (answers.length < ENOUGH) return undefined;
  const median = middle(answers);
  return { median, spread: 1.4826 * middle(answers.map((t) => Math.abs(t - median))), count: answers.length };
}

/** A number and a name for the next pass. */
export function nextTake({ takes = [] }: Pick<Scene, 'takes'>, now: number): Take {
  const id = takes.reduce((most, t) => Math.max(most, t.id), 0) + 1;
  const taken = new Set(takes.map((t) => t.name));
  let n = id;
  while (taken.has(`Take ${n}`)) n++;
  return { id, name: `Take ${n}`, at: now };
}

/** The cues of a take, in the scene or beside. */
export const cuesOfTake = (take: Take, cues: readonly Cue[]): readonly Cue[] =>
  take.aside ?? cues.filter((c) => c.take === take.id);

/**
 * The changes that leave some takes of a scene in it and put others beside.
 * @param wanted by id of a take: whether it is to stand in the scene; those that are not named stay where they are
 * @param trackIds of the scene: a cue whose track is gone comes to the first
 */
export function placeTakes(
  scene: Scene,
  cues: readonly Cue[],
  wanted: ReadonlyMap<number, boolean>,
  trackIds: readonly number[],
): Change[] {
  const rows: Change[] = [];
  const takes = (scene.takes ?? []).map((take): Take => {
    const isIn = take.aside === undefined;
    const want = wanted.get(take.id) ?? isIn;
    if (want === isIn) return take;
    if (!want) {
      const own = cuesOfTake(take, cues);
      rows.push(...own.map((c): Change => removalOf('cues', c)));
      return { ...take, aside: own.map((c) => ({ ...c })) };
    }
    const { aside = [], ...rest } = take;
    const known = new Set(trackIds);
    for (const cue of aside)
      rows.push({
        table: 'cues',
        id: cue.id,
        after: { ...cue, trackId: known.has(cue.trackId) ? cue.trackId : trackIds[0] },
      });
    return rest;
  });
  const own = changeOf('scenes', scene, { takes });
  return own ? [own, ...rows] : [];
}

/** The changes that throw a take away with its cues. */
export function removeTake(scene: Scene, cues: readonly Cue[], id: number): Change[] {
  const take = scene.takes?.find((t) => t.id === id);
  if (!take) return [];
  const gone = take.aside ? [] : cuesOfTake(take, cues);
  const own = changeOf('scenes', scene, { takes: scene.takes!.filter((t) => t.id !== id) });
  return [...(own ? [own] : []), ...gone.map((c): Change => removalOf('cues', c))];
}
