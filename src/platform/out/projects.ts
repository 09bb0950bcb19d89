import { fullShape } from '@core/audio';
import type { Sound } from '@core/library';
import {
  playsAsIs,
  writeDawproject,
  writeDawprojectFacts,
  type Cue,
  type Lines,
  type Marker,
  type ProjectMedia,
  type Scene,
} from '@core/scene';
import { downloadZip } from 'client-zip';
import type { Loadable } from '../audio/loader';
import { openFile } from '../files/roots';
import type { RootRecord } from '../store/store';
import { renderedFile } from './taker';

/** A project with its sounds, in one archive. */
export interface ProjectAnswer {
  zip: Blob;
  /** Files that lie in it as they are, and parts that were rendered. */
  copied: number;
  rendered: number;
  /** Sounds that could not be read, with the reason; their cues are not in it. */
  missing: { name: string; reason: string }[];
}

/** Bytes of a file that are read at once. */
const PART = 4 << 20;

/** A file as it is, in parts. */
export async function copyOf(root: RootRecord, path: string, size: number): Promise<Blob> {
  const file = await openFile(root, path, size);
  const parts: Blob[] = [];
  // A blob of its own may go to the disk; plain bytes stay in memory.
  for (let at = 0; at < size; at += PART)
    parts.push(new Blob([(await file.read(at, Math.min(PART, size - at))) as Uint8Array<ArrayBuffer>]));
  return new Blob(parts);
}

/**
 * Writes a scene as a DAWproject archive: each sound once, as its file is, and what is played otherwise than it lies there rendered beside.
 * @param sounds by id, of all cues
 */
export async function projectArchive(
  scene: Scene,
  lines: Lines,
  cues: readonly Cue[],
  markers: readonly Marker[],
  items: readonly Loadable[],
  sounds: ReadonlyMap<number, Pick<Sound, 'fields' | 'marks'>>,
  progress: (share: number) => void,
): Promise<ProjectAnswer> {
  const answer = { copied: 0, rendered: 0, missing: [] as ProjectAnswer['missing'] };
  const files: { name: string; input: Blob; lastModified: Date }[] = [];
  const date = new Date();
  const taken = new Set<string>();
  /** A name that no other file of the archive has, whatever a file system thinks of capitals. */
  const free = (name: string): string => {
    const [stem, ending] = [name.replace(/\.[^.]*$/, ''), /\.[^.]*$/.exec(name)?.[0] ?? ''];
    for (let n = 1; ; n++) {
      const path = `audio/${n === 1 ? name : `${stem} ${n}${ending}`}`;
      if (taken.has(path.toLowerCase())) continue;
      taken.add(path.toLowerCase());
      return path;
    }
  };
  const byId = new Map(items.map((i) => [i.sound.id, i]));
  const media = new Map<number, ProjectMedia>();
  const copies = new Map<number, string | undefined>();
  for (const [n, cue] of cues.entries()) {
    const item = byId.get(cue.soundId);
    const told = (share: number) => progress((n + share) / cues.length);
    if (!item) continue;
    const { format, path } = item.sound;
    const fileName = path.slice(path.lastIndexOf('/') + 1);
    try {
      if (playsAsIs(cue)) {
        if (!copies.has(cue.soundId)) {
          copies.set(cue.soundId, undefined);
          const input = await copyOf(item.root, path, item.sound.size);
          const name = free(fileName);
          files.push({ name, input, lastModified: date });
          copies.set(cue.soundId, name);
          answer.copied++;
        }
        const copy = copies.get(cue.soundId);
        if (copy)
          media.set(cue.id, {
            path: copy,
            channels: format.channels,
            rate: format.rate,
            frames: format.frames,
            from: cue.start,
          });
      } else {
        const { fields = {}, marks = { anchor: 0 } } = sounds.get(cue.soundId) ?? {};
        const shape = { ...fullShape(cue.shape), gain: 0, fadeIn: 0, fadeOut: 0 };
        const part = {
          fields,
          marks: { ...marks, anchor: cue.anchor, region: { start: cue.start, end: cue.end }, shape },
        };
        const how = { bits: 24, dither: true, shaped: true, region: true } as const;
        const { bytes, frames, channels } = await renderedFile({ item, sound: part, name: '' }, new Map(), how, told);
        const name = free(`${fileName.replace(/\.[^.]*$/, '')} as played.wav`);
        files.push({ name, input: new Blob([bytes as Uint8Array<ArrayBuffer>]), lastModified: date });
        media.set(cue.id, { path: name, channels, rate: format.rate, frames, from: 0 });
        answer.rendered++;
      }
    } catch (error) {
      if (!answer.missing.some((m) => m.name === path))
        answer.missing.push({ name: path, reason: (error as Error).message });
    }
    told(1);
  }
  const xml = writeDawproject(scene, lines, cues, markers, (cue) => media.get(cue.id), '1');
  const texts = { 'project.xml': xml, 'metadata.xml': writeDawprojectFacts(scene) };
  const heads = Object.entries(texts).map(([name, text]) => ({ name, input: text, lastModified: date }));
  return { zip: await downloadZip([...heads, ...files]).blob(), ...answer };
}
