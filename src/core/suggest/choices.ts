/** Terms of one sound's name, and by which others are takes of it. */
export interface Named {
  /** Telling terms of the name, each once. */
  terms: readonly string[];
  /** Name and folder without numbers: the same for all takes. */
  group: string;
}

interface Count {
  of: Map<number, number>;
  total: number;
  /** Rows that people chose, and not only files or guesses that were let pass. */
  chosen: Set<number>;
}

/** A row with what speaks for it, and whether somebody chose it. */
export interface Chosen {
  row: number;
  weight: number;
  chosen: boolean;
}

/** What a choice for the very same name is worth, and at most what one for a term. */
const [SAME_NAME, TERM] = [6, 2.4];
/** Terms in more than this share of a library tell nothing. */
const EVERYWHERE = 0.3;
/** Fewer names than this are no library. */
const LIBRARY = 20;

const shareOf = (count: Count, row: number, doubt: number) => (count.of.get(row) ?? 0) / (count.total + doubt);

/**
 * What people chose for sounds of one library. A choice is strong ground for other takes of the sound, and weak ground for what is
 * particular to it: each of its words by how well it tells sounds of this library apart (inverse document frequency, Sparck Jones
 * 1972), and by how often it went along with one category and no other.
 */
export class Choices {
  private readonly terms = new Map<string, Count>();
  private readonly groups = new Map<string, Count>();
  /** By row and group, the terms that were learnt with it. */
  private readonly taught = new Map<string, readonly string[]>();
  private readonly often = new Map<string, number>();
  private names = 0;

  /** Takes in a name of the library, chosen for or not. */
  survey({ terms }: Named): void {
    this.names++;
    for (const term of terms) this.often.set(term, (this.often.get(term) ?? 0) + 1);
  }

  /**
   * Takes in a choice of a category, or takes it back with a negative count.
   * @param row of the category
   * @param chosen false for what files said, and for guesses that were accepted
   */
  learn({ terms, group }: Named, row: number, count: number, chosen: boolean): void {
    const add = (map: Map<string, Count>, key: string) => {
      const own = map.get(key) ?? { of: new Map<number, number>(), total: 0, chosen: new Set<number>() };
      map.set(key, own);
      own.of.set(row, Math.max(0, (own.of.get(row) ?? 0) + count));
      own.total = Math.max(0, own.total + count);
      if (chosen && count > 0) own.chosen.add(row);
    };
    const before = this.groups.get(group)?.of.get(row) ?? 0;
    add(this.groups, group);
    // Takes of one sound are one choice of its words, however many there are.
    const key = `${row} ${group}`;
    const own = this.taught.get(key) ?? terms;
    const after = before + count;
    if (before > 0 === after > 0) {
      if (chosen && count > 0) for (const term of own) this.terms.get(term)?.chosen.add(row);
      return;
    }
    if (after > 0) this.taught.set(key, terms);
    else this.taught.delete(key);
    count = Math.sign(count);
    for (const term of own) add(this.terms, term);
  }

  forget(): void {
    this.terms.clear();
    this.groups.clear();
    this.taught.clear();
    this.often.clear();
    this.names = 0;
  }

  /** How well a term tells sounds of the library apart, 0 to 1. */
  telling(term: string): number {
    if (this.names < LIBRARY) return 1;
    const share = (this.often.get(term) ?? 1) / this.names;
    return share >= EVERYWHERE ? 0 : Math.min(1, Math.log(share) / Math.log(1 / this.names) + 0.25);
  }

  /** Rows that were chosen for sounds with a term, with what that weighs. */
  forTerm(term: string): Chosen[] {
    const count = this.terms.get(term);
    const telling = count ? this.telling(term) : 0;
    if (!count || telling === 0) return [];
    return [...count.of].flatMap(([row, n]) =>
      n > 0
        ? [
            {
              row,
              weight: TERM * telling * shareOf(count, row, 1) ** 2 * (1 + Math.log2(1 + n) / 2),
              chosen: count.chosen.has(row),
            },
          ]
        : [],
    );
  }

  /** Rows that were chosen for takes of the same sound. */
  forGroup(group: string): Chosen[] {
    const count = this.groups.get(group);
    if (!count) return [];
    return [...count.of].flatMap(([row, n]) =>
      n > 0 ? [{ row, weight: SAME_NAME * shareOf(count, row, 0.2), chosen: count.chosen.has(row) }] : [],
    );
  }
}
