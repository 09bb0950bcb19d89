import { removalOf } from '@core/library';
import { audioEndings } from '@core/files';
import type { Change, ListedFile, Reconnection, Sound } from '@core/library';
import { changeOf, familyOf, findMoves, matchByPath, placedAt } from '@core/library';
import { isCategory } from '@core/suggest';
import type { IntakeReader } from './intake';
import { listFiles } from '../files/roots';
import { followedOf, type Asked, type IntakeCatalogue } from './root-run';
import type { RootRecord } from '../store/store';

/** What reconnecting would do: files that were found for sounds, and sounds for which none was. */
export interface ReconnectionPlan {
  found: Reconnection[];
  lost: { id: number; path: string }[];
}

/** Readers that share a list of files, and the progress they make. */
export interface Hands {
  share(
    files: ListedFile[],
    task: (reader: Asked<IntakeReader, 'quickHash' | 'audioHash'>, file: ListedFile) => Promise<void>,
  ): Promise<void>;
  work: { done: number; total: number };
  told(): void;
}

/**
 * Finds the files of a root's missing sounds below another folder: by path and size, then by head and tail, then by the audio
 * itself. Each way only looks at what the ones before left over. Nothing is changed; see {@link reconnect}.
 * @param away the root cannot be read, so that all of its sounds are looked for
 * @throws RootUnavailable when the folder cannot be read
 */
export async function planReconnection(
  catalogue: IntakeCatalogue,
  hands: Hands,
  rootId: number,
  target: RootRecord,
  away: boolean,
): Promise<ReconnectionPlan> {
  const heads = new Set((await catalogue.followed(rootId)).map((s) => s.id));
  // Excerpts go where their file goes.
  const marked = away ? [] : await catalogue.missing(rootId);
  // Where none is missed by itself, all of the root is.
  const lost = marked.length > 0 ? marked : await catalogue.soundsOf(rootId);
  const missing = lost.filter((s) => heads.has(s.id));
  const files: ListedFile[] = [];
  for await (const listed of listFiles(target)) files.push(...listed.files.filter((f) => audioEndings.test(f.path)));
  const found = matchByPath(missing.map(followedOf), files);
  const left = () => missing.filter((s) => !found.some((f) => f.soundId === s.id));
  const free = () => {
    const taken = new Set(found.map((f) => f.to.path));
    return files.filter((f) => !taken.has(f.path));
  };
  found.push(...(await matchByContent(hands, target, left(), free())));
  found.push(...(await matchByAudio(hands, target, left(), free())));
  return { found, lost: left().map(({ id, path }) => ({ id, path })) };
}

async function matchByContent(
  hands: Hands,
  target: RootRecord,
  left: Sound[],
  files: ListedFile[],
): Promise<Reconnection[]> {
  const sizes = new Set(left.map((s) => s.size));
  const alike = files.filter((f) => sizes.has(f.size));
  hands.work.total += alike.length;
  const traced = new Map<string, ListedFile & { quickHash: string }>();
  await hands.share(alike, async (reader, file) => {
    traced.set(file.path, { ...file, quickHash: await reader.quickHash(target, file) });
    hands.work.done++;
    hands.told();
  });
  const moves = findMoves([...traced.values()], left.map(followedOf));
  return [...moves].map(([path, sound]) => {
    const { size, modified } = traced.get(path)!;
    return { soundId: sound.id, from: sound.path, to: { path, size, modified }, by: 'content' };
  });
}

async function matchByAudio(
  hands: Hands,
  target: RootRecord,
  left: Sound[],
  files: ListedFile[],
): Promise<Reconnection[]> {
  const byHash = new Map(left.flatMap((s) => (s.hash ? [[s.hash, s] as const] : [])));
  if (byHash.size === 0) return [];
  const found: Reconnection[] = [];
  hands.work.total += files.length;
  const key = ({ format: f }: Sound) => `${f.rate}/${f.channels}/${f.frames}`;
  const formats = [...new Map(left.map((s) => [key(s), s.format])).values()];
  await hands.share(files, async (reader, file) => {
    for (const format of formats) {
      if (byHash.size === 0) break;
      const hash = await reader.audioHash(target, file, format);
      const sound = hash === undefined ? undefined : byHash.get(hash);
      if (!sound) continue;
      byHash.delete(hash!);
      found.push({ soundId: sound.id, from: sound.path, to: file, by: 'audio' });
      break;
    }
    hands.work.done++;
    hands.told();
  });
  return found;
}

/**
 * Connects sounds with the files that were found for them, as one edit. Everything attached to them stays. Where the new
 * folder was taken in already, its record of the same file gives way, unless somebody has worked on it.
 */
export async function reconnect(
  catalogue: IntakeCatalogue,
  target: RootRecord,
  found: readonly Reconnection[],
): Promise<void> {
  const families = new Map((await catalogue.followed()).map((s) => [s.id, familyOf(s)]));
  const wanted = found.flatMap((f) => families.get(f.soundId) ?? []);
  const sounds = new Map((await catalogue.sounds(wanted)).map((s) => [s.id, s]));
  const there = new Map((await catalogue.followed(target.id)).map((s) => [s.path, s.id]));
  const pulls = (await catalogue.all('pulls')) as { soundIds: number[] }[];
  const cues = (await catalogue.all('cues')) as { soundId: number }[];
  const used = new Set([...pulls.flatMap((p) => p.soundIds), ...cues.map((c) => c.soundId)]);
  const doubles = new Map(
    (await catalogue.sounds(found.flatMap((f) => there.get(f.to.path) ?? []))).map((d) => [d.path, d]),
  );
  const worked = (d: Sound) => used.has(d.id) || Object.values(d.from).includes('typed') || d.fields.tags !== undefined;
  const changes: (Change | undefined)[] = [];
  for (const { soundId, to } of found) {
    const sound = sounds.get(soundId);
    if (!sound) continue;
    const double = doubles.get(to.path);
    if (double && double.id !== soundId && !worked(double)) changes.push(removalOf('sounds', double));
    for (const id of (families.get(soundId) ?? []).filter((i) => sounds.has(i)))
      changes.push(changeOf('sounds', sounds.get(id)!, placedAt(target.id, to, isCategory)));
  }
  const real = changes.filter((c) => c !== undefined);
  if (real.length === 0) return;
  const what = found.length === 1 ? sounds.get(found[0].soundId)?.path : `${found.length} sounds`;
  await catalogue.apply({ label: `Reconnect ${what}`, at: Date.now(), changes: real, undoable: true });
}
