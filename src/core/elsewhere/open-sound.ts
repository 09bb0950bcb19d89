import { spanFor, type Peaks } from '@core/audio';
import type { AudioFormat } from '@core/files';
import type { FieldValue, Origin, Sound } from '@core/library';
import type { OpenSound } from '@core/schemas';

/** Labels of an open sound, as they stand in the library: where they came from is said of each. @param service what it calls itself */
export function labelsOfOpen(of: OpenSound, service: string): Pick<Sound, 'fields' | 'from'> {
  const fields: Record<string, FieldValue> = {
    fxName: of.title,
    ...(of.description ? { description: of.description } : {}),
    ...(of.tags.length > 0 ? { keywords: of.tags } : {}),
    ...{ author: of.author, licence: of.licence, page: of.page },
  };
  const from = Object.fromEntries(Object.keys(fields).map((key): [string, Origin] => [key, `site ${service}`]));
  return { fields, from };
}

/** An open sound as a row of a list, before anything of it was fetched. @param ids of the row and of where its files are */
export function rowOf(of: OpenSound, ids: { sound: number; root: number }, service: string): Sound {
  const { fields, from } = labelsOfOpen(of, service);
  const frames = Math.max(1, Math.round(of.seconds * of.rate));
  const format: AudioFormat = {
    ...{ container: 'FLAC', encoding: 'coded', unsigned: false, littleEndian: true, rate: of.rate, bits: of.bits },
    ...{ channels: of.channels, blockAlign: 0, frames, dataOffset: 0 },
  };
  return {
    ...{
      id: ids.sound,
      rootId: ids.root,
      path: of.preview.href,
      size: of.preview.size,
      modified: 0,
      intakeId: 0,
      format,
    },
    fields: { ...fields, length: of.seconds, library: service, file: of.preview.name, folder: of.author },
    from: { ...from, library: `site ${service}` },
    marks: { anchor: Math.min(of.anchor, frames - 1) },
    warnings: [],
  };
}

/** Lowest and highest samples of a contour as a text: two digits each. */
export const contourCode = (pairs: Int8Array): string =>
  Array.from(pairs, (n) => (n & 255).toString(16).padStart(2, '0')).join('');

/** Pairs of a contour that is sent along with each sound. */
const PAIRS = 600;

/** A contour of as many pairs as are sent along: the extremes of what each stands for. */
export function thinnedContour(pairs: Int8Array): Int8Array {
  const bins = pairs.length >> 1;
  const each = Math.max(1, Math.ceil(bins / PAIRS));
  const out = new Int8Array(2 * Math.ceil(bins / each));
  for (let i = 0; i < bins; i++) {
    const to = 2 * Math.floor(i / each);
    out[to] = Math.min(out[to], pairs[2 * i]);
    out[to + 1] = Math.max(out[to + 1], pairs[2 * i + 1]);
  }
  return out;
}

/** The contour of an open sound, drawn before anything of it was fetched. */
export function contourOf(of: Pick<OpenSound, 'contour' | 'seconds' | 'rate'>): Peaks {
  const pairs = Int8Array.from({ length: of.contour.length >> 1 }, (_, i) =>
    parseInt(of.contour.slice(2 * i, 2 * i + 2), 16),
  );
  const frames = Math.max(1, Math.round(of.seconds * of.rate));
  const bins = pairs.length >> 1;
  return { frames, span: bins === 0 ? spanFor(frames, of.rate) : Math.ceil(frames / bins), pairs };
}

/** The file name under which it is kept: what it is called, and what the file is. */
export function keptAs(of: OpenSound, file: OpenSound['original']): { name: string; ending: string } {
  const ending = /\.([a-z0-9]{1,5})$/i.exec(file.name)?.[1].toLowerCase() ?? 'flac';
  return { name: of.title, ending };
}
