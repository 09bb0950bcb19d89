import type { AudioFormat } from '@core/files';
import type { FieldValue, Sound } from '@core/library';
import { FACTS_VERSION, type FactsRecord } from '@platform/store/store';

/** A stereo 24-bit WAV format of this many frames. */
export function formatOf(frames: number, rate = 48000, channels = 2): AudioFormat {
  return {
    container: 'WAV',
    encoding: 'pcm',
    unsigned: false,
    littleEndian: true,
    rate,
    channels,
    bits: 24,
    blockAlign: 3 * channels,
    frames,
    dataOffset: 44,
  };
}

/** A sound with some fields, for tests that need no file. */
export function soundOf(id: number, fields: Record<string, FieldValue> = {}, frames = 48000, rate = 48000): Sound {
  return {
    id,
    rootId: 2,
    path: `${String(fields.folder ?? 'Sounds')}/${String(fields.file ?? `sound ${id}.wav`)}`,
    size: frames * 6,
    modified: 0,
    intakeId: 2,
    format: formatOf(frames, rate),
    fields: { fxName: `Sound ${id}`, file: `sound ${id}.wav`, library: 'Tests', length: frames / rate, ...fields },
    from: {},
    marks: { anchor: 0 },
    warnings: [],
  };
}

/** Facts of a sound that nothing was measured of, for tests of keeping them. */
export function factsOf(id: number): FactsRecord {
  const none = new Float32Array(0);
  return {
    id,
    version: FACTS_VERSION,
    onsets: new Uint32Array(0),
    loudness: none,
    spectrum: none,
    course: new Int8Array(0),
    words: new Uint32Array(0),
    under: new Uint8Array(0),
  };
}
