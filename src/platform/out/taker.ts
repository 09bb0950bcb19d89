import { dithered, fullShape, plainShape, stretchedRegion, stretchOf } from '@core/audio';
import { CHUNK, Material, renderExcerpt } from '@core/engine';
import { encodeFlac, writeWav } from '@core/files';
import { flacLabelsOf, wavLabelsOf, type Sound } from '@core/library';
import { Zip, ZipPassThrough } from 'fflate';
import { writeInto } from '../files/folders';
import type { Loadable } from '../audio/loader';
import { openSound } from '../audio/reader';
import { openFile } from '../files/roots';
import { stretched } from '../audio/stretch';

/** What is taken of sounds, and how it is stored. */
export interface TakeHow {
  /** Hz; that of each sound when absent. */
  rate?: number;
  bits: 16 | 24 | 32;
  float?: boolean;
  /** FLAC rather than WAV; of 16 or 24 bit. */
  flac?: boolean;
  /** Noise that turns the error of rounding into noise; for 16 and 24 bit. */
  dither: boolean;
  /** Whether gain, speed, fades and the like go along. */
  shaped: boolean;
  /** Whether only the region is taken, where there is one. */
  region: boolean;
}

/** A sound that is to be taken, and the name of its file. */
export interface Taken {
  item: Loadable;
  sound: Pick<Sound, 'fields' | 'marks'>;
  name: string;
}

export interface TakeAnswer {
  /** One file, or the ZIP archive of several; absent where they were written into a folder. */
  blob?: Blob;
  written: number;
  clipped: number;
  /** Sounds that could not be taken, with the reason. */
  missing: { name: string; reason: string }[];
}

/** Samples over all channels that are held at once: about 800 MB. */
const MOST = 200e6;
/** Frames on either side of what is played that joining and resampling may look at. */
const MARGIN = 3 * CHUNK;

/** A name that no file of a folder has yet: nothing there is written over. */
async function freeName(folder: FileSystemDirectoryHandle, name: string): Promise<string> {
  const [stem, ending] = [name.replace(/\.[^.]*$/, ''), name.slice(name.lastIndexOf('.'))];
  for (let n = 1; ; n++) {
    const free = n === 1 ? name : `${stem} ${n}${ending}`;
    const there = await folder.getFileHandle(free).then(
      () => true,
      (error: DOMException) => error.name !== 'NotFoundError',
    );
    if (!there) return free;
  }
}

/** One sound as a file, rendered by the voice that one listens to. @throws Error with the reason in words for the user */
export async function renderedFile(
  { item, sound }: Taken,
  tags: ReadonlyMap<number, string>,
  how: TakeHow,
  progress: (share: number) => void,
) {
  const shape = how.shaped ? fullShape(sound.marks.shape) : plainShape;
  const stretch = stretchOf(shape);
  const opened = await openSound(await openFile(item.root, item.sound.path, item.sound.size), item.sound.format);
  const reader = stretched(opened, stretch);
  const { format } = reader;
  const own = (how.region && sound.marks.region) || { start: 0, end: item.sound.format.frames };
  const region = stretchedRegion(own, stretch);
  const from = Math.max(0, region.start - MARGIN);
  const to = Math.min(format.frames, region.end + MARGIN);
  if ((to - from) * format.channels > MOST)
    throw new Error('it is too long to be rendered at once; set a region and take that');
  const material = new Material(format.rate, format.frames, format.channels);
  for (let c = Math.floor(from / CHUNK); c * CHUNK < to; c++) {
    material.put(c, await reader.read(c * CHUNK, CHUNK));
    progress((0.5 * (c * CHUNK - from)) / (to - from));
  }
  const rate = how.rate ?? format.rate;
  const planes = renderExcerpt(material, { region, gain: 0, shape }, rate, undefined, (share) =>
    progress(0.5 + share / 2),
  );
  let clipped = 0;
  if (!how.float) for (const plane of planes) for (const x of plane) if (Math.abs(x) > 1) clipped++;
  // Where the audio runs otherwise than in the file, its anchor is no longer at one place.
  const { anchor } = sound.marks;
  const kept = anchor >= own.start && anchor < own.end && shape.direction === 'forward';
  const at = Math.round(((anchor - own.start) * shape.length * rate) / (format.rate * shape.speed));
  const rounded = how.dither && !how.float ? dithered(planes, how.bits) : planes;
  const labels = wavLabelsOf(sound, tags, kept ? at : undefined);
  if (how.flac && how.bits !== 32)
    return {
      ...{ frames: planes[0].length, channels: planes.length },
      bytes: await encodeFlac(rounded, { rate, bits: how.bits }, flacLabelsOf(sound, tags, kept ? at : undefined)),
      clipped,
    };
  const bytes = writeWav(rounded, { rate, bits: how.bits, float: how.float }, labels);
  return { bytes, clipped, frames: planes[0].length, channels: planes.length };
}

/** Takes sounds away as files, in a worker. */
export class Taker {
  /**
   * Takes sounds one after another: one as it is, several as an archive, or all into a folder.
   * @param progress called with 0..1 now and then
   */
  async take(
    taken: readonly Taken[],
    tags: ReadonlyMap<number, string>,
    how: TakeHow,
    folder: FileSystemDirectoryHandle | undefined,
    progress: (share: number) => void,
  ): Promise<TakeAnswer> {
    const type = how.flac ? 'audio/flac' : 'audio/wav';
    const answer: TakeAnswer = { written: 0, clipped: 0, missing: [] };
    const parts: Uint8Array<ArrayBuffer>[] = [];
    const zip = new Zip((error, part) => {
      if (error) throw error;
      parts.push(part as Uint8Array<ArrayBuffer>);
    });
    for (const [n, one] of taken.entries()) {
      try {
        const { bytes, clipped } = await renderedFile(one, tags, how, (share) => progress((n + share) / taken.length));
        answer.clipped += clipped;
        if (folder)
          await writeInto(
            folder,
            await freeName(folder, one.name),
            new Blob([bytes as Uint8Array<ArrayBuffer>], { type }),
          );
        else if (taken.length === 1) parts.push(bytes as Uint8Array<ArrayBuffer>);
        else {
          const entry = new ZipPassThrough(one.name);
          zip.add(entry);
          entry.push(bytes, true);
        }
        answer.written++;
      } catch (error) {
        answer.missing.push({ name: one.item.sound.path, reason: (error as Error).message });
      }
    }
    progress(1);
    if (folder || answer.written === 0) return answer;
    if (taken.length > 1) zip.end();
    return { ...answer, blob: new Blob(parts, { type: taken.length > 1 ? 'application/zip' : type }) };
  }
}
