import { fields, isField, languageOf, type Origin, type PictureRef, type Sound } from '@core/library';
import type { Print } from '@core/audio';

/** Texts by field. */
type Texts = Readonly<Record<string, string>>;

/** Fields that a publisher may tell others: what is heard and whose it is, nothing of how somebody works with it. */
const told = [
  ...['fxName', 'catId', 'userCategory', 'vendorCategory', 'description', 'keywords', 'material', 'distance'],
  ...['library', 'creatorId', 'author', 'sourceId', 'manufacturer', 'licence', 'copyright', 'page'],
  ...['microphone', 'perspective', 'rootNote', 'recorded'],
];

/** Whether a field may be told to others; `description@de` as description. */
export const isTold = (key: string): boolean => isField(key) && told.includes(languageOf(key).base);

/** The fields that may be told, in the order of the registry; languages that sounds have come behind theirs. @param used keys that sounds have */
export function toldKeys(used: Iterable<string>): string[] {
  const known = fields.map((f) => f.key);
  const place = (key: string) => known.indexOf(languageOf(key).base);
  return [...new Set(used)].filter(isTold).sort((a, b) => place(a) - place(b) || (a < b ? -1 : 1));
}

/** How a field of a sound stands to what its publisher says now. */
export type FieldState =
  /** Nothing is there yet. */
  | 'new'
  | 'same'
  /** It was worked out here, of the file's name or its sound, and nobody wrote it. */
  | 'guessed'
  /** It is as the publisher said before, and the publisher says otherwise now. */
  | 'corrected'
  /** Somebody here wrote something else, or its file says so. */
  | 'edited';

export const fieldStates = ['new', 'guessed', 'corrected', 'edited', 'same'] as const;

/** Where values come from that nobody wrote. */
const guesses: readonly Origin[] = ['name', 'folder', 'measured', 'suggested'];

/** A field, as it is here and as its publisher has it. */
export interface Compared {
  key: string;
  mine: string;
  theirs: string;
  state: FieldState;
}

function stateOf(own: string, said: string, before: string | undefined, origin: Origin | undefined): FieldState {
  if (own === said) return 'same';
  // What somebody emptied here after it was taken, and the publisher says as before, stays empty.
  if (own === '') return before === said ? 'edited' : 'new';
  if (own === before) return 'corrected';
  return origin !== undefined && guesses.includes(origin) ? 'guessed' : 'edited';
}

/**
 * Compares labels field by field with what a publisher says: three ways, where it is known what was taken last.
 * @param from where what is here comes from
 * @param taken what the publisher said when the sound was looked up before
 */
export function compared(
  mine: Texts,
  theirs: Texts,
  from: Readonly<Record<string, Origin>> = {},
  taken: Texts = {},
): Compared[] {
  return toldKeys(Object.keys(theirs)).flatMap((key): Compared[] => {
    const [own, said, before] = [mine[key] ?? '', theirs[key], taken[key]];
    if (said === '') return [];
    return [{ key, mine: own, theirs: said, state: stateOf(own, said, before, from[key]) }];
  });
}

/** By what a picture stands among the fields of a sound. */
export const ARTWORK = 'artwork';

const pictureText = (ref: PictureRef | undefined): string =>
  ref ? `${ref.mime === 'image/png' ? 'PNG' : 'JPEG'}, ${Math.max(1, Math.round(ref.size / 1000))} kB` : '';

/** The same of a picture. One that lies in the file itself is somebody's own. */
export function pictureCompared(
  { artwork, picture, told: before }: Pick<Sound, 'artwork' | 'picture' | 'told'>,
  theirs: PictureRef | undefined,
): Compared[] {
  if (!theirs) return [];
  const own = picture?.sha256 ?? '';
  const state = artwork && own === '' ? 'edited' : stateOf(own, theirs.sha256, before?.artwork?.sha256, undefined);
  const mine = pictureText(picture) || (artwork ? 'in the file' : '');
  return [{ key: ARTWORK, mine, theirs: pictureText(theirs), state }];
}

/** Which of two values is wanted. */
export type Choice = 'mine' | 'theirs';
/** What is wanted of fields in each state, where nobody chose for one. */
export type Choices = Record<Exclude<FieldState, 'same'>, Choice>;
/** What most people want: nothing that somebody wrote is written over. */
export const usualChoices: Choices = { new: 'theirs', guessed: 'theirs', corrected: 'theirs', edited: 'mine' };

/** The texts that go onto a sound. @param chosen by field, where somebody chose */
export function takenFrom(
  fields: readonly Compared[],
  choices: Choices,
  chosen: Readonly<Record<string, Choice>> = {},
): Texts {
  return Object.fromEntries(
    fields
      .filter(({ key, state }) => state !== 'same' && (chosen[key] ?? choices[state]) === 'theirs')
      .map(({ key, theirs }) => [key, theirs]),
  );
}

const hexOf = (values: ArrayLike<number>, digits: number): string =>
  Array.from(values, (v) => v.toString(16).padStart(digits, '0')).join('');
const fromHex = (text: string, digits: number): number[] =>
  Array.from({ length: Math.floor(text.length / digits) }, (_, i) =>
    parseInt(text.slice(i * digits, (i + 1) * digits), 16),
  );

/** The most frames of a print that are sent: 40 s. */
const MOST_FRAMES = 2500;

/** A robust fingerprint as a text: eight digits a word, and two for how far each frame is under the loudest. */
export const printText = ({ words, under }: Print): { words: string; under: string } => ({
  words: hexOf(words.subarray(0, MOST_FRAMES), 8),
  under: hexOf(under.subarray(0, MOST_FRAMES), 2),
});

/** The inverse of {@link printText}. */
export const printFrom = ({ words, under }: { words: string; under: string }): Print => ({
  words: Uint32Array.from(fromHex(words, 8)),
  under: Uint8Array.from(fromHex(under, 2)),
});

/** A publisher's name as it is compared: case, and space around and within it, tell nothing. */
export const publisherKey = (name: string): string => name.normalize('NFC').trim().replace(/\s+/g, ' ').toLowerCase();
