import { fullShape, isPlain } from '@core/audio';
import type { Sound } from '@core/library';
import { licenceOf, nameOf } from '@core/library';
import Papa from 'papaparse';
import type { Cue, Scene } from './scene';

/** A line of the credit list: one sound that the scene uses. */
export interface CreditLine {
  soundId: number;
  sound: string;
  author: string;
  library: string;
  licence: string;
  /** How many cues use it. */
  uses: number;
  /** Sounds that were built of it, where it is used in those. */
  within?: readonly number[];
  /** Where the text of the licence stands, where that is known. */
  url?: string;
  /** Whether it is heard otherwise than its author made it. */
  changed: boolean;
  /** What has to be printed; empty when the licence asks for nothing. */
  credit: string;
  /** What speaks against using it; empty when nothing does. */
  conflict: string;
  /** Why it is used all the same; empty where nobody said so. */
  allowed: string;
  /** A page that its labels name as where it comes from. */
  page?: string;
}

/** Whether something speaks against a sound, and nobody said why it is used all the same. */
export const isInConflict = ({ conflict, allowed }: CreditLine): boolean => conflict !== '' && allowed === '';

/** A page that the labels of a sound name, such as the one that it comes from; that of its licence is none. */
function pageOf({ fields }: Sound): string | undefined {
  for (const key of ['page', 'sourceId', 'description', 'notes', 'userData'])
    for (const [found] of String(fields[key] ?? '').matchAll(/https?:\/\/[^\s"'<>()]+/gi)) {
      const address = found.replace(/[.,;:!?]+$/, '');
      if (URL.canParse(address) && !/^https?:\/\/creativecommons\.org\//i.test(address)) return address;
    }
  return undefined;
}

function authorOf(sound: Sound): string {
  const stated = /\bcredit:\s*([^.;\n]+)/i.exec(String(sound.fields.description ?? ''))?.[1].trim();
  return stated ?? (sound.fields.author as string | undefined) ?? (sound.fields.library as string);
}

/** What a mix is made for. */
export const jobs = ['commercial', 'unpaid', 'shared alike'] as const;
export type Job = (typeof jobs)[number];

/** What speaks against using a sound; empty when nothing does. A mix is made of what it uses, so it is a change of it. */
export function conflictOf(code: string | undefined, job: Job): string {
  if (!code) return 'No licence is stated';
  const { commercial, alike, unchanged } = licenceOf(code);
  if (unchanged) return 'Nothing may be made of it, and so no mix';
  if (job === 'commercial' && !commercial) return 'Not for commercial work';
  return alike && job !== 'shared alike' ? 'The mix would have to be shared alike' : '';
}

/** What has to be said of a sound that is used, and what speaks against using it. @param changed and @param allowed see `CreditLine` */
export function creditOf(
  sound: Sound,
  uses: number,
  job: Job = 'commercial',
  changed = false,
  allowed = '',
): CreditLine {
  const code = sound.fields.licence as string | undefined;
  const licence = licenceOf(code);
  const author = authorOf(sound);
  const name = nameOf(sound);
  return {
    soundId: sound.id,
    sound: name,
    author,
    library: sound.fields.library as string,
    licence: licence.code,
    url: licence.url,
    uses,
    changed,
    credit: code && licence.credit ? `“${name}” by ${author}, ${code}${changed ? ', changed' : ''}` : '',
    conflict: conflictOf(code, job),
    allowed,
    page: pageOf(sound),
  };
}

/**
 * The sounds that a sound was made of, down to those that were not made of any here; itself where it was not, or where one that it was made of is
 * not known any more.
 */
export function originsOf(sound: Sound, soundOf: (id: number) => Sound | undefined): Sound[] {
  const found = new Set<Sound>();
  const seen = new Set<number>();
  const visit = (of: Sound): void => {
    if (seen.has(of.id)) return;
    seen.add(of.id);
    const parents = (of.built?.of ?? []).map(soundOf);
    if (parents.length === 0 || parents.includes(undefined)) found.add(of);
    for (const parent of parents) if (parent) visit(parent);
  };
  visit(sound);
  return found.size > 0 ? [...found] : [sound];
}

/** Whether a cue plays a sound otherwise than whole and as it is. */
const isChanged = (cue: Cue, { format }: Sound): boolean =>
  cue.start > 0 || cue.end < format.frames || cue.fadeIn > 0 || cue.fadeOut > 0 || !isPlain(fullShape(cue.shape));

/**
 * The licences and credits of all sounds that cues use, in order of first use, and of those that effects are made of; of sounds that were built here,
 * those of what they were made of.
 * @param allowed see `Scene`; @param answering ids of what effects are made of
 */
export function credits(
  cues: readonly Cue[],
  soundOf: (id: number) => Sound | undefined,
  job: Job = 'commercial',
  allowed: Scene['allowed'] = [],
  answering: readonly number[] = [],
): CreditLine[] {
  const notes = new Map(allowed.map((a) => [a.soundId, a.note]));
  const lines = new Map<number, { sound: Sound; uses: number; changed: boolean; within: number[] }>();
  const uses = new Map<number, Cue[]>();
  for (const cue of [...cues].sort((a, b) => a.at - b.at))
    uses.set(cue.soundId, [...(uses.get(cue.soundId) ?? []), cue]);
  for (const id of answering) if (!uses.has(id)) uses.set(id, []);
  for (const [id, own] of uses) {
    const sound = soundOf(id);
    if (!sound) continue;
    const changed = answering.includes(id) || own.some((c) => isChanged(c, sound));
    for (const origin of originsOf(sound, soundOf)) {
      const known = lines.get(origin.id) ?? { sound: origin, uses: 0, changed: false, within: [] };
      known.uses += own.length;
      // What is in a sound that was made of it is not as its author made it.
      known.changed ||= changed || origin !== sound;
      if (origin !== sound) known.within.push(id);
      lines.set(origin.id, known);
    }
  }
  return [...lines.values()].map(({ sound, uses, changed, within }) => ({
    ...creditOf(sound, uses, job, changed, notes.get(sound.id)),
    ...(within.length > 0 ? { within } : {}),
  }));
}

/** Lines that have to be printed, by author and licence, as they come first. */
export function creditGroups(lines: readonly CreditLine[]): CreditLine[][] {
  const groups = new Map<string, CreditLine[]>();
  for (const line of lines) {
    if (!line.credit) continue;
    const key = JSON.stringify([line.author, line.licence]);
    groups.set(key, [...(groups.get(key) ?? []), line]);
  }
  return [...groups.values()];
}

/** What Markdown would take for more than text. */
const literal = (text: string): string => text.replace(/[\\`*_{}[\]<>()#+!|~-]/g, '\\$&').replace(/\s+/g, ' ');

/** The credits as a list in Markdown (CommonMark), for the page of a work. */
export function creditsMarkdown(lines: readonly CreditLine[]): string {
  return creditGroups(lines)
    .flat()
    .map(({ sound, author, licence, url, changed }) => {
      const under = url ? `[${literal(licence)}](${url})` : literal(licence);
      return `- “${literal(sound)}” by ${literal(author)}, ${under}${changed ? ', changed' : ''}\n`;
    })
    .join('');
}

/** The credits as they crawl at the end of a film: plain text, by author, each with the licence under its sounds. */
export function creditsCrawl(lines: readonly CreditLine[]): string {
  const plain = (text: string) => text.replace(/\s+/g, ' ');
  const groups = creditGroups(lines).map((group) => {
    const [{ author, licence, url }] = group;
    const sounds = group.map(({ sound, changed }) => `“${plain(sound)}”${changed ? ', changed' : ''}`);
    const under = url ? `${licence}, ${url.replace(/^https:\/\/|\/$/g, '')}` : licence;
    return [plain(author), ...sounds, plain(under)].join('\n');
  });
  return groups.length === 0 ? '' : `Sounds\n\n${groups.join('\n\n')}\n`;
}

/** The credit list as CSV (RFC 4180); cells that a spreadsheet would run as formulas are written so that it does not. */
export function creditsCsv(lines: readonly CreditLine[]): string {
  const data = lines.map((l) => [
    l.sound,
    l.author,
    l.library,
    l.licence,
    l.uses,
    l.credit,
    [l.conflict, l.conflict && l.allowed && `allowed: ${l.allowed}`].filter(Boolean).join('; '),
  ]);
  return Papa.unparse(
    { fields: ['Sound', 'Author', 'Library', 'Licence', 'Uses', 'Credit', 'Conflict'], data },
    { escapeFormulae: true, newline: '\r\n' },
  );
}
