import { isAiff } from '../aiff';
import { readChunk, walkChunks, type Chunk } from '../chunks';
import { isFlac } from '../flac';
import type { ByteSource } from '../source';
import { FileError, fourCC, joined, viewOf, windowed } from '../source';
import { decodeText, encodeText } from '../text';
import { isWav } from '../wav';
import { writeIxml, type IxmlTree } from '../xml';
import { sized, withChunks } from './chunked';
import { flacWith } from './flac-blocks';
import { readTag, withTexts } from './id3-tag';
import { changesNothing, settledSplice, tidied, type Splice } from './splice';
import { ANCHOR, isAnchor, placesOf, type Wanted } from './wanted';
import { listBytes, listItems, withAnchor, withBext, withInfo, withRootNote } from './wav-blocks';
import { withIxml, withXmp } from './xml-edit';

/** What writing labels into a file comes to. */
export interface FilePlan {
  splice: Splice;
  /** What is not as one would wish, in words for the user. */
  notes: string[];
  /** Where the bytes of the audio lie, before and after. */
  audio: { before: number; after: number; length: number };
}

/** What a plan needs to know of a file beside its bytes. */
export interface Known {
  rate: number;
  frames: number;
}

type Texts = ReadonlyMap<string, string>;
const anyText = (texts: Texts) => [...texts.values()].some((t) => t !== '');

/** Nested elements out of paths with dots. */
function treeOf(texts: Texts): IxmlTree {
  const tree: IxmlTree = {};
  for (const [path, text] of texts) {
    const parts = path.split('.');
    let at = tree;
    for (const part of parts.slice(0, -1)) at = (at[part] ??= {}) as IxmlTree;
    if (text !== '') at[parts.at(-1)!] = text;
  }
  return tree;
}

/** The chunks of a file with what has to be put into them. */
class Chunked {
  readonly edits = new Map<Chunk, Uint8Array | undefined>();
  readonly added: { id: string; bytes: Uint8Array }[] = [];
  readonly notes: string[] = [];

  constructor(
    readonly source: ByteSource,
    readonly chunks: readonly Chunk[],
  ) {}

  all(id: string): Chunk[] {
    return this.chunks.filter((c) => c.id === id);
  }

  content(chunk: Chunk): Promise<Uint8Array> {
    return readChunk(this.source, chunk);
  }

  /** Changes every chunk of an id, or adds one. @param make undefined leaves it as it is */
  async change(id: string, add: boolean, make: (old: Uint8Array | undefined) => Uint8Array | undefined): Promise<void> {
    const found = this.all(id);
    for (const chunk of found) {
      const made = make(await this.content(chunk));
      if (made) this.edits.set(chunk, made);
    }
    if (found.length > 0 || !add) return;
    const made = make(undefined);
    if (made) this.added.push({ id, bytes: made });
  }

  /** An ID3 tag in a chunk. */
  async tag(id: string, texts: Texts, add: boolean, picture: Wanted['picture']): Promise<void> {
    const [chunk] = this.all(id);
    const any = anyText(texts) || (picture !== undefined && picture !== 'none');
    if (!chunk && !(add && any)) return;
    try {
      const old = chunk && (await readTag(this.source, chunk.offset, chunk.size));
      const bytes = withTexts(old, texts, picture);
      if (chunk) this.edits.set(chunk, bytes);
      else this.added.push({ id, bytes });
    } catch (error) {
      // Texts have other blocks to stand in; a picture has none.
      if (!(error instanceof FileError) || picture) throw error;
      this.notes.push(error.message);
    }
  }
}

async function infoInto(file: Chunked, texts: Texts, le: boolean): Promise<void> {
  if (texts.size === 0) return;
  let left = new Map(texts);
  for (const chunk of file.all('LIST')) {
    const bytes = await file.content(chunk);
    if (fourCC(bytes) !== 'INFO') continue;
    const list = listItems(bytes, le);
    if (!list) {
      file.notes.push('the lengths in its INFO list are wrong, so that list is left as it is');
      return;
    }
    // The first list takes what is new; a later one only loses what the first has.
    file.edits.set(chunk, listBytes('INFO', withInfo(list.items, left), le));
    left = new Map([...texts.keys()].map((key) => [key, '']));
  }
  if (file.all('LIST').every((c) => !file.edits.has(c)) && anyText(texts))
    file.added.push({ id: 'LIST', bytes: listBytes('INFO', withInfo([], texts), le) });
}

async function anchorInto(file: Chunked, frame: number, le: boolean): Promise<void> {
  const cue = file.all('cue ').at(-1);
  const lists: { chunk: Chunk; items: NonNullable<ReturnType<typeof listItems>>['items'] }[] = [];
  for (const chunk of file.all('LIST')) {
    const bytes = await file.content(chunk);
    const list = fourCC(bytes) === 'adtl' ? listItems(bytes, le) : undefined;
    if (list) lists.push({ chunk, items: list.items });
  }
  const own =
    lists.find(({ items }) =>
      items.some((i) => i.id === 'labl' && i.content.length > 4 && isAnchor(decodeText(i.content.subarray(4)))),
    ) ?? lists[0];
  const made = withAnchor(cue && (await file.content(cue)), own?.items ?? [], frame, le);
  const list = listBytes('adtl', made.adtl, le);
  if (cue) file.edits.set(cue, made.cue);
  else file.added.push({ id: 'cue ', bytes: made.cue });
  if (own) file.edits.set(own.chunk, list);
  else file.added.push({ id: 'LIST', bytes: list });
}

async function wavPlan(source: ByteSource, wanted: Wanted, known: Known): Promise<FilePlan> {
  const head = await source.read(0, 36);
  const id = fourCC(head);
  const long = id === 'RF64' || id === 'BW64';
  const le = id !== 'RIFX';
  const ds64 = long && fourCC(head, 12) === 'ds64' ? Number(viewOf(head).getBigUint64(28, true)) : 0;
  const chunks = await walkChunks(source, 12, le, [], (c) => (c === 'data' && ds64 > 0 ? ds64 : undefined));
  const data = chunks.find((c) => c.id === 'data');
  if (!data || !chunks.some((c) => c.id === 'fmt '))
    throw new FileError('the order of its chunks is broken; have it written anew by an audio editor first', 12);
  const file = new Chunked(source, chunks);
  const bext = placesOf(wanted, 'bext');
  if (bext.size > 0)
    await file.change('bext', anyText(bext), (old) =>
      withBext(old, bext, (key) =>
        file.notes.push(`its ${key} is longer than bext holds; it is cut there and whole in iXML`),
      ),
    );
  const ixml = placesOf(wanted, 'iXML');
  if (ixml.size > 0)
    await file.change('iXML', anyText(ixml), (old) => {
      if (!old) return encodeText(writeIxml(treeOf(ixml)));
      const made = withIxml(decodeText(old), ixml);
      if (made === undefined) file.notes.push('its iXML is not well-formed, so it is left as it is');
      return made === undefined ? undefined : encodeText(made);
    });
  await infoInto(file, placesOf(wanted, 'INFO'), le);
  const xmp = placesOf(wanted, 'XMP');
  if (xmp.size > 0)
    await file.change('_PMX', false, (old) => {
      const made = old && withXmp(decodeText(old), xmp);
      if (made === undefined) file.notes.push('its XMP packet is not well-formed, so it is left as it is');
      return made === undefined ? undefined : encodeText(made);
    });
  const { picture } = wanted;
  const id3 = placesOf(wanted, 'ID3');
  if (id3.size > 0 || picture) {
    const ids = ['id3 ', 'ID3 '];
    // A picture needs a tag to lie in.
    const lacking = picture !== undefined && ids.every((own) => file.all(own).length === 0);
    for (const own of ids) await file.tag(own, id3, lacking && own === ids[0], picture);
  }
  const note = placesOf(wanted, 'smpl').get('MIDIUnityNote');
  if (note) await file.change('smpl', true, (old) => withRootNote(old, Number(note), known.rate, le));
  if (wanted.anchor !== undefined) await anchorInto(file, wanted.anchor, le);
  const family = { littleEndian: le, audio: 'data', filler: 'JUNK', long };
  const spliced = await withChunks(source, chunks, file.edits, file.added, family);
  const unread = source.size - Math.min(source.size, endOf(chunks));
  const whole = sized(spliced, unread, { ...family, audioSize: data.size, frames: known.frames, first: chunks[0] });
  return finished(source, whole, file.notes, data);
}

const endOf = (chunks: readonly Chunk[]) => {
  const last = chunks.at(-1)!;
  return last.offset + last.size + (last.size % 2);
};

/** MARK with the anchor at a frame: the marker that is called so moves, or one is added. */
function withMark(old: Uint8Array | undefined, frame: number): Uint8Array {
  const marks: Uint8Array[] = [];
  let own: number | undefined;
  let top = 0;
  if (old && old.length >= 2)
    for (let at = 2; at + 7 <= old.length;) {
      const length = old[at + 6];
      const end = at + 7 + length + ((length + 1) % 2);
      const mark = old.slice(at, end);
      top = Math.max(top, viewOf(mark).getInt16(0));
      if (own === undefined && isAnchor(decodeText(mark.subarray(7, 7 + length)))) own = marks.length;
      marks.push(mark);
      at = end;
    }
  const name = encodeText(ANCHOR);
  const made = own === undefined ? new Uint8Array(7 + name.length + ((name.length + 1) % 2)) : marks[own];
  const view = viewOf(made);
  if (own === undefined) {
    view.setInt16(0, top + 1);
    made[6] = name.length;
    made.set(name, 7);
    marks.push(made);
  }
  view.setUint32(2, frame);
  return joined([Uint8Array.of(marks.length >> 8, marks.length & 255), ...marks]);
}

async function aiffPlan(source: ByteSource, wanted: Wanted, known: Known): Promise<FilePlan> {
  const chunks = await walkChunks(source, 12, false, []);
  const sound = chunks.find((c) => c.id === 'SSND')!;
  const file = new Chunked(source, chunks);
  for (const [id, text] of placesOf(wanted, 'AIFF')) {
    // Comments with time stamps belong to whoever made them.
    if (id === 'COMT') continue;
    const own = id.padEnd(4);
    const [first, ...more] = file.all(own);
    for (const chunk of more) file.edits.set(chunk, undefined);
    if (first) file.edits.set(first, text === '' ? undefined : encodeText(text));
    else if (text !== '') file.added.push({ id: own, bytes: encodeText(text) });
  }
  const id3 = placesOf(wanted, 'ID3');
  if (id3.size > 0 || wanted.picture) await file.tag('ID3 ', id3, true, wanted.picture);
  if (wanted.anchor !== undefined) await file.change('MARK', true, (old) => withMark(old, wanted.anchor!));
  // EA IFF 85: a chunk with this id has no content that means anything.
  const family = { littleEndian: false, audio: 'SSND', filler: '    ' };
  const spliced = await withChunks(source, chunks, file.edits, file.added, family);
  const unread = source.size - Math.min(source.size, endOf(chunks));
  const whole = sized(spliced, unread, { ...family, audioSize: sound.size, frames: known.frames });
  return finished(source, whole, file.notes, sound);
}

async function flacPlan(source: ByteSource, wanted: Wanted): Promise<FilePlan> {
  const texts = placesOf(wanted, 'vorbis');
  if (wanted.anchor !== undefined) texts.set('ANCHOR', String(wanted.anchor));
  const { splice, audio } = await flacWith(source, texts, wanted.picture);
  return finished(source, splice, [], { offset: audio, size: source.size - audio });
}

async function mp3Plan(source: ByteSource, wanted: Wanted): Promise<FilePlan> {
  const old = await readTag(source, 0, source.size);
  const bytes = withTexts(old, placesOf(wanted, 'ID3'), wanted.picture);
  const from = old?.size ?? 0;
  const notes: string[] = [];
  const textAt = async (at: number, length: number) => decodeText(await source.read(Math.max(0, at), length));
  if (old && (await textAt(from, 3)) === 'ID3')
    notes.push('it has another ID3 tag behind the first, which is left as it is');
  const first = source.size > 128 && (await textAt(source.size - 128, 3)) === 'TAG';
  if (first) notes.push('it has an ID3v1 tag at its end, too, which is left as it is');
  if ((await textAt(source.size - (first ? 160 : 32), 8)) === 'APETAGEX')
    notes.push('it has an APE tag at its end, too, which is left as it is');
  if (wanted.anchor !== undefined) notes.push('an MP3 file has no place for the anchor; it stays in the catalogue');
  const pieces = tidied([{ bytes }, { from, length: source.size - from }]);
  return finished(source, { before: source.size, pieces }, notes, { offset: from, size: source.size - from });
}

/** @param audio where the audio lies in the old file */
async function finished(
  source: ByteSource,
  raw: Splice,
  notes: string[],
  audio: { offset: number; size: number },
): Promise<FilePlan> {
  const splice = await settledSplice(raw, source, audio);
  let at = 0;
  for (const piece of splice.pieces) {
    if (!('bytes' in piece) && piece.from <= audio.offset && audio.offset + audio.size <= piece.from + piece.length)
      return {
        splice,
        notes: [...new Set(notes)],
        audio: { before: audio.offset, after: at + audio.offset - piece.from, length: audio.size },
      };
    at += 'bytes' in piece ? piece.bytes.length : piece.length;
  }
  throw new Error('the audio would not have been kept whole, so nothing was written');
}

/** Whether the first bytes of a file begin an MPEG audio frame, or a tag before one. */
const isMp3 = (head: Uint8Array) =>
  (head[0] === 0xff && (head[1] & 0xe6) === 0xe2) || decodeText(head.subarray(0, 3)) === 'ID3';

/**
 * Works out how labels get into a file: WAV and its kin, AIFF, FLAC and MP3. Audio is never changed, and moved only where the file has no
 * room in front of it; whatever is not ours stays byte for byte, in order. Nothing is written.
 * @returns undefined where the file has all of it already
 * @throws FileError for a kind that cannot be written, and for a file that is too damaged
 */
export async function planLabels(from: ByteSource, wanted: Wanted, known: Known): Promise<FilePlan | undefined> {
  const source = windowed(from);
  const head = await source.read(0, 12);
  const plan = isWav(head)
    ? await wavPlan(source, wanted, known)
    : isAiff(head)
      ? await aiffPlan(source, wanted, known)
      : isFlac(head)
        ? await flacPlan(source, wanted)
        : isMp3(head)
          ? await mp3Plan(source, wanted)
          : undefined;
  if (!plan)
    throw new FileError(
      'labels are written into WAV, AIFF, FLAC and MP3 files; those of this one stay in the catalogue',
      0,
    );
  return changesNothing(plan.splice) ? undefined : plan;
}
