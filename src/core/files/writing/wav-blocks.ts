import { fourCC, joined, viewOf } from '../source';
import { decodeText, encodeFixed, encodeText } from '../text';
import { chunkBytes } from './chunked';
import { ANCHOR, isAnchor } from './wanted';

/** Where the texts of `bext` lie (EBU Tech 3285): offset and bytes. */
const fixed: Readonly<Record<string, readonly [at: number, length: number]>> = {
  Description: [0, 256],
  Originator: [256, 32],
  OriginatorReference: [288, 32],
  OriginationDate: [320, 10],
  OriginationTime: [330, 8],
};
const BEXT = 602;

/** What is left of a text at a place: fields of fixed size hold so much and no more. */
export function fitted(place: string, text: string): string {
  const [block, key] = place.split('.');
  const size = block === 'bext' ? fixed[key]?.[1] : undefined;
  return (size === undefined ? text : decodeText(encodeFixed(text, size))).trim();
}

/** A `bext` chunk with texts put into it; all else in it stays. @param cut told the key of a text that is longer than its field */
export function withBext(
  old: Uint8Array | undefined,
  texts: ReadonlyMap<string, string>,
  cut: (key: string) => void,
): Uint8Array {
  const bytes = new Uint8Array(Math.max(BEXT, old?.length ?? 0));
  if (old) bytes.set(old);
  // A chunk made anew says which version it is of.
  else viewOf(bytes).setUint16(346, 1, true);
  for (const [key, text] of texts) {
    const place = fixed[key];
    if (!place) continue;
    const [at, length] = place;
    // An old text must not shine through behind a shorter one.
    bytes.set(encodeFixed(text, length), at);
    if (encodeText(text).length > length) cut(key);
  }
  return bytes;
}

/** Sub-chunks of a LIST, in order, as they lie. */
interface Item {
  id: string;
  content: Uint8Array;
}

/** A LIST chunk's kind and items; undefined where its lengths are wrong, as then nothing in it can be kept safely. */
export function listItems(bytes: Uint8Array, le: boolean): { kind: string; items: Item[] } | undefined {
  if (bytes.length < 4) return undefined;
  const view = viewOf(bytes);
  const items: Item[] = [];
  let at = 4;
  while (at + 8 <= bytes.length) {
    const size = view.getUint32(at + 4, le);
    if (size > bytes.length - at - 8) return undefined;
    items.push({ id: fourCC(bytes, at), content: bytes.subarray(at + 8, at + 8 + size) });
    at += 8 + size + (size % 2);
  }
  return at >= bytes.length ? { kind: fourCC(bytes), items } : undefined;
}

export function listBytes(kind: string, items: readonly Item[], le: boolean): Uint8Array {
  return joined([encodeText(kind), ...items.map(({ id, content }) => chunkBytes(id, content, le))]);
}

const terminated = (text: string) => joined([encodeText(text), new Uint8Array(1)]);

/** INFO items with texts put in: an id that is there keeps its place, new ones follow, empty texts take theirs away. */
export function withInfo(items: readonly Item[], texts: ReadonlyMap<string, string>): Item[] {
  const left = new Map(texts);
  const kept = items.flatMap((item): Item[] => {
    const text = texts.get(item.id);
    if (text === undefined) return [item];
    // The first of several is the one that counts.
    const first = left.delete(item.id);
    return first && text !== '' ? [{ id: item.id, content: terminated(text) }] : [];
  });
  const fresh = [...left].filter(([, text]) => text !== '').map(([id, text]) => ({ id, content: terminated(text) }));
  return [...kept, ...fresh];
}

const POINT = 24;

/** Points of a `cue ` chunk as they lie. */
const pointsIn = (bytes: Uint8Array, le: boolean): Uint8Array[] => {
  if (bytes.length < 4) return [];
  const count = Math.min(viewOf(bytes).getUint32(0, le), Math.floor((bytes.length - 4) / POINT));
  return Array.from({ length: count }, (_, i) => bytes.subarray(4 + i * POINT, 4 + (i + 1) * POINT));
};

const idOf = (bytes: Uint8Array, le: boolean) => viewOf(bytes).getUint32(0, le);

/** `cue ` and the items of `adtl` with the anchor at a frame: the point that is labelled so moves, or one is added. All others stay. */
export function withAnchor(
  cue: Uint8Array | undefined,
  adtl: readonly Item[],
  frame: number,
  le: boolean,
): { cue: Uint8Array; adtl: Item[] } {
  const points = cue ? pointsIn(cue, le) : [];
  const label = adtl.find(
    ({ id, content }) =>
      id === 'labl' &&
      content.length >= 4 &&
      isAnchor(decodeText(content.subarray(4))) &&
      points.some((p) => idOf(p, le) === idOf(content, le)),
  );
  const id = label ? idOf(label.content, le) : 1 + points.reduce((top, p) => Math.max(top, idOf(p, le)), 0);
  const made = new Uint8Array(POINT);
  const view = viewOf(made);
  view.setUint32(0, id, le);
  view.setUint32(4, frame, le);
  made.set(encodeFixed('data', 4), 8);
  view.setUint32(20, frame, le);
  const others = points.filter((p) => idOf(p, le) !== id);
  const head = new Uint8Array(4);
  viewOf(head).setUint32(0, others.length + 1, le);
  // Where it stood it stays; points are in no order that means anything.
  const place = points.findIndex((p) => idOf(p, le) === id);
  others.splice(place < 0 ? others.length : place, 0, made);
  const named = new Uint8Array(4);
  viewOf(named).setUint32(0, id, le);
  const fresh = { id: 'labl', content: joined([named, terminated(ANCHOR)]) };
  return { cue: joined([head, ...others]), adtl: label ? [...adtl] : [...adtl, fresh] };
}

/** A `smpl` chunk whose sound plays unchanged at a MIDI note; all else in it stays. */
export function withRootNote(old: Uint8Array | undefined, note: number, rate: number, le: boolean): Uint8Array {
  const bytes = new Uint8Array(Math.max(36, old?.length ?? 0));
  if (old) bytes.set(old);
  else viewOf(bytes).setUint32(8, Math.round(1e9 / rate), le);
  viewOf(bytes).setUint32(12, note, le);
  return bytes;
}
