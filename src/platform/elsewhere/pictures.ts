import type { PictureRef, Sound } from '@core/library';
import { contentOf, keepFetched } from '../files/fetched';
import { pictureOf } from '../files/picture';
import { openFile } from '../files/roots';
import { sumOf } from '../files/sum';
import type { RootRecord } from '../store/store';
import type { LabelExchange } from './exchange';

/** A picture with its bytes. */
export interface TellablePicture {
  ref: PictureRef;
  bytes: Uint8Array;
}

/** Bytes of a picture in a file that are read at the most. */
const MOST = 16 << 20;

/** The picture in a sound's file as it may be told: a PNG or JPEG of moderate size; undefined where there is none, or one that cannot be read. */
export async function tellablePicture(
  root: RootRecord,
  { path, size, artwork }: Sound,
): Promise<TellablePicture | undefined> {
  if (!artwork || artwork.length > MOST) return undefined;
  try {
    const bytes = await (await openFile(root, path, size)).read(artwork.offset, artwork.length);
    const picture = await pictureOf(new Blob([bytes as Uint8Array<ArrayBuffer>]));
    const blob = new Blob([picture.bytes as Uint8Array<ArrayBuffer>]);
    const mime = picture.mime as PictureRef['mime'];
    return { bytes: picture.bytes, ref: { sha256: await sumOf(blob), mime, size: blob.size } };
  } catch {
    return undefined;
  }
}

/** A picture that a publisher told, from here where it was fetched before. @throws Elsewhere */
export async function toldPicture(exchange: LabelExchange, ref: PictureRef): Promise<Blob> {
  const kept = await contentOf(ref.sha256);
  if (kept) return kept;
  const blob = await exchange.picture(ref);
  // A browser that keeps nothing asks again.
  await keepFetched(`/told-pictures/${ref.sha256}`, ref.sha256, blob).catch(() => undefined);
  return blob;
}
