import { fold } from './words';

/** What short names are of. */
export const shortNameKinds = ['creator', 'publisher', 'library'] as const;
export type ShortNameKind = (typeof shortNameKinds)[number];

/** A full name and its abbreviation. */
export interface ShortName {
  id: number;
  kind: ShortNameKind;
  name: string;
  short: string;
}

/** A table of short names, looked up both ways without regard to case. */
export class ShortNames {
  private readonly shorts = new Map<string, string>();
  private readonly names = new Map<string, string>();

  constructor(rows: readonly Pick<ShortName, 'name' | 'short'>[]) {
    for (const { name, short } of rows) {
      if (!this.shorts.has(fold(name))) this.shorts.set(fold(name), short);
      if (!this.names.has(fold(short))) this.names.set(fold(short), name);
    }
  }

  /** The abbreviation of a name; undefined when the table does not have it. */
  shorten(name: string): string | undefined {
    return this.shorts.get(fold(name.trim()));
  }

  /** The name behind an abbreviation. */
  expand(short: string): string | undefined {
    return this.names.get(fold(short.trim()));
  }
}
