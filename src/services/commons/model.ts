import { anything, type OpenAsk } from '@core/elsewhere';
import { fold, searchWords, stem } from '@core/naming';
import type { OpenPage, OpenSound } from '@core/schemas';
import { readLikeCode } from '@core/search';

/** Sounds of a page, where nobody asks for another number, and at the most. */
const [USUAL, MOST] = [20, 50];

/** The words of a sound, and how much one of each counts. */
interface Indexed {
  sound: OpenSound;
  words: Map<string, number>;
  /** Those of its author's name. */
  by: Map<string, number>;
  vector?: Int8Array;
}

function indexed(sound: OpenSound): Indexed {
  const words = new Map<string, number>();
  const put = (text: string, weight: number) => {
    for (const word of searchWords(fold(text))) words.set(word, Math.max(weight, words.get(word) ?? 0));
  };
  put(sound.description, 1);
  put(sound.author, 1);
  put(sound.tags.join(' '), 3);
  put(sound.title, 4);
  const by = new Map([...searchWords(fold(sound.author))].map((word) => [word, 1]));
  return { sound, words, by, vector: readLikeCode(sound.like)?.vector };
}

/** How well a word is met, or the best of several with `|` between them: by itself, another form of it, or as a beginning; 0 where it is not. */
const met = (words: ReadonlyMap<string, number>, asked: string): number =>
  Math.max(...asked.split('|').map((one) => metOne(words, one)));

function metOne(words: ReadonlyMap<string, number>, asked: string): number {
  const begun = asked.endsWith('*');
  const word = fold(begun ? asked.slice(0, -1) : asked);
  if (word === '') return 0;
  let best = words.get(word) ?? 0;
  for (const [own, weight] of words) {
    if (begun ? own.startsWith(word) : stem(own) === stem(word)) best = Math.max(best, weight * 0.8);
  }
  return best;
}

const apart = (a: Int8Array, b: Int8Array): number => a.reduce((sum, v, i) => sum + (v - b[i]) ** 2, 0);

const counted = (values: string[]): Record<string, number> => {
  const counts: Record<string, number> = {};
  for (const v of values) counts[v] = (counts[v] ?? 0) + 1;
  return counts;
};

/** The sounds of a commons, and what is found among them. Knows nothing of how it is asked. */
export class Commons {
  private readonly all: Indexed[];

  constructor(sounds: readonly OpenSound[]) {
    this.all = sounds.map(indexed);
  }

  get size(): number {
    return this.all.length;
  }

  /** All licences that its sounds have. */
  get licences(): string[] {
    return [...new Set(this.all.map((one) => one.sound.licence))].sort();
  }

  /** What an ask finds. @param page from 1 on; @param size sounds of a page */
  find(given: Partial<OpenAsk>, page = 1, size = USUAL): OpenPage {
    const ask = { ...anything, ...given };
    const like = ask.like === undefined ? undefined : readLikeCode(ask.like)?.vector;
    const fits = this.all.flatMap((one) => {
      const { sound, words, by, vector } = one;
      if (ask.by.some((w) => met(by, w) === 0)) return [];
      if (ask.without.some((w) => met(words, w) > 0)) return [];
      if (sound.seconds < (ask.shortest ?? 0) || sound.seconds > (ask.longest ?? Infinity)) return [];
      const marks = ask.words.map((w) => met(words, w));
      const found = marks.filter((m) => m > 0).length;
      if (found < (ask.any ? Math.min(1, marks.length) : marks.length)) return [];
      if (like && !vector) return [];
      const fit = like ? -apart(like, vector!) : 100 * found + marks.reduce((sum, m) => sum + m, 0);
      return [{ sound, fit }];
    });
    // What is counted is what one would find by choosing another licence or author.
    const has = (list: string[], value: string) => list.length === 0 || list.includes(value);
    const licences = counted(fits.filter((f) => has(ask.authors, f.sound.author)).map((f) => f.sound.licence));
    const authors = counted(fits.filter((f) => has(ask.licences, f.sound.licence)).map((f) => f.sound.author));
    const found = fits.filter(({ sound }) => has(ask.licences, sound.licence) && has(ask.authors, sound.author));
    const order: Record<OpenAsk['order'], (a: (typeof found)[0], b: (typeof found)[0]) => number> = {
      fit: (a, b) => b.fit - a.fit,
      newest: () => 0,
      longest: (a, b) => b.sound.seconds - a.sound.seconds,
      shortest: (a, b) => a.sound.seconds - b.sound.seconds,
    };
    // Of those that are alike in this, the newest first.
    const newest = (a: (typeof found)[0], b: (typeof found)[0]) =>
      b.sound.shared.localeCompare(a.sound.shared) || a.sound.id.localeCompare(b.sound.id);
    found.sort((a, b) => order[ask.order](a, b) || newest(a, b));
    const each = Math.max(1, Math.min(MOST, Math.floor(size)));
    const from = (page - 1) * each;
    return {
      ...{ total: found.length, page, pages: Math.ceil(found.length / each), licences, authors },
      sounds: found.slice(from, from + each).map((f) => f.sound),
    };
  }
}
