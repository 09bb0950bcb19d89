import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
import {
  FileError,
  memorySource,
  mp3Extent,
  noSound,
  oggHeads,
  oggRuns,
  readAudioFile,
  readId3,
  scanOgg,
  smpbExtent,
} from '@core/files';
import { ALL_FORMATS, AudioSampleSink, CustomSource, Input, type InputAudioTrack, type MetadataTags } from 'mediabunny';
import type { SoundReader } from './sound-reader';

/** Bytes of silence behind a FLAC file: the demuxer takes a last frame that is shorter than the longest head for none. */
const BEHIND_FLAC = 64;

/** A demuxer over one of our byte sources. @param behind zeros that stand behind its end */
export function inputOf(source: ByteSource, behind = 0): Input {
  return new Input({
    formats: ALL_FORMATS,
    source: new CustomSource({
      getSize: () => source.size + behind,
      read: async (start, end) => {
        const bytes = await source.read(start, Math.min(source.size, end) - start);
        if (bytes.length === end - start) return bytes;
        const padded = new Uint8Array(end - start);
        padded.set(bytes);
        return padded;
      },
      prefetchProfile: 'network',
    }),
  });
}

/** The demuxer for a file by its content. */
export async function demuxerOf(source: ByteSource): Promise<Input> {
  const head = String.fromCharCode(...(await source.read(0, 4)));
  return inputOf(source, head === 'fLaC' ? BEHIND_FLAC : 0);
}

/** Raw tags as labels: `vorbis.TITLE`, `mp4.©nam`. */
function labelsOf(raw: MetadataTags['raw'], family: string, into: Map<string, string>): void {
  for (const [key, value] of Object.entries(raw ?? {})) {
    const text = Array.isArray(value) ? value.join('; ') : value;
    if (typeof text !== 'string' || key === 'vendor' || !text.trim()) continue;
    into.set(`${family}.${family === 'vorbis' ? key.toUpperCase() : key}`, text.trim().slice(0, 32_768));
  }
}

const containers: Record<string, AudioFormat['container']> = {
  'audio/flac': 'FLAC',
  'audio/ogg': 'Ogg',
  'application/ogg': 'Ogg',
  'audio/mpeg': 'MP3',
};

async function formatOf(input: Input, track: InputAudioTrack, frames: number): Promise<AudioFormat> {
  return {
    container: containers[(await input.getMimeType()).split(';')[0]] ?? 'MP4',
    encoding: 'coded',
    unsigned: false,
    littleEndian: true,
    rate: track.sampleRate,
    channels: track.numberOfChannels,
    bits: 16,
    blockAlign: 0,
    frames,
    dataOffset: 0,
  };
}

/** What is said of audio that cannot be decoded. @param track undefined when there is none that is understood */
export const noDecoder = (track?: InputAudioTrack) => {
  const codec = track?.codec ?? track?.internalCodecId;
  const name = typeof codec === 'string' || typeof codec === 'number' ? ` for ${codec}` : '';
  return new FileError(`there is no decoder here${name || ' for what it holds'}`, 0);
};

/** Whether an error says already what is the matter, in words for the user. */
export const isOurs = (error: unknown) =>
  error instanceof FileError || ['RootUnavailable', 'FileGone'].includes((error as Error).name);

/** The audio of a file. @throws FileError with what is the matter */
export async function trackOf(input: Input, source: ByteSource): Promise<InputAudioTrack> {
  let track: InputAudioTrack | null;
  try {
    track = await input.getPrimaryAudioTrack();
  } catch (error) {
    if (isOurs(error)) throw error;
    if (!(await input.canRead().catch(() => false))) throw await noSound(source);
    throw new FileError('it is cut off or damaged at its beginning, so that nothing of it can be read', 0);
  }
  if (track) return track;
  if (await lacksMovie(source))
    throw new FileError('the file is cut off: the part that says what is in it (moov) is missing', source.size);
  throw noDecoder();
}

/** Whether an MP4 file has no `moov` box among its top ones (ISO/IEC 14496-12, section 4.2). */
async function lacksMovie(source: ByteSource): Promise<boolean> {
  let at = 0;
  for (let boxes = 0; boxes < 1000 && at + 8 <= source.size; boxes++) {
    const head = await source.read(at, 16);
    const type = String.fromCharCode(...head.subarray(4, 8));
    if (boxes === 0 && type !== 'ftyp') return false;
    if (type === 'moov') return false;
    const view = new DataView(head.buffer, head.byteOffset, head.byteLength);
    const short = view.getUint32(0);
    const size = short === 1 && head.length === 16 ? Number(view.getBigUint64(8)) : short;
    if (size < 8) break;
    at += size;
  }
  return at > 0;
}

/** Decoded frames before the sound, and how long it is, as far as the file says; `exact` when it says it to the frame. */
interface Extent {
  lead: number;
  frames: number;
  exact: boolean;
}

/** How long a track is, in frames. An Ogg stream that is cut off has no page that says it: its last whole one does. */
async function durationOf(source: ByteSource, track: InputAudioTrack): Promise<number> {
  try {
    return Math.round((await track.computeDuration()) * track.sampleRate);
  } catch (error) {
    const ogg = isOurs(error) ? undefined : await oggOf(source);
    const last = ogg?.scan.pages.reduce((end, p) => Math.max(end, p.granule ?? 0), 0) ?? 0;
    if (last === 0) throw error;
    return last - (await opusDelay(track));
  }
}

async function extentOf(source: ByteSource, input: Input, track: InputAudioTrack, own?: AudioFormat): Promise<Extent> {
  if (own && own.frames > 0) return { lead: 0, frames: own.frames, exact: true };
  const container = (await input.getMimeType()).split(';')[0];
  const frames = await durationOf(source, track);
  if (container === 'audio/mpeg') {
    const said = await mp3Extent(source);
    return said ? { ...said, exact: true } : { lead: 0, frames, exact: false };
  }
  const { raw } = await input.getMetadataTags();
  const smpb = Object.entries(raw ?? {}).find(([key, value]) => key.includes('iTunSMPB') && typeof value === 'string');
  // Where an edit list says it, the demuxer has put it into the times already.
  const said = smpb && (await track.getFirstTimestamp()) >= 0 ? smpbExtent(smpb[1] as string) : undefined;
  return said ? { ...said, exact: true } : { lead: 0, frames, exact: true };
}

/**
 * Reads format and labels of a compressed sound without decoding it. The number of frames is what its container says; the
 * exact one is known once it was decoded.
 * @throws FileError when no audio is found in it
 */
export async function describeCoded(source: ByteSource): Promise<AudioFile> {
  const head = String.fromCharCode(...(await source.read(0, 4)));
  const own = head === 'fLaC' ? await readAudioFile(source) : undefined;
  if (own && own.format.frames > 0) return own;
  const labels = own?.labels ?? new Map<string, string>();
  const warnings = own?.warnings ?? [];
  let { artwork } = own ?? {};
  if (head.startsWith('ID3')) await readId3(source, 0, source.size, labels, warnings, (art) => (artwork ??= art));
  const input = await demuxerOf(source);
  try {
    const track = await trackOf(input, source);
    const { lead, frames } = await extentOf(source, input, track);
    const format = await formatOf(input, track, frames);
    if (lead > 0) format.lead = lead;
    if (own) format.bits = own.format.bits;
    if (!(format.frames > 0)) throw new FileError('the file has no audio in it', 0);
    const family = format.container === 'MP4' ? 'mp4' : 'vorbis';
    if (format.container !== 'MP3' && !own) labelsOf((await input.getMetadataTags()).raw, family, labels);
    return { format, labels, cues: [], loops: [], warnings, artwork };
  } catch (error) {
    throw isOurs(error)
      ? error
      : new FileError('it is cut off or damaged at its beginning, so that nothing of it can be read', 0);
  } finally {
    input.dispose();
  }
}

/** The first picture in a compressed file whose bytes lie in pieces (Ogg, MP4). */
export async function codedArtwork(source: ByteSource): Promise<{ mime: string; bytes: Uint8Array } | undefined> {
  const input = inputOf(source);
  try {
    const [image] = (await input.getMetadataTags()).images ?? [];
    return image && { mime: image.mimeType, bytes: image.data };
  } catch {
    return undefined;
  } finally {
    input.dispose();
  }
}

/** What decoding came to: samples from the frame at which the first of them stands, and at which second it gave up. */
interface Decoded {
  planes: Float32Array[];
  first: number;
  brokeAt?: number;
}

/** Decodes all of a track. A packet that cannot be decoded ends it: what came before is kept. */
async function decode(track: InputAudioTrack): Promise<Decoded> {
  const parts: Float32Array[][] = [];
  const origin = Math.max(0, await track.getFirstTimestamp());
  let frames = 0;
  let first: number | undefined;
  let brokeAt: number | undefined;
  try {
    for await (const sample of new AudioSampleSink(track).samples()) {
      first ??= Math.round((sample.timestamp - origin) * sample.sampleRate);
      const planes = Array.from({ length: sample.numberOfChannels }, (_, planeIndex) => {
        const plane = new Float32Array(sample.numberOfFrames);
        sample.copyTo(plane, { planeIndex, format: 'f32-planar' });
        return plane;
      });
      sample.close();
      parts.push(planes);
      frames += planes[0].length;
    }
  } catch (error) {
    if (isOurs(error)) throw error;
    brokeAt = frames / track.sampleRate;
  }
  const planes = Array.from({ length: parts[0]?.length ?? 0 }, (_, c) => {
    const plane = new Float32Array(frames);
    let at = 0;
    for (const part of parts) {
      // A stream may change its channels on the way: what is not there is silent.
      if (part[c]) plane.set(part[c], at);
      at += part[0].length;
    }
    return plane;
  });
  return { planes, first: first ?? 0, brokeAt };
}

/** Frames `from` to `from + frames` of what was decoded; what is not there is silent. */
function cutOut({ planes, first }: Decoded, from: number, frames: number): Float32Array[] {
  return planes.map((plane) => {
    const start = from - first;
    if (start >= 0 && start + frames <= plane.length) return plane.subarray(start, start + frames);
    const cut = new Float32Array(frames);
    const part = plane.subarray(Math.max(0, start), Math.max(0, start + frames));
    cut.set(part, Math.max(0, -start));
    return cut;
  });
}

const seconds = (frames: number, rate: number) => `${(frames / rate).toFixed(2)} s`;

/** Decodes a damaged Ogg stream part by part, each to where its last page says that it ends; silence stands between. */
async function decodeRuns(bytes: Uint8Array, scan: ReturnType<typeof scanOgg>, delay: number): Promise<Decoded> {
  const runs: { decoded: Decoded; end: number }[] = [];
  for (const run of oggRuns(bytes, scan, oggHeads(scan))) {
    const input = inputOf(memorySource(run.bytes));
    try {
      const track = await input.getPrimaryAudioTrack();
      const decoded = track && (await decode(track).catch(() => undefined));
      if (decoded?.planes.length && run.end !== undefined) runs.push({ decoded, end: run.end - delay });
    } catch {
      // A part of which too little is left.
    } finally {
      input.dispose();
    }
  }
  const frames = Math.max(0, ...runs.map((r) => r.end));
  const channels = Math.max(0, ...runs.map((r) => r.decoded.planes.length));
  const planes = Array.from({ length: channels }, () => new Float32Array(frames));
  for (const { decoded, end } of runs)
    decoded.planes.forEach((plane, c) => {
      const start = end - plane.length;
      planes[c].set(plane.subarray(Math.max(0, -start)), Math.max(0, start));
    });
  return { planes, first: 0 };
}

/** The Ogg pages of a file looked at one by one, with what is to be said of them; undefined for what is no Ogg file. */
async function oggOf(source: ByteSource) {
  if (String.fromCharCode(...(await source.read(0, 4))) !== 'OggS') return undefined;
  const bytes = await source.read(0, source.size);
  const scan = scanOgg(bytes);
  const warnings: string[] = [];
  if (scan.bad > 0)
    warnings.push(`${scan.bad} ${scan.bad === 1 ? 'page is' : 'pages are'} damaged; silence stands in their place`);
  if (scan.cut) warnings.push('the file is cut off; it plays up to there');
  if (scan.chained > 0)
    warnings.push(
      `${scan.chained + 1} streams follow one another in the file; only the first is played, so cut it into several files`,
    );
  return { bytes, scan, warnings };
}

/**
 * Opens a compressed sound through the browser's decoders. All of it is decoded: the exact number of frames is only known then. What is
 * damaged is silent, and said.
 * @throws FileError when nothing here can decode it
 */
export async function openCoded(source: ByteSource): Promise<SoundReader> {
  const ogg = await oggOf(source);
  const warnings = ogg?.warnings ?? [];
  const own = String.fromCharCode(...(await source.read(0, 4))) === 'fLaC' ? await readAudioFile(source) : undefined;
  const input = await demuxerOf(ogg ? memorySource(ogg.bytes, source.name) : source);
  try {
    const track = await trackOf(input, source);
    if (!(await track.canDecode())) throw noDecoder(track);
    const damaged = ogg !== undefined && (ogg.scan.bad > 0 || ogg.scan.cut);
    const decoded = damaged ? await decodeRuns(ogg.bytes, ogg.scan, await opusDelay(track)) : await decode(track);
    const { rate, ...more } = { rate: track.sampleRate, ...(await extentOf(source, input, track, own?.format)) };
    const there = (decoded.planes[0]?.length ?? 0) + decoded.first - more.lead;
    if (!(there > 0))
      throw new FileError(`it is damaged at second ${seconds(0, rate)}; nothing of it can be decoded`, 0);
    if (decoded.brokeAt !== undefined)
      warnings.push(`it is damaged at ${seconds(Math.max(0, there), rate)}; what follows is left out`);
    else if (more.exact && there < more.frames && !damaged)
      warnings.push(
        `the file is cut off or damaged: ${seconds(there, rate)} of ${seconds(more.frames, rate)} are there`,
      );
    const frames = more.exact && !damaged ? Math.min(more.frames, there) : there;
    const planes = cutOut(decoded, more.lead, frames);
    const format = await formatOf(input, track, frames);
    if (more.lead > 0) format.lead = more.lead;
    // What is missing in the middle, a decoder that begins behind it cannot know of.
    if (damaged || decoded.brokeAt !== undefined || (more.exact && there < more.frames)) format.whole = true;
    return {
      format,
      warnings,
      read: (start, count) => Promise.resolve(planes.map((p) => p.slice(start, start + count))),
    };
  } catch (error) {
    throw isOurs(error) ? error : noDecoder();
  } finally {
    input.dispose();
  }
}

/** Samples of 48 kHz that an Opus stream has before its sound (RFC 7845, section 4.2); 0 for other codecs. */
export async function opusDelay(track: InputAudioTrack): Promise<number> {
  if (track.codec !== 'opus') return 0;
  const { description } = (await track.getDecoderConfig()) ?? {};
  if (!description) return 0;
  const bytes = ArrayBuffer.isView(description)
    ? new Uint8Array(description.buffer, description.byteOffset, description.byteLength)
    : new Uint8Array(description);
  return bytes.length >= 12 ? bytes[10] | (bytes[11] << 8) : 0;
}
