import { fourCC, joined, viewOf } from './source';

/** The polynomial of an Ogg page's checksum (RFC 3533, section 6): no bits reversed, begun with 0. */
const POLYNOMIAL = 0x04c11db7;
const table = Uint32Array.from({ length: 256 }, (_, n) => {
  let crc = n << 24;
  for (let bit = 0; bit < 8; bit++) crc = crc & 0x80000000 ? (crc << 1) ^ POLYNOMIAL : crc << 1;
  return crc;
});

/** Checksum of a page, whose own field counts as zero. */
function checksum(page: Uint8Array): number {
  let crc = 0;
  for (let i = 0; i < page.length; i++) {
    const byte = i >= 22 && i < 26 ? 0 : page[i];
    crc = (crc << 8) ^ table[((crc >>> 24) ^ byte) & 255];
  }
  return crc >>> 0;
}

const HEAD = 27;
const NONE = 0xffffffffffffffffn;

/** A page of an Ogg stream. */
export interface OggPage {
  offset: number;
  length: number;
  /** Which of the streams in the file it belongs to. */
  serial: number;
  /** Position at its end, in the codec's own units; undefined when no packet ends on it. */
  granule: number | undefined;
  /** It goes on with a packet of the page before. */
  continued: boolean;
  first: boolean;
  last: boolean;
}

/** What a look at every page of an Ogg file finds. */
export interface OggScan {
  /** Good pages of the first stream, in order. */
  pages: OggPage[];
  /** Places among the good pages before which something is missing. */
  gaps: number[];
  /** Pages whose checksum is wrong, and stretches that are no page. */
  bad: number;
  /** The file ends within a page, or without the page that ends the stream. */
  cut: boolean;
  /** Streams that follow the first one. */
  chained: number;
}

/**
 * Looks at every page of an Ogg file (RFC 3533) and at its checksum. A page that is damaged is passed over, and the next one found by its
 * capture pattern.
 */
export function scanOgg(bytes: Uint8Array): OggScan {
  const view = viewOf(bytes);
  const scan: OggScan = { pages: [], gaps: [], bad: 0, cut: false, chained: 0 };
  let gap = false;
  let lost = false;
  let ended = false;
  for (let at = 0; at < bytes.length;) {
    if (at + HEAD > bytes.length) {
      scan.cut = true;
      break;
    }
    const whole = fourCC(bytes, at) === 'OggS' ? pageLength(bytes, at) : undefined;
    if (whole === undefined || bytes[at + 4] !== 0) {
      // A stretch that is no page counts once.
      if (!lost) scan.bad++;
      [lost, gap] = [true, true];
      const next = bytes.indexOf(0x4f, at + 1);
      if (next < 0) break;
      at = next;
      continue;
    }
    if (at + whole > bytes.length) {
      scan.cut = true;
      break;
    }
    const page = bytes.subarray(at, at + whole);
    if (view.getUint32(at + 22, true) !== checksum(page)) {
      scan.bad++;
      gap = true;
      // Its length may be what is damaged: the next page is looked for within.
      const next = nextPage(bytes, at + 4, at + whole);
      lost = next < at + whole;
      at = next;
      continue;
    }
    lost = false;
    const serial = view.getUint32(at + 14, true);
    const flags = bytes[at + 5];
    if ((flags & 2) !== 0 && ended) scan.chained++;
    if (scan.chained === 0 && (scan.pages.length === 0 || scan.pages[0].serial === serial)) {
      const granule = view.getBigUint64(at + 6, true);
      if (gap && scan.pages.length > 0) scan.gaps.push(scan.pages.length);
      gap = false;
      scan.pages.push({
        offset: at,
        length: whole,
        serial,
        granule: granule === NONE ? undefined : Number(BigInt.asIntN(64, granule)),
        continued: (flags & 1) !== 0,
        first: (flags & 2) !== 0,
        last: (flags & 4) !== 0,
      });
      if ((flags & 4) !== 0) ended = true;
    }
    at += whole;
  }
  if (!ended) scan.cut = true;
  return scan;
}

function pageLength(bytes: Uint8Array, at: number): number | undefined {
  const segments = bytes[at + 26];
  if (at + HEAD + segments > bytes.length) return HEAD + segments;
  let length = HEAD + segments;
  for (let i = 0; i < segments; i++) length += bytes[at + HEAD + i];
  return length;
}

/** Where the next capture pattern stands, before `end`; `end` when there is none. */
function nextPage(bytes: Uint8Array, from: number, end: number): number {
  for (let at = bytes.indexOf(0x4f, from); at >= 0 && at < end; at = bytes.indexOf(0x4f, at + 1))
    if (at + 4 <= bytes.length && fourCC(bytes, at) === 'OggS') return at;
  return Math.min(end, bytes.length);
}

/** A part of a stream that can be decoded by itself, and where it ends. */
export interface OggRun {
  bytes: Uint8Array;
  /** Granule position of its last page; undefined when it has none. */
  end: number | undefined;
}

/**
 * Takes a damaged stream apart at its gaps: each part is a stream of its own, with the pages of the codec's head before it.
 * @param heads how many pages the codec's head has
 */
export function oggRuns(bytes: Uint8Array, { pages, gaps }: OggScan, heads: number): OggRun[] {
  const cut = (list: readonly OggPage[]) => {
    const whole = new Uint8Array(list.reduce((sum, p) => sum + p.length, 0));
    let at = 0;
    for (const { offset, length } of list) {
      whole.set(bytes.subarray(offset, offset + length), at);
      at += length;
    }
    return whole;
  };
  const head = pages.slice(0, heads);
  const edges = [heads, ...gaps.filter((g) => g > heads), pages.length];
  return edges.slice(0, -1).flatMap((from, i) => {
    let own = pages.slice(from, edges[i + 1]);
    // What goes on with a packet whose beginning is lost begins with the next page that does not.
    if (i > 0 || gaps.includes(heads)) while (own[0]?.continued) own = own.slice(1);
    const ends = own.map((p) => p.granule).filter((g) => g !== undefined);
    return own.length === 0 ? [] : [{ bytes: cut([...head, ...own]), end: ends[ends.length - 1] }];
  });
}

/** How many pages the codec's head has: all before the first that has a position beyond zero. */
export const oggHeads = ({ pages }: OggScan): number => {
  const first = pages.findIndex((p) => (p.granule ?? 0) !== 0 || p.granule === undefined);
  return first < 0 ? pages.length : first;
};

/** Whether an Ogg file holds FLAC, by its first packet (FLAC's mapping into Ogg, RFC 9639 section 10.1). @param head 40 bytes */
export const isOggFlac = (head: Uint8Array): boolean =>
  head.length >= 33 && fourCC(head) === 'OggS' && head[28] === 0x7f && fourCC(head, 29) === 'FLAC';

/** FLAC out of an Ogg file as a FLAC file by itself: its packets one after another, without the mapping's own nine bytes. */
export function unwrappedFlac(bytes: Uint8Array, { pages }: OggScan): Uint8Array {
  const parts = pages.map(({ offset, length }) => bytes.subarray(offset + HEAD + bytes[offset + 26], offset + length));
  if (parts.length > 0) parts[0] = parts[0].subarray(9);
  return joined(parts);
}
