import { fourCC, viewOf } from './source';

/** Width and height of a picture. Pixels. */
export interface PictureSize {
  width: number;
  height: number;
}

/** Reads the frame header of a JPEG (ITU-T T.81, section B.2.2). */
function jpegSize(bytes: Uint8Array): PictureSize | undefined {
  const view = viewOf(bytes);
  for (let at = 2; at + 9 < bytes.length && bytes[at] === 0xff;) {
    const marker = bytes[at + 1];
    const isFrame = marker >= 0xc0 && marker <= 0xcf && ![0xc4, 0xc8, 0xcc].includes(marker);
    if (isFrame) return { height: view.getUint16(at + 5), width: view.getUint16(at + 7) };
    at += 2 + view.getUint16(at + 2);
  }
  return undefined;
}

/** The size of a PNG, JPEG, GIF, BMP or WebP picture by its head, without unpacking it; undefined for what is none of these. */
export function pictureSize(bytes: Uint8Array): PictureSize | undefined {
  if (bytes.length < 30) return undefined;
  const view = viewOf(bytes);
  if (view.getUint32(0) === 0x89504e47) return { width: view.getUint32(16), height: view.getUint32(20) };
  if (view.getUint16(0) === 0xffd8) return jpegSize(bytes);
  if (fourCC(bytes) === 'GIF8') return { width: view.getUint16(6, true), height: view.getUint16(8, true) };
  if (view.getUint16(0) === 0x424d)
    return { width: Math.abs(view.getInt32(18, true)), height: Math.abs(view.getInt32(22, true)) };
  if (fourCC(bytes) !== 'RIFF' || fourCC(bytes, 8) !== 'WEBP') return undefined;
  const kind = fourCC(bytes, 12);
  if (kind === 'VP8X') {
    const three = (at: number) => 1 + (bytes[at] | (bytes[at + 1] << 8) | (bytes[at + 2] << 16));
    return { width: three(24), height: three(27) };
  }
  if (kind === 'VP8L') {
    const bits = view.getUint32(21, true);
    return { width: 1 + (bits & 0x3fff), height: 1 + ((bits >>> 14) & 0x3fff) };
  }
  return { width: view.getUint16(26, true) & 0x3fff, height: view.getUint16(28, true) & 0x3fff };
}

/** Pixels that a picture beside a sound may have: more would fill the memory of whoever unpacks it. */
const MOST_PIXELS = 60e6;

/** Whether a picture is one that may be shown: of a known kind, and of a size that can be unpacked. */
export function isShowable(bytes: Uint8Array): boolean {
  const size = pictureSize(bytes);
  return size !== undefined && size.width > 0 && size.height > 0 && size.width * size.height <= MOST_PIXELS;
}
