import { FactsCollector, voicePart, type Facts, type Measurement } from '@core/audio';
import type { Artwork, Edges } from '@core/files';
import { silencedIn, quickHashOf, windowed } from '@core/files';
import type { AudioFormat } from '@core/files';
import type { FoundFile, ListedFile, Sound } from '@core/library';
import { describe } from '@core/library';
import { likeCode, likenessOf } from '@core/search';
import { catIdOf, categoryOf, suggestAnchor } from '@core/suggest';
import { audioHashOf } from '../audio/audio-hash';
import { codedArtwork } from '../audio/coded';
import { describeFile, openSound, openWhole, type SoundReader } from '../audio/reader';
import { fetchEdges, FileGone, fileSource, openFile, RootUnavailable } from '../files/roots';
import { FACTS_VERSION, type FactsRecord, type PeaksRecord, type RootRecord } from '../store/store';

/** A file's record, or why it has none. */
export type ReadResult = { sound: Omit<Sound, 'id'> } | { file: FoundFile; reason: string; again?: boolean };

/** What measuring needs of a sound. */
export type Measurable = Pick<Sound, 'id' | 'path' | 'size' | 'format'> & { loop: boolean };

/** What was measured of a sound. */
export interface Measured {
  id: number;
  facts: Facts;
  hash: string;
  /** Samples that hold no finite number. */
  silenced: number;
  /** What was odd about the audio, in words for the user. */
  warnings: string[];
  anchor: number;
  /** Exact by now. */
  format: AudioFormat;
  peaks: PeaksRecord;
  record: FactsRecord;
}

/** Frames read at once while measuring: big enough for speed, small enough for memory. */
const SPAN = 1 << 17;
/** Files whose heads are asked for at the same time: a server answers one while the next is on its way. */
const AT_ONCE = 6;

/** Frames `start` to `end`. */
interface Part {
  start: number;
  end: number;
}

/** Measures a sound, or a part of it, in one pass. */
async function collected(reader: SoundReader, part?: Part): Promise<FactsCollector> {
  const { format } = reader;
  const { start, end } = part ?? { start: 0, end: format.frames };
  const collector = await FactsCollector.start(end - start, format.rate, format.channels);
  const take = (at: number) => reader.read(at, Math.min(SPAN, end - at));
  // The next part is on its way while this one is measured.
  let coming = take(start);
  for (let at = start; at < end; at += SPAN) {
    const planes = await coming;
    if (planes[0].length === 0) break;
    if (at + SPAN < end) coming = take(at + SPAN);
    collector.push(planes);
  }
  return collector;
}

const vectorOf = ({ facts, curves, peaks }: Measurement, rate: number) =>
  likenessOf({ rate, ...peaks, ...curves, ...facts });

async function likeOf(reader: SoundReader, part?: Part): Promise<string> {
  return likeCode(vectorOf((await collected(reader, part)).done(false), reader.format.rate));
}

/** Reads and measures files for intake, in a worker. */
export class IntakeReader {
  /** Reads the labels of some files. One that cannot be read gives its reason; the rest goes on. */
  async read(root: RootRecord, found: FoundFile[]): Promise<ReadResult[]> {
    const results: ReadResult[] = new Array<ReadResult>(found.length);
    const edges = await fetchEdges(root, found);
    let next = 0;
    const work = async () => {
      for (let i = next++; i < found.length; i = next++) results[i] = await this.readOne(root, found[i], edges[i]);
    };
    await Promise.all(Array.from({ length: AT_ONCE }, work));
    return results;
  }

  private async readOne(root: RootRecord, file: FoundFile, edges: Edges | undefined): Promise<ReadResult> {
    try {
      const source = windowed(await openFile(root, file.path, file.size), edges);
      const said = await describeFile(source);
      const quickHash = await quickHashOf(source);
      return { sound: describe(said, { ...file, quickHash }, (catId) => categoryOf(catId), catIdOf) };
    } catch (error) {
      if (error instanceof RootUnavailable) throw error;
      // A permission or a drive comes back without the file being another one.
      const again = error instanceof FileGone;
      return { file, reason: (error as Error).message, ...(again ? { again } : {}) };
    }
  }

  /** See `quickHashOf` of the core. */
  async quickHash(root: RootRecord, { path, size }: ListedFile): Promise<string> {
    return quickHashOf(await openFile(root, path, size));
  }

  /** Hash of the audio alone, for recognising a file that was renamed and relabelled; undefined when it cannot be read. */
  async audioHash(root: RootRecord, { path, size }: ListedFile, wanted: AudioFormat): Promise<string | undefined> {
    try {
      const isLike = (format: AudioFormat) =>
        format.rate === wanted.rate &&
        format.channels === wanted.channels &&
        (format.encoding === 'coded' || wanted.encoding === 'coded' || format.frames === wanted.frames);
      return await audioHashOf(await openFile(root, path, size), isLike);
    } catch (error) {
      if (error instanceof RootUnavailable) throw error;
      return undefined;
    }
  }

  /** Measures all facts of a sound. */
  async measure(root: RootRecord, { id, path, size, format: known, loop }: Measurable): Promise<Measured> {
    const source = await openFile(root, path, size);
    let silenced = 0;
    const read = async (offset: number, length: number) => {
      const bytes = await source.read(offset, length);
      silenced += silencedIn(bytes, known);
      return bytes;
    };
    const reader = await openWhole(known.encoding === 'float' ? { ...source, read } : source, known);
    const { format } = reader;
    const { facts, curves, peaks, energy, print, hash } = (await collected(reader)).done(loop);
    const anchor = suggestAnchor(energy, format.rate, facts.onsets);
    return {
      id,
      facts,
      hash,
      silenced,
      warnings: [...(reader.warnings ?? [])],
      format: { ...known, frames: format.frames },
      anchor: anchor.frame,
      peaks: { id, ...peaks },
      record: { id, version: FACTS_VERSION, onsets: Uint32Array.from(facts.onsets), ...curves, ...print, anchor },
    };
  }

  /** What a part of a sound is compared by, as a link holds it. @param part frames */
  async likePart(
    root: RootRecord,
    { path, size, format }: Omit<Measurable, 'id' | 'loop'>,
    part: Part,
  ): Promise<string> {
    return likeOf(await openSound(await openFile(root, path, size), format), part);
  }

  /**
   * What a file is compared by that is no sound of the library, as a link holds it.
   * @throws FileError with the reason in words for the user
   */
  async likeFile(file: File): Promise<string> {
    const source = windowed(fileSource(file));
    const { format } = await describeFile(source);
    return likeOf(await openWhole(source, format));
  }

  /**
   * What a sound is compared by that somebody made with the voice, as a link holds it.
   * @param samples mono
   * @throws Error when nothing is to be heard
   */
  async likeVoice(samples: Float32Array, rate: number): Promise<string> {
    const part = voicePart(samples, rate);
    if (part.length < rate * 0.03) throw new Error('Nothing was to be heard; check the microphone and try once more.');
    const collector = await FactsCollector.start(part.length, rate, 1);
    collector.push([part]);
    return likeCode(vectorOf(collector.done(false), rate), true);
  }

  /** Everything that a file says, block by block. */
  async labels(
    root: RootRecord,
    path: string,
    size: number,
  ): Promise<{ labels: Map<string, string>; warnings: string[] }> {
    const { labels, warnings } = await describeFile(windowed(await openFile(root, path, size)));
    return { labels, warnings };
  }

  /** The picture in a file; undefined when it has none. */
  async artwork(
    root: RootRecord,
    path: string,
    size: number,
    known?: Artwork,
  ): Promise<{ mime: string; bytes: Uint8Array } | undefined> {
    const source = await openFile(root, path, size);
    if (!known) return /\.(og[ga]|opus|m4a)$/i.test(path) ? codedArtwork(source) : undefined;
    return { mime: known.mime, bytes: await source.read(known.offset, Math.min(known.length, 16 << 20)) };
  }
}
