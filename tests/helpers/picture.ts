import { encode } from 'fast-png';

/** A small picture as a PNG file. */
export const encodePng = (width: number, height: number) =>
  encode({ width, height, channels: 3, depth: 8, data: new Uint8Array(width * height * 3).fill(120) });
