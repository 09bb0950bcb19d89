import { quickHashOf, wavPart, writeWav, type ByteSource, type StoredAs } from '@core/files';
import { changeOf, placedAt, wavLabelsOf, type Change, type Patch, type Sound, type TagNames } from '@core/library';
import type { ExpectedFile } from '@core/schemas';
import { isCategory } from '@core/suggest';
import { describeFile, openSound } from '../audio/reader';
import { makeFile, NotWritten, removeFile } from '../files/disk';
import { fileSource, openFile, sizeOf } from '../files/roots';
import type { RootRecord, WriteRecord } from '../store/store';
import { renderedAudio } from './kept-files';

/** What is to become a file of its own: a part of a longer one, or audio that was rendered. */
export interface MadeItem {
  /** The sound's id; it may be new. */
  id: number;
  /** Its record as a part, or as it will be. */
  part: Omit<Sound, 'id'>;
  /** Where its file is to lie, below the root. */
  path: string;
  /** A file with its audio, where that was rendered here or fetched from elsewhere. */
  rendered?: Blob;
}

/** Bytes that are read at once. */
const READ = 8 << 20;

/** Makes the file of a part: its samples to the bit where the whole is a WAV file, else at the same rate and depth; its labels within. */
export async function fileOfPart(root: RootRecord, part: Omit<Sound, 'id'>, tags: TagNames): Promise<Blob> {
  return fileFrom(await openFile(root, part.path, part.size), part, tags);
}

/** Makes the file of audio that was rendered: its samples to the bit, with its labels. What came as another kind of file stays as it is, to the byte. */
export async function fileOfRendered(rendered: Blob, part: Omit<Sound, 'id'>, tags: TagNames): Promise<Blob> {
  const source = fileSource(rendered as File);
  const { format } = await describeFile(source);
  if (!['WAV', 'RF64'].includes(format.container)) return rendered;
  return fileFrom(source, { ...part, format }, tags);
}

async function fileFrom(source: ByteSource, part: Omit<Sound, 'id'>, tags: TagNames): Promise<Blob> {
  const { format } = part;
  const whole = await describeFile(source);
  const { anchor } = part.marks;
  const labels = wavLabelsOf(part, tags, anchor >= 0 && anchor < format.frames ? anchor : undefined);
  const since = whole.labels.get('bext.TimeReference');
  const from = BigInt(part.excerpt?.start ?? 0);
  const bext = { ...labels.bext, ...(since && /^\d+$/.test(since) ? { TimeReference: BigInt(since) + from } : {}) };
  const wav = await wavPart(source, format, { ...labels, bext });
  if (wav) {
    const parts: BlobPart[] = [wav.head as Uint8Array<ArrayBuffer>];
    for (let at = 0; at < wav.length; at += READ)
      parts.push((await source.read(wav.from + at, Math.min(READ, wav.length - at))) as Uint8Array<ArrayBuffer>);
    return new Blob([...parts, wav.tail as Uint8Array<ArrayBuffer>]);
  }
  const reader = await openSound(source, format);
  const planes = await reader.read(0, format.frames);
  const bits: StoredAs['bits'] = format.bits <= 16 && format.encoding === 'pcm' ? 16 : format.bits <= 24 ? 24 : 32;
  const as = { rate: format.rate, bits, float: format.encoding === 'float' };
  return new Blob([
    writeWav(planes, as.float ? { ...as, bits: 32 } : as, { ...labels, bext }) as Uint8Array<ArrayBuffer>,
  ]);
}

/** What a file will be once it is made; when, nobody knows yet. */
export async function expectedOf(file: Blob): Promise<ExpectedFile> {
  return { size: file.size, modified: 0, hash: await quickHashOf(fileSource(file as File)) };
}

/** Whether a file that was to be made is there as it was meant. */
export async function isThere(root: RootRecord, path: string, { size, hash }: ExpectedFile): Promise<boolean> {
  if ((await sizeOf(root, path)) !== size) return false;
  return (await quickHashOf(await openFile(root, path, size))) === hash;
}

/** Removes a file that was made, or makes it again. @returns what it is then */
export async function turnMade(
  root: RootRecord,
  reel: RootRecord | undefined,
  { path, part, after, rendered }: WriteRecord,
  to: 'undone' | 'done',
  tags: TagNames,
): Promise<ExpectedFile> {
  if (to === 'undone') {
    // Somebody may have removed it already: then it is as it was before.
    if ((await sizeOf(root, path)) !== undefined) await removeFile(root, path, after!);
    return after!;
  }
  if (rendered !== undefined) {
    const kept = await renderedAudio.at(rendered);
    if (!kept) throw new NotWritten('what was rendered is not kept any more; render it once more');
    return makeFile(root, path, await fileOfRendered(kept, part!, tags));
  }
  if (!reel) throw new NotWritten('the folder of its reel is not in the library any more');
  return makeFile(root, path, await fileOfPart(reel, part!, tags));
}

/** The change that makes a sound of a file that was made: it lies there now, and is a part of nothing. */
export function madeChange(write: WriteRecord, known: Sound | undefined): Change | undefined {
  const { size, modified, hash } = write.after!;
  const after: Patch = {
    ...placedAt(write.rootId, { path: write.path, size, modified }, isCategory),
    quickHash: hash,
    format: write.said!.format,
    excerpt: undefined,
    artwork: write.said!.artwork,
  };
  // The group of takes is that which it has: its name may tell of another one.
  delete after['fields.takeGroup'];
  if (known) return changeOf('sounds', known, after);
  const made = JSON.parse(JSON.stringify(write.part)) as Omit<Sound, 'id'>;
  for (const [key, value] of Object.entries(after)) {
    const [top, field] = key.split('.');
    const row = (field === undefined ? made : made[top as 'fields']) as Record<string, unknown>;
    if (value === undefined) delete row[field ?? top];
    else row[field ?? top] = value;
  }
  return { table: 'sounds', id: write.soundId, after: made as unknown as Patch };
}
