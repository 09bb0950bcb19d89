import { encodeText, isAnchor, type AudioFile, type AudioFormat, type CuePoint } from '@core/files';
import { baseName, folderOf, parseUcsName, readableName, splitName, takeOf, type TakeName } from '@core/naming';
import type { Field, FieldValue } from './fields';
import { fields, languageFields } from './fields';
import { findLicence } from './licence';
import type { Marks, Origin, Sound } from './sound';

/** What is known of a category, for filling its words in from a CatID. */
export interface CategoryWords {
  category: string;
  subCategory: string;
}

/** What intake knows of a file beside its content. */
export interface FoundFile {
  rootId: number;
  rootName: string;
  path: string;
  size: number;
  modified: number;
  intakeId: number;
  /** Milliseconds since 1970. */
  now: number;
  /** See `Sound.quickHash`. */
  quickHash?: string;
}

function listOf(text: string): string[] {
  return [
    ...new Set(
      text
        .split(/[,;]/)
        .map((w) => w.trim())
        .filter(Boolean),
    ),
  ];
}

const isoDate = /^\d{4}(-\d{2}(-\d{2})?)?(?=$|T| )/;

/** A label's text as the value of a field; undefined when it is none. */
function valueOf(field: Field, text: string): FieldValue | undefined {
  switch (field.type) {
    case 'list':
      return listOf(text);
    case 'date': {
      const date = isoDate.exec(text)?.[0];
      const at = date === undefined ? NaN : Date.parse(date);
      return Number.isNaN(at) ? undefined : at;
    }
    case 'stars': {
      const stars = Number(text);
      return Number.isInteger(stars) && stars >= 1 && stars <= 5 ? stars : undefined;
    }
    case 'number': {
      // Blocks that hold numbers write 0 where nothing was set.
      const number = text.trim() === '' ? NaN : Number(text.replace(',', '.'));
      return Number.isFinite(number) && number !== 0 ? number : undefined;
    }
    default:
      return field.key === 'licence' ? findLicence(text) : text;
  }
}

/** What a file says for a field, by the first place of trust that says anything. */
export interface Said {
  place: string;
  text: string;
  value: FieldValue;
}

/** A text that was cut to fit a field of fixed size stands whole elsewhere. Bytes that are left out at the most where it was cut. */
const CUT = 4;
const fixedSizes: Readonly<Record<string, number>> = { 'bext.Description': 256, 'bext.Originator': 32 };

/** What the labels of a file say for a field. */
export function saidFor(field: Field, labels: ReadonlyMap<string, string>): Said | undefined {
  for (const place of field.read) {
    const text = labels.get(place);
    const value = text === undefined ? undefined : valueOf(field, text);
    if (text === undefined || value === undefined) continue;
    const size = fixedSizes[place];
    if (size === undefined || encodeText(text).length <= size - CUT) return { place, text, value };
    const whole = field.read.find((p) => p !== place && labels.get(p)?.startsWith(text));
    return whole ? { place, text: labels.get(whole)!, value: labels.get(whole)! } : { place, text, value };
  }
  return undefined;
}

class Filler {
  readonly values: Record<string, FieldValue> = {};
  readonly from: Record<string, Origin> = {};

  /** Sets a value unless one of more trust is there. */
  put(key: string, value: FieldValue | undefined, origin: Origin): void {
    if (value === undefined || value === '' || key in this.values) return;
    this.values[key] = value;
    this.from[key] = origin;
  }
}

function isLoop(file: Pick<AudioFile, 'loops'>, path: string): boolean {
  return file.loops.length > 0 || splitName(path).some((w) => /^loop(s|ed|ing)?$/i.test(w));
}

function anchorOf(cues: CuePoint[]): number | undefined {
  return cues.find((c) => isAnchor(c.label))?.frame;
}

/** What the file marks in itself: its anchor, its loop, and the regions that have a name. */
function marksOf({ cues, loops, format }: AudioFile): Marks {
  const within = (start: number, end: number) => start >= 0 && end > start && end <= format.frames;
  const marks: Marks = { anchor: anchorOf(cues) ?? -1 };
  const loop = loops.find((l) => within(l.start, l.end + 1));
  if (loop) marks.loop = { start: loop.start, end: loop.end + 1 };
  const regions = cues
    .filter((c) => c.label.trim() !== '' && c.length > 0 && within(c.frame, c.frame + c.length))
    .map((c) => ({ name: c.label.trim(), start: c.frame, end: c.frame + c.length }));
  if (regions.length > 0) marks.regions = regions.sort((a, b) => a.start - b.start);
  return marks;
}

function technical(filler: Filler, format: AudioFormat, file: AudioFile, found: FoundFile): void {
  const put = (key: string, value: FieldValue) => filler.put(key, value, 'measured');
  put('length', format.frames / format.rate);
  put('channels', format.channels);
  put('rate', format.rate);
  if (format.bits > 0) put('bits', format.bits);
  put('format', format.container);
  if (isLoop(file, found.path)) filler.put('kind', 'Loop', file.loops.length > 0 ? 'file smpl' : 'name');
  put('added', found.now);
  filler.put('file', found.path.slice(found.path.lastIndexOf('/') + 1), 'name');
  filler.put('folder', folderOf(found.path), 'folder');
}

/**
 * The take of a file and the group of takes that it shares with others. Two libraries may well have files of the same names: takes
 * only belong together within a root. @param fxName of its UCS name, if it has one
 */
export function takeIn(rootId: number, path: string, fxName?: string): TakeName {
  const { group, ...take } = takeOf(path, fxName);
  return { group: `${rootId}/${group}`, ...take };
}

/**
 * Makes the catalogue's record of a file from what it says of itself, its name and its folders.
 *
 * Values are taken in the order of the registry's table of trust; then the name, if it follows UCS; then, for a name to
 * show, the words of the file name. Every value keeps where it came from.
 * @param category words of a CatID, undefined for an unknown one
 * @param named the CatID of a Category and a SubCategory
 * @returns the record without its id
 */
export function describe(
  file: AudioFile,
  found: FoundFile,
  category: (catId: string) => CategoryWords | undefined,
  named: (category: string, subCategory: string) => string | undefined = () => undefined,
): Omit<Sound, 'id'> {
  const filler = new Filler();
  for (const field of [...fields, ...languageFields(file.labels.keys())]) {
    const said = saidFor(field, file.labels);
    if (said) filler.put(field.key, said.value, `file ${said.place}`);
  }
  for (const [key, text] of file.labels) filler.put('licence', findLicence(text), `file ${key}`);
  const ucs = parseUcsName(found.path, (id) => category(id) !== undefined);
  for (const [key, value] of Object.entries(ucs ?? {})) filler.put(key, value as string, 'name');
  const { category: main, subCategory: sub } = filler.values as Record<string, string | undefined>;
  if (main && sub) filler.put('catId', named(main, sub), filler.from.category);
  const words = category((filler.values.catId as string | undefined) ?? '');
  if (words) {
    filler.put('category', words.category, filler.from.catId);
    filler.put('subCategory', words.subCategory, filler.from.catId);
  }
  const { group, take } = takeIn(found.rootId, found.path, ucs?.fxName);
  filler.put('takeGroup', group, 'name');
  filler.put('take', take, 'name');
  filler.put('fxName', readableName(found.path) || baseName(found.path), 'name');
  filler.put('library', found.rootName, 'folder');
  technical(filler, file.format, file, found);
  const marks = marksOf(file);
  if (marks.anchor >= 0) filler.from.anchor = 'file cue';
  return {
    rootId: found.rootId,
    path: found.path,
    size: found.size,
    modified: found.modified,
    intakeId: found.intakeId,
    format: file.format,
    fields: filler.values,
    from: filler.from,
    marks,
    warnings: file.warnings,
    ...(found.quickHash === undefined ? {} : { quickHash: found.quickHash }),
    ...(file.artwork === undefined ? {} : { artwork: file.artwork }),
  };
}
