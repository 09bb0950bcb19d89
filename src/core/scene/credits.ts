import type { Sound } from '@core/library';
import { licenceOf, nameOf } from '@core/library';
import Papa from 'papaparse';
import type { Cue } from './scene';

/** A line of the credit list: one sound that the scene uses. */
export interface CreditLine {
  sound: string;
  author: string;
  library: string;
  licence: string;
  /** How many cues use it. */
  uses: number;
  /** What has to be printed; empty when the licence asks for nothing. */
  credit: string;
  /** What speaks against using it; empty when nothing does. */
  conflict: string;
}

function authorOf(sound: Sound): string {
  const stated = /\bcredit:\s*([^.;\n]+)/i.exec(String(sound.fields.description ?? ''))?.[1].trim();
  return stated ?? (sound.fields.author as string | undefined) ?? (sound.fields.library as string);
}

/** What has to be said of a sound that is used, and what speaks against using it. */
export function creditOf(sound: Sound, uses: number): CreditLine {
  const code = sound.fields.licence as string | undefined;
  const licence = licenceOf(code);
  const author = authorOf(sound);
  const name = nameOf(sound);
  return {
    sound: name,
    author,
    library: sound.fields.library as string,
    licence: licence.code,
    uses,
    credit: code && licence.credit ? `“${name}” by ${author}, ${code}` : '',
    conflict: !code ? 'No licence is stated' : licence.commercial ? '' : 'Not for commercial work',
  };
}

/** The licences and credits of all sounds that cues use, in order of first use. */
export function credits(cues: readonly Cue[], soundOf: (id: number) => Sound | undefined): CreditLine[] {
  const uses = new Map<number, number>();
  for (const cue of [...cues].sort((a, b) => a.at - b.at)) uses.set(cue.soundId, (uses.get(cue.soundId) ?? 0) + 1);
  return [...uses].flatMap(([id, count]) => {
    const sound = soundOf(id);
    return sound ? [creditOf(sound, count)] : [];
  });
}

/** The credit list as CSV (RFC 4180); cells that a spreadsheet would run as formulas are written so that it does not. */
export function creditsCsv(lines: readonly CreditLine[]): string {
  const data = lines.map((l) => [l.sound, l.author, l.library, l.licence, l.uses, l.credit, l.conflict]);
  return Papa.unparse(
    { fields: ['Sound', 'Author', 'Library', 'Licence', 'Uses', 'Credit', 'Conflict'], data },
    { escapeFormulae: true, newline: '\r\n' },
  );
}
