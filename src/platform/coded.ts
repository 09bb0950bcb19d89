import type { AudioFile, AudioFormat, ByteSource } from '@core/files';
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

function labelsOf(tags: MetadataTags): Map<string, string> {
  const labels = new Map<string, string>();
  const put = (key: string, text: string | undefined) => text?.trim() && labels.set(`tag.${key}`, text.trim());
  put('title', tags.title);
  put('artist', tags.artist);
  put('album', tags.album);
  put('description', tags.description);
  put('comment', tags.comment);
  return labels;
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

/**
 * Opens a compressed sound through the browser's decoders. The first read decodes all of it: compressed effects are short,
 * and the exact number of frames is only known then.
 * @returns undefined when nothing here can decode it
 */
export async function openCoded(source: ByteSource): Promise<SoundReader | undefined> {
  const input = inputOf(source);
  try {
    const track = await input.getPrimaryAudioTrack();
    if (!track || !(await track.canDecode())) return undefined;
    const planes = await decodeAll(track);
    if (!planes[0]?.length) return undefined;
    const format: AudioFormat = {
      container: containers[(await input.getMimeType()).split(';')[0]] ?? 'MP4',
      encoding: 'coded',
      unsigned: false,
      littleEndian: true,
      rate: track.sampleRate,
      channels: track.numberOfChannels,
      bits: 16,
      blockAlign: 0,
      frames: planes[0].length,
      dataOffset: 0,
    };
    const labels = labelsOf(await input.getMetadataTags());
    const file: AudioFile = { format, labels, cues: [], loops: [], warnings: [] };
    return {
      file,
      read: (start, count) => Promise.resolve(planes.map((p) => p.slice(start, start + count))),
      close: () => undefined,
    };
  } catch {
    return undefined;
  } finally {
    input.dispose();
  }
}
