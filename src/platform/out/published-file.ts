import { FileError, memorySource, pictureSize, planLabels, type ByteSource, type Splice } from '@core/files';
import type { PublishHow, Sound, TagNames } from '@core/library';
import { openFile } from '../files/roots';
import type { RootRecord } from '../store/store';
import { fileOfPart } from './file-maker';
import { blobOf } from './publish-places';
import { renderedFile } from './taker';
import { planFor } from './write-plan';

/** A file as a splice makes it, read piece by piece. */
async function splicedBlob({ pieces }: Splice, source: ByteSource): Promise<Blob> {
  const parts: Blob[] = [];
  for (const piece of pieces)
    if ('bytes' in piece) parts.push(new Blob([piece.bytes as Uint8Array<ArrayBuffer>]));
    else {
      const { from, length } = piece;
      parts.push(await blobOf({ size: length, read: (at, count) => source.read(from + at, count) }));
    }
  return new Blob(parts);
}

/** A file that was made of a sound, with the picture that the sound's own file has. */
async function withItsPicture(
  made: Uint8Array,
  { artwork, path, size, format }: Sound,
  root: RootRecord,
): Promise<Blob> {
  const plain = () => new Blob([made as Uint8Array<ArrayBuffer>]);
  if (!artwork) return plain();
  const { mime, offset, length } = artwork;
  const bytes = await (await openFile(root, path, size)).read(offset, length);
  const pixels = pictureSize(bytes);
  if (!pixels) return plain();
  const source = memorySource(made);
  const plan = await planLabels(source, { places: new Map(), picture: { mime, bytes, ...pixels } }, format);
  return plan ? splicedBlob(plan.splice, source) : plain();
}

/** The file of one sound. */
export async function publishedFile(
  sound: Sound,
  root: RootRecord,
  tags: TagNames,
  how: PublishHow,
  note: (reason: string) => void,
): Promise<Blob> {
  const { kind, rate, bits = 24 } = how.format;
  if (kind !== 'own') {
    const taken = { item: { sound, root }, sound, name: '' };
    const as = { rate, bits, flac: kind === 'flac', dither: true, shaped: false, region: false };
    const { bytes } = await renderedFile(taken, tags, as, () => undefined);
    return withItsPicture(bytes, sound, root);
  }
  if (sound.excerpt) return fileOfPart(root, sound, tags);
  const source = await openFile(root, sound.path, sound.size);
  try {
    const { plan } = await planFor(root, sound, tags, { labels: true, names: false });
    if (!plan) return await blobOf(source);
    for (const text of plan.notes) note(text);
    return await splicedBlob(plan.splice, source);
  } catch (error) {
    if (!(error instanceof FileError)) throw error;
    note(`its labels are not in it: ${error.message}`);
    return blobOf(source);
  }
}
