import { additionOf, removalOf } from '@core/library';
import type { Track } from './lines';
import type { Change, Patch } from '@core/library';

/** A track as scenes kept it in a list of their own, before tracks were records. Its id counted within the scene. */
interface ListedTrack {
  id: number;
  name: string;
  gain: number;
  mute: boolean;
  solo: boolean;
}
type Row = Record<string, unknown> & { id: number };

/** Tracks of such lists get ids up here, where no counter comes to. */
const LISTED = 1e9;
const MOST = 1000;

/** The id that a listed track has as a record. */
const idOf = (sceneId: number, listed: number): number => LISTED + (sceneId % 1e6) * MOST + (listed % MOST);

const listed = (value: unknown): ListedTrack[] | undefined =>
  Array.isArray(value) ? (value as ListedTrack[]) : undefined;

/** Listed tracks as records, in the order of their list. */
const recordsOf = (sceneId: number, list: readonly ListedTrack[]): Track[] =>
  list.map((t, order) => ({ ...t, id: idOf(sceneId, t.id), sceneId, order }));

/** A scene without its list of tracks, and those as records of their own; a scene that has no list is as it should be. */
export function upgradedScene<T extends Row>(row: T): { scene: T; tracks: Track[] } {
  const list = listed(row.tracks);
  if (!list) return { scene: row, tracks: [] };
  const scene = { ...row };
  delete scene.tracks;
  return { scene, tracks: recordsOf(row.id, list) };
}

/** A cue of the time when tracks were listed. */
export const upgradedCue = <T extends { trackId?: unknown }>(cue: T, sceneId: number): T =>
  typeof cue.trackId === 'number' && cue.trackId < LISTED ? { ...cue, trackId: idOf(sceneId, cue.trackId) } : cue;

/** What became of a list of tracks, as changes of records. */
function trackChanges(sceneId: number, before: readonly ListedTrack[], after: readonly ListedTrack[]): Change[] {
  const old = new Map(recordsOf(sceneId, before).map((t) => [t.id, t]));
  const changes: Change[] = [];
  for (const track of recordsOf(sceneId, after)) {
    const was = old.get(track.id);
    old.delete(track.id);
    if (!was) changes.push(additionOf('tracks', track));
    else {
      const keys = (Object.keys(track) as (keyof Track)[]).filter((key) => track[key] !== was[key]);
      const of = (t: Track): Patch => Object.fromEntries(keys.map((key) => [key, t[key]]));
      if (keys.length > 0) changes.push({ table: 'tracks', id: track.id, before: of(was), after: of(track) });
    }
  }
  for (const track of old.values()) changes.push(removalOf('tracks', track));
  return changes;
}

/**
 * Changes of the time when tracks were listed, so that they can still be taken back.
 * @param sceneOf the scene of a cue, where a change names its track alone
 */
export function upgradedChanges(changes: readonly Change[], sceneOf: (cueId: number) => number | undefined): Change[] {
  return changes.flatMap((change): Change[] => {
    const { table, id, before, after } = change;
    if (table === 'cues') {
      const sceneId = (before?.sceneId ?? after?.sceneId ?? sceneOf(id)) as number | undefined;
      if (sceneId === undefined) return [change];
      const over = (side: Patch | undefined) => side && upgradedCue(side, sceneId);
      return [{ ...change, ...(before ? { before: over(before) } : {}), ...(after ? { after: over(after) } : {}) }];
    }
    if (table !== 'scenes' || (!before?.tracks && !after?.tracks)) return [change];
    const { tracks: old, ...rest } = before ?? {};
    const { tracks: now, ...next } = after ?? {};
    const own: Change = { table, id, ...(before ? { before: rest } : {}), ...(after ? { after: next } : {}) };
    const nothing = before && after && Object.keys(rest).length === 0 && Object.keys(next).length === 0;
    return [...(nothing ? [] : [own]), ...trackChanges(id, listed(old) ?? [], listed(now) ?? [])];
  });
}
