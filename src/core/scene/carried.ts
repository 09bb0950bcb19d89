import { additionOf } from '@core/library';
import type { Mover } from '@core/effects';
import { MAIN } from '@core/engine';
import type { Change } from '@core/library';
import type { LineEffect, Track } from './lines';
import type { Pad } from './pads';
import type { Cue, Marker, PictureRef, Scene, ValueRange } from './scene';
import type { Version } from './versions';

// Scenes that are carried elsewhere: into a copy, or into another catalogue, where all that they name has other ids.

/** A scene with all that it is made of, as rows. */
export interface SceneRows {
  scene: Scene;
  tracks: readonly Track[];
  effects: readonly LineEffect[];
  cues: readonly Cue[];
  markers: readonly Marker[];
  versions: readonly Version[];
}

/** Tables of what a scene is made of, each row after those that it names. */
export const sceneParts = ['tracks', 'effects', 'cues', 'markers', 'versions'] as const;
export type ScenePart = (typeof sceneParts)[number];

/** Ids of all rows of a scene, by table; what only a version or a take that waits still has is among them. */
export function idsIn({ scene, tracks, effects, cues, markers, versions }: SceneRows): Record<ScenePart, number[]> {
  const of = (...lists: readonly (readonly { id: number }[])[]) => [...new Set(lists.flat().map((r) => r.id))];
  return {
    tracks: of(tracks, ...versions.map((v) => v.tracks)),
    effects: of(effects, ...versions.map((v) => v.effects ?? [])),
    cues: of(cues, ...versions.map((v) => v.cues), ...(scene.takes ?? []).map((t) => t.aside ?? [])),
    markers: of(markers, ...versions.map((v) => v.markers)),
    versions: of(versions),
  };
}

/** Ids of all sounds that a scene names, wherever it does. */
export function soundsIn({ scene, cues, effects, versions }: SceneRows): Set<number> {
  const named = new Set<number>();
  for (const { sound } of [effects, ...versions.map((v) => v.effects ?? [])].flat()) if (sound) named.add(sound.id);
  const all = [cues, ...versions.map((v) => v.cues), ...(scene.takes ?? []).map((t) => t.aside ?? [])];
  for (const cue of all.flat()) for (const id of [cue.soundId, ...(cue.tried ?? [])]) named.add(id);
  for (const { soundId } of scene.allowed ?? []) named.add(soundId);
  for (const { source } of scene.pads ?? []) if (source.by === 'hand') source.soundIds.forEach((id) => named.add(id));
  return named;
}

/** What ids are elsewhere. */
export interface OtherIds extends Record<ScenePart, ReadonlyMap<number, number>> {
  scene: number;
  /** The same as they are when absent; otherwise, what is not among them is not there. */
  sounds?: ReadonlyMap<number, number>;
  pulls?: ReadonlyMap<number, number>;
}

/** What was found in the picture, said of the place where that lies now. */
function cutsAt({ picture: old, cuts }: Scene, picture: PictureRef | undefined): Scene['cuts'] {
  const place = (of: PictureRef) => `${of.rootId}/${of.path}/`;
  if (!picture || !old || !cuts?.of.startsWith(place(old))) return picture ? undefined : cuts;
  return { ...cuts, of: place(picture) + cuts.of.slice(place(old).length) };
}

/**
 * A scene under other ids. A cue whose track or sound is not there is left out, in versions and takes as well; a way into a line that is not there leads to
 * the main line again, and a send to it goes.
 * @param picture where its picture lies there; as it is when absent
 */
export function carriedOver(rows: SceneRows, ids: OtherIds, picture?: PictureRef): SceneRows {
  const sound = (id: number) => (ids.sounds ? ids.sounds.get(id) : id);
  const sounds = (list: readonly number[]) => list.flatMap((id) => sound(id) ?? []);
  const line = (id: number) => ids.tracks.get(id) ?? (id === MAIN ? MAIN : undefined);
  const own = <T extends { id: number }>(table: ScenePart, row: T): T => ({
    ...row,
    id: ids[table].get(row.id)!,
    sceneId: ids.scene,
  });
  /** Without what is not there. */
  const kept = <T extends object>(row: T): T =>
    Object.fromEntries(Object.entries(row).filter(([, value]) => value !== undefined)) as T;

  const track = (row: Track): Track =>
    kept({ ...own('tracks', row), into: row.into === undefined ? undefined : line(row.into) });
  const effect = (row: LineEffect): LineEffect[] => {
    const [lineId, other] = [line(row.lineId), row.line === undefined ? undefined : line(row.line)];
    if (lineId === undefined || (row.kind === 'send' && row.line !== undefined && other === undefined)) return [];
    const soundId = row.sound && sound(row.sound.id);
    const madeOf = soundId === undefined ? undefined : { ...row.sound!, id: soundId };
    return [kept({ ...own('effects', row), lineId, line: other, sound: madeOf })];
  };
  const cue = (row: Cue): Cue[] => {
    const [trackId, soundId] = [ids.tracks.get(row.trackId), sound(row.soundId)];
    if (trackId === undefined || soundId === undefined) return [];
    const tried = row.tried && sounds(row.tried);
    return [kept({ ...own('cues', row), trackId, soundId, tried })];
  };
  const marker = (row: Marker): Marker => own('markers', row);
  const pad = (row: Pad): Pad => {
    const { source } = row;
    const pull = source.by === 'pull' ? (ids.pulls ? ids.pulls.get(source.pullId) : source.pullId) : undefined;
    const from: Pad['source'] =
      source.by === 'query'
        ? source
        : source.by === 'hand'
          ? { by: 'hand', soundIds: sounds(source.soundIds) }
          : pull === undefined
            ? { by: 'hand', soundIds: [] }
            : { by: 'pull', pullId: pull };
    const trackId = row.trackId === undefined ? undefined : ids.tracks.get(row.trackId);
    return kept({ ...row, source: from, trackId });
  };
  const mover = (row: Mover): Mover => {
    const moves = row.moves.flatMap((m) => {
      const id = m.of === 'line' ? line(m.id) : ids.effects.get(m.id);
      return id === undefined ? [] : [{ ...m, id }];
    });
    return kept({ ...row, line: row.line === undefined ? undefined : line(row.line), moves });
  };
  const range = (row: ValueRange): ValueRange[] => {
    const id = (row.of === 'layer' ? ids.tracks : ids.effects).get(row.id);
    return id === undefined ? [] : [{ ...row, id }];
  };
  const { scene } = rows;
  return {
    scene: kept({
      ...scene,
      id: ids.scene,
      picture: picture ?? scene.picture,
      cuts: cutsAt(scene, picture),
      allowed: scene.allowed?.flatMap((a) => {
        const soundId = sound(a.soundId);
        return soundId === undefined ? [] : [{ ...a, soundId }];
      }),
      movers: scene.movers?.map(mover),
      ranges: scene.ranges?.flatMap(range),
      pads: scene.pads?.map(pad),
      takes: scene.takes?.map((t) => (t.aside ? { ...t, aside: t.aside.flatMap(cue) } : t)),
    }),
    tracks: rows.tracks.map(track),
    effects: rows.effects.flatMap(effect),
    cues: rows.cues.flatMap(cue),
    markers: rows.markers.map(marker),
    versions: rows.versions.map((v) =>
      kept({
        ...own('versions', v),
        tracks: v.tracks.map(track),
        effects: v.effects?.flatMap(effect),
        movers: v.movers?.map(mover),
        ranges: v.ranges?.flatMap(range),
        cues: v.cues.flatMap(cue),
        markers: v.markers.map(marker),
      }),
    ),
  };
}

/** The changes that make a scene of such rows. */
export function madeOf({ scene, ...rows }: SceneRows): Change[] {
  return [
    additionOf('scenes', scene),
    ...sceneParts.flatMap((table) => rows[table].map((row): Change => additionOf(table, row))),
  ];
}
