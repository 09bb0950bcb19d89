/** One part of a name pattern. */
type Part = { kind: 'text'; text: string } | { kind: 'field'; key: string } | { kind: 'group'; parts: Part[] };

/** A pattern that cannot be used, and where it goes wrong. */
export class PatternFault extends Error {
  /** @param at characters from the start of the pattern */
  constructor(
    message: string,
    readonly at: number,
  ) {
    super(message);
  }
}

/** The file name of the Universal Category System, version 8. */
export const UCS_PATTERN = '{catId}[-{userCategory}]_[{vendorCategory}-]{fxName}_{creatorId}_{sourceId}[_{userData}]';

/** Characters that a common file system refuses, and names that Windows keeps for devices. */
const illegal = /[<>:"/\\|?*\u0000-\u001f\u007f]/;
const device = /^(con|prn|aux|nul|com\d|lpt\d)(\.|$)/i;
/** What ext4, APFS and NTFS hold; the first two count bytes, the last characters. */
const LONGEST = 255;

/**
 * A name made of fields: `{field}` stands for a value, `[…]` for a part that is left out when none of its fields has one;
 * all else is as written. Composing and parsing are each other's inverse for values that hold no border of the pattern.
 */
export class NamePattern {
  private readonly parts: Part[];
  /** Keys of the fields, as they stand. */
  readonly keys: string[] = [];
  private readonly matcher: RegExp;

  /** @throws PatternFault for brackets that do not close, fields that touch or stand twice */
  constructor(readonly source: string) {
    let at = 0;
    const read = (inGroup: boolean): Part[] => {
      const parts: Part[] = [];
      const opened = at - 1;
      while (at < source.length) {
        const c = source[at];
        if (c === ']') {
          if (!inGroup) throw new PatternFault('This bracket closes nothing.', at);
          at++;
          return parts;
        }
        if (c === '[') {
          if (inGroup) throw new PatternFault('A part that may be left out cannot hold another.', at);
          at++;
          parts.push({ kind: 'group', parts: read(true) });
        } else if (c === '{') {
          const end = source.indexOf('}', at);
          if (end < 0) throw new PatternFault('This brace is not closed.', at);
          const key = source.slice(at + 1, end).trim();
          if (!/^[\w@-]+$/.test(key)) throw new PatternFault(`“${key}” names no field.`, at);
          if (this.keys.includes(key)) throw new PatternFault(`{${key}} stands twice.`, at);
          if (/\}[[\]]*$/.test(source.slice(0, at)))
            throw new PatternFault('Two fields need something between them.', at);
          this.keys.push(key);
          parts.push({ kind: 'field', key });
          at = end + 1;
        } else {
          const text = /^[^[\]{}]+/.exec(source.slice(at))?.[0];
          if (!text) throw new PatternFault('This brace opens nothing.', at);
          parts.push({ kind: 'text', text });
          at += text.length;
        }
      }
      if (inGroup) throw new PatternFault('This bracket is not closed.', opened);
      return parts;
    };
    this.parts = read(false);
    if (this.keys.length === 0) throw new PatternFault('The pattern names no field; write one as {fxName}.', 0);
    this.matcher = new RegExp(`^${this.expression(this.parts)}$`, 'us');
  }

  private expression(parts: Part[]): string {
    const quote = (text: string) => text.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&');
    return parts
      .map((part) => {
        if (part.kind === 'text') return quote(part.text);
        if (part.kind === 'group') return `(?:${this.expression(part.parts)})?`;
        const stops = this.bordersOf(part.key);
        return stops.length > 0 ? `((?:(?!${stops.map(quote).join('|')}).)*)` : '(.*)';
      })
      .join('');
  }

  /** The texts at which a field ends: those behind it, up to the first that must be there. */
  private bordersOf(key: string): string[] {
    const stops: string[] = [];
    let behind = false;
    const walk = (parts: Part[], inside: boolean): boolean => {
      for (const part of parts) {
        if (part.kind === 'field') {
          if (behind && !inside) return true;
          if (part.key === key) behind = true;
          else if (behind) return false;
        } else if (part.kind === 'text' && behind) {
          stops.push(part.text);
          if (!inside) return true;
          return false;
        } else if (part.kind === 'group' && walk(part.parts, true)) return true;
      }
      return false;
    };
    walk(this.parts, false);
    return stops;
  }

  /** Makes a name. @param value of a field as text; empty or undefined when it has none */
  compose(value: (key: string) => string | undefined): string {
    const make = (parts: Part[]): string =>
      parts
        .map((part) => {
          if (part.kind === 'text') return part.text;
          if (part.kind === 'field') return value(part.key) ?? '';
          const filled = part.parts.some((p) => p.kind === 'field' && value(p.key));
          return filled ? make(part.parts) : '';
        })
        .join('');
    const name = make(this.parts);
    // A name does not end in borders of fields that nothing is known of.
    const last = this.parts[this.parts.length - 1];
    return last.kind === 'text' ? name : name.replace(/[_\s-]+$/, '');
  }

  /**
   * Reads a name back into fields; a value that is empty is left out.
   * @returns undefined when the name does not follow the pattern
   */
  parse(name: string): Record<string, string> | undefined {
    let found = this.matcher.exec(name);
    // Composing leaves borders off at the end; they are put back one by one.
    const tail = this.parts.flatMap((p) => (p.kind === 'text' ? [p.text] : []));
    for (let i = tail.length - 1; !found && i >= 0 && this.parts[this.parts.length - 1].kind !== 'text'; i--) {
      const left = tail.slice(i).join('');
      if (/^[_\s-]+$/.test(left)) found = this.matcher.exec(name + left);
    }
    if (!found) return undefined;
    const values: Record<string, string> = {};
    this.keys.forEach((key, i) => {
      if (found[i + 1]) values[key] = found[i + 1];
    });
    return values;
  }
}

/** What is wrong with a file name, in words; empty when nothing is. @param name with its ending */
export function nameFaults(name: string): string[] {
  const faults: string[] = [];
  const bad = illegal.exec(name)?.[0];
  if (bad) {
    const shown = bad < ' ' || bad === '\u007f' ? `character ${bad.charCodeAt(0)}` : `“${bad}”`;
    faults.push(`${shown} is not allowed in file names`);
  }
  if (device.test(name)) faults.push('Windows keeps this name for a device');
  if (/^[\s.]|[\s.]$/.test(name)) faults.push('a name may not begin or end with a space or a full stop');
  const bytes = new TextEncoder().encode(name).length;
  if (bytes > LONGEST) faults.push(`${bytes} bytes are too long; 255 are allowed`);
  if (!name.replace(/\.[^.]*$/, '')) faults.push('the name is empty');
  return faults;
}
