import { fourCC } from './source';

/** What a file is by its content, whatever it is called. */
export type FileKind = 'wave' | 'aiff' | 'flac' | 'ogg' | 'mp3' | 'mp4';

const ascii = (head: Uint8Array, text: string, at = 0) => [...text].every((c, i) => head[at + i] === c.charCodeAt(0));
/** Frame headers of MPEG-1, 2 and 2.5 audio, layer III: the sync bits, then no reserved version, bitrate or sample rate. */
const isMp3Frame = (head: Uint8Array) =>
  head[0] === 0xff &&
  (head[1] & 0xe6) === 0xe2 &&
  (head[1] & 0x18) !== 0x08 &&
  (head[2] & 0xf0) !== 0xf0 &&
  (head[2] & 0x0c) !== 0x0c;

/** Tells what a file is by its first bytes; undefined for what is no sound that is known. @param head 16 bytes or more */
export function fileKind(head: Uint8Array): FileKind | undefined {
  if (head.length < 4) return undefined;
  const id = fourCC(head);
  if (['RIFF', 'RIFX', 'RF64', 'BW64'].includes(id))
    return head.length >= 12 && ascii(head, 'WAVE', 8) ? 'wave' : undefined;
  if (id === 'FORM') return ascii(head, 'AIF', 8) ? 'aiff' : undefined;
  if (id === 'fLaC') return 'flac';
  if (id === 'OggS') return 'ogg';
  if (ascii(head, 'ID3') || isMp3Frame(head)) return 'mp3';
  return ascii(head, 'ftyp', 4) || ascii(head, 'moov', 4) || ascii(head, 'mdat', 4) ? 'mp4' : undefined;
}

const others: readonly [test: (head: Uint8Array, text: string) => boolean, name: string][] = [
  [(_, text) => /^\s*(<!doctype html|<html|<head|<script|<svg)/i.test(text), 'a web page'],
  [(_, text) => /^\s*<\?xml/i.test(text), 'an XML document'],
  [(_, text) => text.startsWith('PK\u0003\u0004'), 'a ZIP archive'],
  [(_, text) => text.startsWith('%PDF'), 'a PDF document'],
  [(head) => head[0] === 0x89 && ascii(head, 'PNG', 1), 'a PNG picture'],
  [(head) => head[0] === 0xff && head[1] === 0xd8 && head[2] === 0xff, 'a JPEG picture'],
  [(_, text) => text.startsWith('GIF8'), 'a GIF picture'],
  [(head) => head[0] === 0x1a && head[1] === 0x45 && head[2] === 0xdf, 'a Matroska or WebM file'],
  [(head) => head[0] === 0x1f && head[1] === 0x8b, 'a gzip archive'],
  [(_, text) => text.startsWith('RIFF'), 'a RIFF file that holds no sound'],
  [(head) => head.every((b) => b === 0), 'nothing but zeros'],
  [(_, text) => /^[\t\n\r\x20-\x7e]+$/.test(text), 'text'],
];

/** What a file is that is no sound, in words: `a web page`. @param head some 64 bytes */
export function otherKind(head: Uint8Array): string {
  const text = String.fromCharCode(...head.subarray(0, 64));
  return others.find(([test]) => test(head, text))?.[1] ?? 'bytes of no kind that is known';
}
