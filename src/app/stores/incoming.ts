import { additionOf } from '@core/library';
import type { Change, Sound } from '@core/library';
import { cueOfClip, fileStem, soundFor, type Incoming, type IncomingClip, type Scene, type Track } from '@core/scene';
import { startListReader, type ReadList } from '@platform/index';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

/** What a file from elsewhere holds. @param fps name of the rate that an edit list counts in @throws Error in words */
export async function readList(file: File, scene: Scene, fps: string): Promise<ReadList> {
  const { reader, end } = startListReader();
  try {
    return await reader.read(file, file.name.replace(/\.[^.]*$/, ''), JSON.parse(JSON.stringify(scene)) as Scene, fps);
  } finally {
    end();
  }
}

/** The sounds with the same audio as files that lie in an archive, by their paths there. */
async function soundsByAudio(archive: File, paths: readonly string[]): Promise<Map<string, Sound>> {
  const { reader, end } = startListReader();
  try {
    const hashes = [...(await reader.hashes(archive, [...paths]))];
    const ids = await catalogue.idsOfPlaces(hashes.map(([, hash]) => ({ root: '', path: '', hash })));
    const sounds = await useLibrary().need(ids.filter((id) => id !== undefined));
    const byId = new Map(sounds.map((s) => [s.id, s]));
    return new Map(
      hashes.flatMap(([path], i) => {
        const sound = ids[i] === undefined ? undefined : byId.get(ids[i]);
        return sound ? [[path, sound] as const] : [];
      }),
    );
  } finally {
    end();
  }
}

/**
 * The sounds that clips mean, by their files' names, else by the audio of the files that come with the list; undefined for those that the library does not
 * have.
 * @param from what was read
 */
export async function soundsOfClips(clips: readonly IncomingClip[], from: File): Promise<(Sound | undefined)[]> {
  const library = useLibrary();
  const named = new Map<string, Sound[]>();
  for (const stem of new Set(clips.map(fileStem))) {
    const ids = await catalogue.ids({ text: `file:"${stem.replaceAll('"', ' ')}"`, reach: 'words' });
    const sounds = await library.need([...ids.subarray(0, 200)]);
    named.set(
      stem,
      sounds.filter((s) => fileStem({ file: s.path, name: '' }) === stem),
    );
  }
  const byName = clips.map((clip) => soundFor(clip, named.get(fileStem(clip)) ?? []));
  const other = [...new Set(clips.flatMap(({ file }, i) => (byName[i] || !file ? [] : file)))];
  if (other.length === 0) return byName;
  const byAudio = await soundsByAudio(from, other);
  return clips.map(({ file }, i) => byName[i] ?? byAudio.get(file));
}

/** Takes parts of a list into the scene, as one step. */
export async function takeIn(
  list: Incoming,
  what: { cuts: boolean; markers: boolean; clips: boolean },
  sounds: readonly (Sound | undefined)[],
): Promise<boolean> {
  const scene = useScene();
  const of = scene.current;
  if (!of) return false;
  const changes: Change[] = [];
  let [rows, out] = [0, 0];
  const add = (table: Change['table'], record: { id: number }) => {
    changes.push(additionOf(table, record));
    rows++;
  };
  const cuts = what.cuts ? list.cuts.filter((c) => c.at > 0) : [];
  if (what.cuts) out += list.cuts.filter((c) => c.at < 0).length;
  if (cuts.length > 0) {
    const before = of.listed ?? [];
    const fresh = cuts.filter((c) => !before.some((b) => b.at === c.at));
    const listed = [...before, ...fresh].sort((a, b) => a.at - b.at);
    if (fresh.length > 0)
      changes.push({ table: 'scenes', id: of.id, before: { listed: of.listed }, after: { listed } });
    rows += fresh.length;
  }
  if (what.markers) {
    const ids = await catalogue.newIds('markers', list.markers.length);
    list.markers.forEach(({ at, name, colour }, i) => {
      if (at < 0) return void out++;
      add('markers', {
        ...{ id: ids[i], sceneId: of.id, at, name: name || 'Marker' },
        ...(colour ? { colour } : {}),
      } as { id: number });
    });
  }
  if (what.clips) {
    const known = list.clips.flatMap((clip, i) => (sounds[i] ? { clip, sound: sounds[i] } : []));
    const tracks = new Map<string, Track>(scene.tracks.map((t) => [t.name, t]));
    const missing = [...new Set(known.map(({ clip }) => clip.track || 'Taken in'))].filter((n) => !tracks.has(n));
    const made = await scene.newTracks(
      of.id,
      missing.map((name) => ({ name, gain: 0 })),
    );
    const last = Math.max(-1, ...scene.lines.map((t) => t.order));
    made.forEach((track, i) => {
      const own = { ...track, order: last + 1 + i };
      tracks.set(own.name, own);
      changes.push(additionOf('tracks', own));
    });
    const ids = await catalogue.newIds('cues', known.length);
    const now = Date.now();
    known.forEach(({ clip, sound }, i) => {
      const own = { id: ids[i], sceneId: of.id, trackId: tracks.get(clip.track || 'Taken in')!.id, made: now };
      const cue = cueOfClip(clip, sound, own, of.sampleRate);
      if (cue) add('cues', JSON.parse(JSON.stringify(cue)) as typeof cue);
      else out++;
    });
  }
  const rest = out > 0 ? `; ${out} left out, before the first frame or behind the end of a file` : '';
  if (changes.length === 0) {
    tell.info(`Nothing of it is new here${rest}`);
    return false;
  }
  if (!(await scene.edit(`Take in ${list.name || 'a list'}`, changes))) return false;
  tell.done(`${things(rows, 'event, marker or cue', 'events, markers and cues')} taken in${rest}`);
  return true;
}
