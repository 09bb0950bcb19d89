/** How samples lie in a file's audio data. */
export interface AudioFormat {
  container: 'WAV' | 'RF64' | 'RIFX' | 'AIFF' | 'AIFF-C' | 'FLAC' | 'Ogg' | 'MP3' | 'MP4';
  /** `coded`: compressed; only a platform's decoder gets at the samples. */
  encoding: 'pcm' | 'float' | 'alaw' | 'mulaw' | 'coded';
  /** 8-bit WAV is unsigned; every other integer format is signed. */
  unsigned: boolean;
  littleEndian: boolean;
  /** Sample rate, Hz. */
  rate: number;
  channels: number;
  /** Bits per sample as stored. */
  bits: number;
  /** Bytes per frame (one sample of every channel). */
  blockAlign: number;
  /** Sample frames. */
  frames: number;
  /** Byte offset of the first sample in the file. */
  dataOffset: number;
  /** Decoded frames before the first one that counts, where this is a part of a coded file. */
  skip?: number;
  /** Decoded frames that the encoder put before the sound, where its decoder leaves them in. */
  lead?: number;
  /** It is damaged in a way that only decoding all of it gets around. */
  whole?: boolean;
}

/** A point or region in a file, in sample frames from its start. */
export interface CuePoint {
  frame: number;
  /** Frames; 0 for a point. */
  length: number;
  label: string;
}

/** A picture inside of an audio file: where its bytes lie. */
export interface Artwork {
  /** Such as `image/png`, as the file says. */
  mime: string;
  offset: number;
  length: number;
}

/** What one audio file says of itself. */
export interface AudioFile {
  format: AudioFormat;
  /** Text by block and key, such as `bext.Description`, `INFO.INAM`, `iXML.ASWG.fxName`, `AIFF.NAME`. */
  labels: Map<string, string>;
  cues: CuePoint[];
  /** Loops of the `smpl` chunk, in frames, the end included. */
  loops: { start: number; end: number }[];
  /** What was out of order yet could be read, in words for the user. */
  warnings: string[];
  artwork?: Artwork;
}

/** An error message when a format's numbers contradict each other; undefined when they are sound. */
export function formatFault(f: Omit<AudioFormat, 'frames' | 'dataOffset'>): string | undefined {
  if (f.channels < 1 || f.channels > 128) return `says it has ${f.channels} channels; 1 to 128 are possible`;
  if (!(f.rate >= 1000 && f.rate <= 1_000_000)) return `says its sample rate is ${f.rate} Hz`;
  const allowed = { pcm: [8, 16, 24, 32], float: [32, 64], alaw: [8], mulaw: [8], coded: [] as number[] }[f.encoding];
  if (!allowed.includes(f.bits)) return `says it has ${f.bits}-bit ${f.encoding} samples, which no standard defines`;
  if (f.blockAlign !== (f.channels * f.bits) / 8)
    return `says a frame has ${f.blockAlign} bytes, not channels × sample size`;
  return undefined;
}
