import { isShowable, pictureSize, type Picture } from '@core/files';

/** Pixels along the longer side, and bytes, of a picture that goes into every file: it is kept for the undo of each. */
const [SIDE, BYTES] = [1000, 256 << 10];
/** Such a one where it has to be made smaller. */
const SMALLER = 600;
/** What is read of a chosen picture. */
const MOST = 64 << 20;

/**
 * A chosen picture as it goes into files: as it is where it is a JPEG or PNG of moderate size, else drawn anew, smaller, as a JPEG.
 * @throws Error in words for what is no picture, or one too large to be opened
 */
export async function pictureOf(chosen: Blob): Promise<Picture> {
  if (chosen.size > MOST) throw new Error(`it has more than ${MOST >> 20} MB`);
  const bytes = new Uint8Array(await chosen.arrayBuffer());
  const size = pictureSize(bytes);
  if (!size) throw new Error('it is no PNG, JPEG, GIF, BMP or WebP picture');
  if (!isShowable(bytes)) throw new Error('it has more pixels than can be opened');
  const mime = bytes[0] === 0x89 ? 'image/png' : bytes[0] === 0xff ? 'image/jpeg' : undefined;
  if (mime && Math.max(size.width, size.height) <= SIDE && bytes.length <= BYTES) return { mime, bytes, ...size };
  let image: ImageBitmap;
  try {
    image = await createImageBitmap(new Blob([bytes]));
  } catch {
    throw new Error('it is damaged');
  }
  const scale = Math.min(1, SMALLER / Math.max(image.width, image.height));
  const [width, height] = [image.width, image.height].map((side) => Math.max(1, Math.round(side * scale)));
  const canvas = new OffscreenCanvas(width, height);
  const context = canvas.getContext('2d')!;
  // JPEG knows no transparency.
  context.fillStyle = 'white';
  context.fillRect(0, 0, width, height);
  context.drawImage(image, 0, 0, width, height);
  image.close();
  const drawn = await canvas.convertToBlob({ type: 'image/jpeg', quality: 0.88 });
  return { mime: 'image/jpeg', bytes: new Uint8Array(await drawn.arrayBuffer()), width, height };
}
