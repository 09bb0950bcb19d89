import type { AudioFormat } from '@core/files';
import type { Patch } from './edits';
import { fields } from './fields';
import { nameOf, type Sound, type Span } from './sound';

/**
 * The format of a part of a file, by which it is read like a file of its own. Samples that are not coded begin at another
 * byte; coded ones are decoded from another frame on.
 * @param whole that of the file
 */
export function excerptFormat(whole: AudioFormat, { start, end }: Span): AudioFormat {
  const frames = end - start;
  return whole.encoding === 'coded'
    ? { ...whole, frames, skip: (whole.skip ?? 0) + start }
    : { ...whole, frames, dataOffset: whole.dataOffset + start * whole.blockAlign };
}

/** Keys of what is measured of audio, which a part has anew. */
const measured = new Set(fields.filter((f) => f.fact).map((f) => f.key));

/**
 * A sound that is a part of a longer file; nothing is written. It takes the labels of the whole along, but not what was measured
 * of it, and is followed wherever the file goes.
 * @param part frames of the sound, which may be an excerpt itself
 * @returns its record without its id
 */
export function excerptOf(sound: Sound, part: Span, name: string, now: number): Omit<Sound, 'id'> {
  const { id: _, hash: _hash, hidden: _hidden, ...rest } = sound;
  const own = <T>(of: Record<string, T>) =>
    Object.fromEntries(Object.entries(of).filter(([key]) => !measured.has(key) && key !== 'heard' && key !== 'take'));
  const offset = sound.excerpt?.start ?? 0;
  const { anchor } = sound.marks;
  const anchored = anchor >= part.start && anchor < part.end;
  const from = own(sound.from);
  if (!anchored) delete from.anchor;
  const format = excerptFormat(sound.format, part);
  return {
    ...rest,
    format,
    excerpt: { start: offset + part.start, end: offset + part.end },
    fields: { ...own(sound.fields), fxName: name, length: format.frames / format.rate, added: now },
    from: { ...from, fxName: 'typed', length: 'measured', added: 'measured' },
    marks: { anchor: anchored ? anchor - part.start : -1 },
    warnings: [],
  };
}

/** A name for an excerpt: that of the region, or where it begins. */
export function excerptName(sound: Sound, part: Span): string {
  const region = sound.marks.regions?.find((r) => r.start === part.start && r.end === part.end)?.name;
  return `${nameOf(sound)}, ${region ?? `from ${(part.start / sound.format.rate).toFixed(2)} s`}`;
}

/**
 * What changes of an excerpt when its file was written anew; one that the file is too short for now has no audio any more.
 * @param whole as it was read again
 */
export function excerptReread(sound: Sound, whole: Omit<Sound, 'id'>): Patch {
  const { size, modified, quickHash } = whole;
  const fits = sound.excerpt!.end <= whole.format.frames && whole.format.rate === sound.format.rate;
  if (!fits) return { size, modified, quickHash, 'fields.state': 'Missing', 'from.state': 'measured' };
  return { size, modified, quickHash, format: excerptFormat(whole.format, sound.excerpt!) };
}
