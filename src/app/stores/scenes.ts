import type { Change } from '@core/library';
import { MAIN } from '@core/engine';
import type { Cue, LineEffect, Scene, Track, Version } from '@core/scene';
import { tell } from '../shell/notice';
import { useTransport } from './transport';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

// What is done with scenes as wholes. It is no step within a scene: the library takes it back.

/** Works on another scene from now on. */
export async function openScene(id: number): Promise<void> {
  const scene = useScene();
  const transport = useTransport();
  if (scene.current?.id === id) return;
  if (transport.playing) transport.stop();
  await scene.select(undefined);
  scene.currentId = id;
  transport.run(false, 0, scene.current?.loop ?? null);
}

/** Makes an empty scene, and opens it. */
export async function newScene(): Promise<void> {
  const scene = useScene();
  const made = await scene.create(freeName('Untitled scene'));
  await openScene(made.id);
}

/** A name that no scene has yet. */
function freeName(name: string): string {
  const taken = new Set(useScene().scenes.map((s) => s.name));
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${name} ${n}`;
    if (!taken.has(free)) return free;
  }
}

/** Tables of what a scene is made of, each row after those that it names. */
const parts = ['tracks', 'effects', 'cues', 'markers', 'versions'] as const;
type Part = (typeof parts)[number];
/** Rows of a scene, as they are. */
async function rowsOf(of: Scene): Promise<Record<Part, { id: number; sceneId: number }[]>> {
  const all = await Promise.all(parts.map((table) => catalogue.all(table)));
  const own = all.map((rows) => (rows as { id: number; sceneId: number }[]).filter((r) => r.sceneId === of.id));
  return Object.fromEntries(parts.map((table, i) => [table, own[i]])) as Record<
    Part,
    { id: number; sceneId: number }[]
  >;
}

/** Copies the scene with all that it is made of, its versions too, and opens the copy. */
export async function copyScene(of: Scene): Promise<void> {
  const scene = useScene();
  const rows = await rowsOf(of);
  const versions = rows.versions as Version[];
  const [id] = await catalogue.newIds('scenes', 1);
  // What only a version still has needs a name of its own as well.
  const known = {
    tracks: [...rows.tracks, ...versions.flatMap((v) => v.tracks)],
    effects: [...rows.effects, ...versions.flatMap((v) => v.effects ?? [])],
    cues: [...rows.cues, ...versions.flatMap((v) => v.cues), ...(of.takes ?? []).flatMap((t) => t.aside ?? [])],
    markers: [...rows.markers, ...versions.flatMap((v) => v.markers)],
    versions,
  };
  const onto = {} as Record<Part, Map<number, number>>;
  for (const table of parts) {
    const old = [...new Set(known[table].map((r) => r.id))];
    const fresh = await catalogue.newIds(table, old.length);
    onto[table] = new Map(old.map((was, i) => [was, fresh[i]]));
  }
  const own = <T extends { id: number }>(table: Part, row: T): T => ({
    ...row,
    id: onto[table].get(row.id)!,
    sceneId: id,
  });
  const cue = (row: Cue): Cue[] => {
    const trackId = onto.tracks.get(row.trackId);
    return trackId === undefined ? [] : [{ ...own('cues', row), trackId }];
  };
  /** The copy of a line that something names. */
  const lineOf = (was: number | undefined) =>
    was === undefined ? undefined : (onto.tracks.get(was) ?? (was === MAIN ? MAIN : undefined));
  const named = <T extends object>(row: T, keys: (keyof T)[]): T =>
    Object.fromEntries(
      Object.entries(row).map(([key, value]) => [key, keys.includes(key as keyof T) ? lineOf(value as number) : value]),
    ) as T;
  const track = (row: Track) => named(own('tracks', row), ['into']);
  const effect = (row: LineEffect) => named(own('effects', row), ['lineId', 'line']);
  const made = <T extends { id: number }>(table: Change['table'], row: T): Change => ({
    table,
    id: row.id,
    after: { ...row },
  });
  const name = freeName(`${of.name}, copy`);
  const changes: Change[] = [
    made('scenes', {
      ...{ ...of, id, name },
      ...(of.pads ? { pads: of.pads.map((p) => named(p, ['trackId'])) } : {}),
      ...(of.takes ? { takes: of.takes.map((t) => (t.aside ? { ...t, aside: t.aside.flatMap(cue) } : t)) } : {}),
    } as Scene),
    ...(rows.tracks as Track[]).map((t) => made('tracks', track(t))),
    ...(rows.effects as LineEffect[]).map((e) => made('effects', effect(e))),
    ...(rows.cues as Cue[]).flatMap(cue).map((c) => made('cues', c)),
    ...rows.markers.map((m) => made('markers', own('markers', m))),
    ...versions.map((v) =>
      made('versions', {
        ...own('versions', v),
        tracks: v.tracks.map(track),
        ...(v.effects ? { effects: v.effects.map(effect) } : {}),
        cues: v.cues.flatMap(cue),
        markers: v.markers.map((m) => own('markers', m)),
      }),
    ),
  ];
  if (!(await useLibrary().edit(`Copy ${of.name}`, changes))) return;
  await scene.load();
  await openScene(id);
  tell.done(`${name} is open`);
}

/** Gives the scene another name. */
export async function renameScene(of: Scene, name: string): Promise<void> {
  if (name.trim() !== '' && name !== of.name)
    await useLibrary().patch(`Rename ${of.name}`, 'scenes', of, { name: name.trim() });
}

/** Puts the scene with all that it is made of into the bin. */
export async function removeScene(of: Scene): Promise<void> {
  const scene = useScene();
  const own = await rowsOf(of);
  const next = scene.scenes.find((s) => s.id !== of.id);
  const rows = parts.flatMap((table) => own[table].map((record) => ({ table, record: { ...record } })));
  if (next) await openScene(next.id);
  if (await useLibrary().discard('scenes', { ...of }, [], { rows }))
    tell.done(`${of.name} is in the bin, under History and backup in Label`);
  await scene.load();
}
