import { fitted, isAnchor, type AudioFile, type IxmlTree, type WavLabels, type Wanted } from '@core/files';
import { saidFor } from './describe';
import type { Field } from './field';
import { fields, languageFields } from './fields';
import { findLicence } from './licence';
import type { Sound } from './sound';
import { textOf, type TagNames } from './values';

/** Puts a value at a dotted place of a tree. */
function put(tree: IxmlTree, place: readonly string[], value: string): void {
  const [name, ...rest] = place;
  if (rest.length === 0) tree[name] ??= value;
  else {
    const inner = (tree[name] ??= {});
    if (typeof inner === 'object') put(inner, rest, value);
  }
}

/** All fields, also those in further languages that keys tell of. */
const withLanguages = (keys: readonly string[]): Field[] => [...fields, ...languageFields(keys)];

/**
 * The labels of a sound as a WAV file takes them: each field where it is read from, as the registry says.
 * @param anchor frame of the written audio; left out when absent
 */
export function wavLabelsOf(sound: Pick<Sound, 'fields'>, tags: TagNames, anchor?: number): WavLabels {
  const ixml: IxmlTree = {};
  const info: Record<string, string> = {};
  const bext: Record<string, string> = {};
  for (const field of withLanguages(Object.keys(sound.fields))) {
    const value = textOf(field, sound.fields[field.key], tags);
    if (value === '') continue;
    // What several programs read stands in each block; within a block the first place is the one that is trusted most.
    const placed = new Set<string>();
    for (const key of field.read) {
      const [block, ...place] = key.split('.');
      if (placed.has(block)) continue;
      placed.add(block);
      if (block === 'iXML' && place[0] !== 'BEXT') put(ixml, place, value);
      else if (block === 'INFO') info[place[0]] ??= value;
      else if (block === 'bext') bext[place[0]] ??= value;
    }
  }
  const cues = anchor === undefined ? [] : [{ frame: anchor, label: 'Anchor', length: 0 }];
  return { bext, ixml, info, cues };
}

/** The labels of a sound as a FLAC file's comments take them, by name: each field where it is read from; the anchor in samples. */
export function flacLabelsOf(sound: Pick<Sound, 'fields'>, tags: TagNames, anchor?: number): Record<string, string> {
  const comments: Record<string, string> = anchor === undefined ? {} : { ANCHOR: String(anchor) };
  for (const field of withLanguages(Object.keys(sound.fields))) {
    const value = textOf(field, sound.fields[field.key], tags);
    const key = field.read.find((k) => k.startsWith('vorbis.'));
    if (value !== '' && key) comments[key.slice('vorbis.'.length)] ??= value;
  }
  return comments;
}

/** Blocks that a kind of file is given labels in; others are changed only where the file has them. */
const made: Readonly<Record<string, readonly string[]>> = {
  WAV: ['bext', 'iXML', 'INFO', 'smpl'],
  RF64: ['bext', 'iXML', 'INFO', 'smpl'],
  RIFX: ['bext', 'iXML', 'INFO', 'smpl'],
  AIFF: ['AIFF', 'ID3'],
  'AIFF-C': ['AIFF', 'ID3'],
  FLAC: ['vorbis'],
  MP3: ['ID3'],
};

/** Blocks that are brought up to date where a WAV file has them; others write them, and many programs read them. */
const kept: readonly string[] = ['XMP', 'ID3'];

/** A label that writing changes in a file. */
export interface LabelChange {
  key: string;
  label: string;
  /** As texts; empty for none. */
  before: string;
  after: string;
}

/** Characters that no XML holds, and of which one ends texts elsewhere. */
const unwritable =
  /[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]|[\ud800-\udbff](?![\udc00-\udfff])|(?<![\ud800-\udbff])[\udc00-\udfff]/g;

/** A value as files hold it: words of a list with commas between, and none within. */
function fileText(field: Field, value: Parameters<typeof textOf>[1], tags: TagNames): string {
  const text =
    Array.isArray(value) && field.type === 'list'
      ? (value as readonly string[]).map((w) => w.replace(/\s*[,;]+\s*/g, ' ').trim()).join(', ')
      : textOf(field, value, tags);
  return text.replace(unwritable, '').trim();
}

/** Where a field's text has to stand that does not stand there yet. */
function placesFor(
  field: Field,
  text: string,
  file: AudioFile,
  tagged: boolean,
  puts: (place: string, text: string) => void,
): boolean {
  const { labels, format } = file;
  const blocks = made[format.container] ?? [];
  const wave = blocks.includes('bext');
  const present = new Set(wave ? [...labels.keys()].map((key) => key.split('.')[0]) : []);
  if (tagged) present.add('ID3');
  const old = saidFor(field, labels);
  const filled = new Set<string>();
  let changed = false;
  for (const place of field.read) {
    const [block] = place.split('.');
    if (!blocks.includes(block) && !(kept.includes(block) && present.has(block))) continue;
    const now = labels.get(place) ?? '';
    // Properties of an XMP packet are changed, and none is added.
    const first = !filled.has(block) && (block !== 'XMP' || now !== '');
    filled.add(block);
    // A place that says something else than the field is its own.
    const follows = now !== '' && (now === old?.text || (old && old.text.startsWith(now)));
    if (!(first && text !== '') && !follows) continue;
    if (fitted(place, text) === now) continue;
    puts(place, text);
    changed = true;
  }
  return changed;
}

/**
 * What has to be put into a file so that it says of itself what the catalogue says of the sound: every field at the most trusted place of
 * each block that its kind of file has, and wherever else its old text stands.
 * @param file as it is now
 * @param tagged a picture gives it an ID3 tag, in which its labels are to stand as well
 * @returns what to write, and what that changes, as one reads it
 */
export function labelsToWrite(
  file: AudioFile,
  sound: Pick<Sound, 'fields' | 'from' | 'marks'>,
  tags: TagNames,
  tagged = false,
): { wanted: Wanted; changes: LabelChange[] } {
  const places = new Map<string, string>();
  const changes: LabelChange[] = [];
  const all = withLanguages([...Object.keys(sound.fields), ...file.labels.keys()]);
  // A licence comes last: another field's text may name it already.
  for (const field of [...all.filter((f) => f.key !== 'licence'), ...all.filter((f) => f.key === 'licence')]) {
    // What was measured is measured again by whoever reads the file.
    if (field.read.length === 0 || sound.from[field.key] === 'measured') continue;
    const text = fileText(field, sound.fields[field.key], tags);
    const before = saidFor(field, file.labels)?.text ?? '';
    if (field.key === 'licence' && before === '') {
      // Found in a text that goes on saying it, it stands in the file as it is.
      const place = sound.from.licence?.replace(/^file /, '') ?? '';
      if (text !== '' && findLicence(places.get(place) ?? file.labels.get(place) ?? '') === text) continue;
    }
    const changed = placesFor(field, text, file, tagged, (place, to) => {
      // Two fields at one place: the first one has it.
      if (!places.has(place)) places.set(place, to);
    });
    if (changed) changes.push({ key: field.key, label: field.label, before, after: text });
  }
  const { anchor } = sound.marks;
  const there = file.cues.find((c) => isAnchor(c.label))?.frame;
  // One that is only guessed is no label.
  const set = sound.from.anchor === 'typed' || sound.from.anchor === 'suggested';
  const moves = set && anchor >= 0 && anchor !== there && file.format.container !== 'MP3';
  if (moves)
    changes.push({
      key: 'anchor',
      label: 'Anchor',
      before: there === undefined ? '' : `frame ${there}`,
      after: `frame ${anchor}`,
    });
  return { wanted: { places, ...(moves ? { anchor } : {}) }, changes };
}
