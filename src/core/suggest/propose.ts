import type { FieldValue, Sound } from '@core/library';
import { baseName, fold, folderOf, inCase, splitName, stem, takeOf } from '@core/naming';
import { categories } from './categories';
import type { Evidence } from './classify';
import { materials, perspectives, plain } from './trade-words';

/** A value that is proposed for a field, and why. */
export interface Proposal {
  value: FieldValue;
  reason: string;
}

const fromFile = (origin: string | undefined) => origin?.startsWith('file ') || origin === 'typed';

/** What the classifier goes by of a sound. */
export function evidenceOf(sound: Pick<Sound, 'path' | 'fields' | 'from'>): Evidence {
  const { fields, from } = sound;
  const texts: { where: string; text: string; weight: number }[] = [];
  const add = (key: string, where: string, weight: number) => {
    const value = fields[key];
    if (value !== undefined && fromFile(from[key]))
      texts.push({ where, text: Array.isArray(value) ? value.join('; ') : String(value), weight });
  };
  add('fxName', 'the name', 0.9);
  add('category', 'its old category', 0.8);
  add('subCategory', 'its old category', 0.8);
  add('vendorCategory', 'its old category', 0.7);
  add('keywords', 'the keywords', 0.5);
  add('description', 'the description', 0.55);
  const number = (key: string) => fields[key] as number | undefined;
  return {
    name: baseName(sound.path),
    folder: folderOf(sound.path),
    texts,
    seconds: number('length'),
    onsets: number('onsets'),
    pitchSure: number('pitchSure'),
    brightness: number('brightness'),
    noisiness: number('noisiness'),
  };
}

const wordsOf = (text: string) => splitName(text).map(fold);

function named(
  words: readonly string[],
  table: Readonly<Record<string, readonly string[]>>,
): [name: string, word: string][] {
  return Object.entries(table).flatMap(([name, own]) => {
    const stems = new Set(own.map(stem));
    const word = words.find((w) => own.includes(w) || stems.has(stem(w)));
    return word ? [[name, word] as [string, string]] : [];
  });
}

/** Words of a recorder or an archive rather than of a sound: `ZR-0231`, `MFR0231`, `T07`, `24bit`, `48k`. */
const code = /^(?:[A-Z]{2,5}[-_ ]?\d{2,6}|[A-Z]\d{1,4}|\d{1,3}\s?(?:k|khz|bit)|\d+)$/i;
const technical = new Set(
  'wav aif aiff flac mono stereo lr ms xy quad ortf khz bit copy final mix master edit export bounce new untitled sfx fx lp'.split(
    ' ',
  ),
);

/**
 * A name for people out of a file name: codes, numbers, takes and technical words left out, words parted, in title case.
 * Empty when nothing is left.
 */
export function cleanName(path: string): string {
  const base = baseName(path).replace(/\((?:copy|\d+)\)/gi, ' ');
  const withoutTake =
    takeOf(`x/${base}`).take === undefined
      ? base
      : base.replace(/[\s_.-]*(?:take|tk)?[\s_.-]*[([]?(?:\d{1,3}|[A-Z])[)\]]?$/i, '');
  const parts = withoutTake.replace(/^[A-Z]{2,5}[-_ ]?\d{2,6}\b/i, ' ').split(/[_\s.]+/);
  const words = parts.flatMap((part) => (code.test(part) ? [] : splitName(part.replace(/-/g, ' '))));
  const kept = words.filter((w) => !/^\d+$/.test(w) && !technical.has(fold(w)));
  return inCase(kept.map((w) => (/^\p{Lu}\p{Ll}/u.test(w) ? fold(w) : w)).join(' '), 'title');
}

let vocabulary: { of: typeof categories; words: Set<string> } | undefined;
/** Stems of every word of the category list: words that describe sounds. */
function described(): Set<string> {
  if (vocabulary?.of !== categories)
    vocabulary = {
      of: categories,
      words: new Set(categories.flatMap((c) => [c.category, c.subCategory, ...c.synonyms].flatMap(wordsOf).map(stem))),
    };
  return vocabulary!.words;
}

/**
 * Values for further fields of a sound, from its name, its folders and its facts: name, keywords, kind, take, material, perspective.
 * Nothing is proposed that is there already.
 */
export function propose(sound: Pick<Sound, 'path' | 'fields' | 'from'>): Record<string, Proposal> {
  const found: Record<string, Proposal> = {};
  const name = wordsOf(baseName(sound.path));
  const all = [...name, ...wordsOf(folderOf(sound.path))];
  const put = (key: string, value: FieldValue, reason: string) => {
    if (JSON.stringify(sound.fields[key]) !== JSON.stringify(value)) found[key] = { value, reason };
  };
  const clean = cleanName(sound.path);
  if (clean) put('fxName', clean, 'the file name without codes, numbers and takes');
  const words = [
    ...new Set(all.filter((w) => w.length > 2 && !plain.has(w) && !/\d/.test(w) && described().has(stem(w)))),
  ];
  if (words.length > 0) put('keywords', words, 'words of the name and the folders');
  const { take } = takeOf(sound.path);
  if (take) put('take', take, `“${take}” at the end of the name`);
  const made = named(all, materials);
  if (made.length > 0)
    put(
      'material',
      made.map(([m]) => m),
      made.map(([, w]) => `“${w}”`).join(', '),
    );
  const [near] = named(name, perspectives);
  if (near) put('distance', near[0], `“${near[1]}” in the name`);
  const loops = name.some((w) => /^(loop|loops|looped|looping|lp)$/.test(w));
  const { onsets, length } = sound.fields as { onsets?: number; length?: number };
  if (loops) put('kind', 'Loop', '“loop” in the name');
  else if (onsets !== undefined && length !== undefined && onsets <= 1 && length < 8)
    put('kind', 'Single', 'one onset');
  return found;
}
