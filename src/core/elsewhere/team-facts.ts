import type { FactCurves, Peaks, Print } from '@core/audio';
import type { TeamMeasured } from '@core/schemas';

/** What is measured of a sound beside its fields. */
export interface MeasuredArrays extends FactCurves, Print {
  /** Frames from the start. */
  onsets: Uint32Array;
}
type Numbers = Uint32Array | Float32Array | Int8Array | Uint8Array;

/** Bytes as base64, lowest byte of each number first, as every machine of today has them. */
function coded({ buffer, byteOffset, byteLength }: Numbers): string {
  const bytes = new Uint8Array(buffer, byteOffset, byteLength);
  let text = '';
  for (let at = 0; at < bytes.length; at += 0x8000) text += String.fromCharCode(...bytes.subarray(at, at + 0x8000));
  return btoa(text);
}

/** @throws Error where the text is no whole number of numbers */
function decoded(text: string, size: number): ArrayBuffer {
  const bytes = Uint8Array.from(atob(text), (c) => c.charCodeAt(0));
  if (bytes.length % size !== 0) throw new Error('what was measured is cut short');
  return bytes.buffer;
}

/** What was measured of a sound, as it is shared. @param version of what measures */
export function measuredText(version: number, { frames, span, pairs }: Peaks, of: MeasuredArrays): TeamMeasured {
  return {
    ...{ version, frames, span, pairs: coded(pairs) },
    ...{ onsets: coded(of.onsets), loudness: coded(of.loudness), spectrum: coded(of.spectrum) },
    ...{ course: coded(of.course), words: coded(of.words), under: coded(of.under) },
  };
}

/** The inverse of {@link measuredText}. @throws Error for what is none */
export function measuredFrom(of: TeamMeasured): { peaks: Peaks; arrays: MeasuredArrays } {
  return {
    peaks: { frames: of.frames, span: of.span, pairs: new Int8Array(decoded(of.pairs, 2)) },
    arrays: {
      onsets: new Uint32Array(decoded(of.onsets, 4)),
      loudness: new Float32Array(decoded(of.loudness, 4)),
      spectrum: new Float32Array(decoded(of.spectrum, 4)),
      course: new Int8Array(decoded(of.course, 1)),
      words: new Uint32Array(decoded(of.words, 4)),
      under: new Uint8Array(decoded(of.under, 1)),
    },
  };
}
