import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
import { FileError, readAudioFile, readId3 } from '@core/files';
import { ALL_FORMATS, AudioSampleSink, CustomSource, Input, type InputAudioTrack, type MetadataTags } from 'mediabunny';
import type { SoundReader } from './sound-reader';

/** A demuxer over one of our byte sources. */
export function inputOf(source: ByteSource): Input {
  return new Input({
    formats: ALL_FORMATS,
    source: new CustomSource({
      getSize: () => source.size,
      read: (start, end) => source.read(start, end - start),
      prefetchProfile: 'network',
    }),
  });
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
  'audio/mpeg': 'MP3',
};

/** Decodes a whole track into planes. */
async function decodeAll(track: InputAudioTrack): Promise<Float32Array[]> {
  const parts: Float32Array[][] = [];
  let frames = 0;
  for await (const sample of new AudioSampleSink(track).samples()) {
    const planes = Array.from({ length: sample.numberOfChannels }, (_, planeIndex) => {
      const plane = new Float32Array(sample.numberOfFrames);
      sample.copyTo(plane, { planeIndex, format: 'f32-planar' });
      return plane;
    });
    // Encoder delay comes as samples before time zero; leaving them out lines the sound up with its source.
    const early = Math.min(planes[0].length, Math.max(0, Math.round(-sample.timestamp * sample.sampleRate)));
    sample.close();
    parts.push(planes.map((p) => p.subarray(early)));
    frames += planes[0].length - early;
  }
  return (parts[0] ?? []).map((_, c) => {
    const plane = new Float32Array(frames);
    let at = 0;
    for (const part of parts) {
      plane.set(part[c], at);
      at += part[c].length;
    }
    return plane;
  });
}

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

/** What is said of what cannot be decoded. */
export const noDecoder = () => new FileError('this browser has no decoder for the audio, or the file is damaged', 0);

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
  const input = inputOf(source);
  try {
    const track = await input.getPrimaryAudioTrack();
    if (!track) throw noDecoder();
    const format = await formatOf(input, track, Math.round((await track.computeDuration()) * track.sampleRate));
    if (own) format.bits = own.format.bits;
    if (!(format.frames > 0)) throw new FileError('the file has no audio in it', 0);
    const family = format.container === 'MP4' ? 'mp4' : 'vorbis';
    if (format.container !== 'MP3' && !own) labelsOf((await input.getMetadataTags()).raw, family, labels);
    return { format, labels, cues: [], loops: [], warnings, artwork };
  } catch (error) {
    throw error instanceof FileError ? error : noDecoder();
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

/**
 * Opens a compressed sound through the browser's decoders. All of it is decoded: the exact number of frames is only known then.
 * @throws FileError when nothing here can decode it
 */
export async function openCoded(source: ByteSource): Promise<SoundReader> {
  const input = inputOf(source);
  try {
    const track = await input.getPrimaryAudioTrack();
    if (!track || !(await track.canDecode())) throw noDecoder();
    const planes = await decodeAll(track);
    if (!planes[0]?.length) throw noDecoder();
    return {
      format: await formatOf(input, track, planes[0].length),
      read: (start, count) => Promise.resolve(planes.map((p) => p.slice(start, start + count))),
    };
  } catch (error) {
    throw error instanceof FileError || (error as Error).name === 'RootUnavailable' ? error : noDecoder();
  } finally {
    input.dispose();
  }
}
