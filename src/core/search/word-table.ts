import { searchWords, splitName } from '@core/naming';

const [LOWER, UPPER, DIGIT] = [1, 2, 3];
/** What each ASCII sign is in a word; 0 for what parts words. */
const kinds = Uint8Array.from({ length: 128 }, (_, code) => {
  const sign = String.fromCharCode(code);
  return /[a-z]/.test(sign) ? LOWER : /[A-Z]/.test(sign) ? UPPER : /\d/.test(sign) ? DIGIT : 0;
});
const [SEED, PRIME] = [0x811c9dc5 | 0, 0x01000193];

/** FNV-1a of a text (Fowler, Noll, Vo), its upper half folded into the lower for tables of any size. */
export function hashOf(text: string): number {
  let hash = SEED;
  for (let i = 0; i < text.length; i++) hash = Math.imul(hash ^ text.charCodeAt(i), PRIME);
  return placeOf(hash);
}
const placeOf = (hash: number) => hash ^ (hash >>> 15);

/**
 * Numbers words in the order of their first appearance. Texts are cut up as `searchWords` does it, but plain ASCII, which
 * is nearly all, without a string being made for a word that is known already: an index has millions of those.
 *
 * Open addressing over FNV-1a hashes (Fowler, Noll, Vo).
 */
export class WordTable {
  readonly words: string[] = [];
  /** The words of the text that was cut up last. */
  found = new Uint32Array(256);
  /** Numbers of words plus one, by hash; 0 where nothing is. */
  private places = new Uint32Array(4096);

  /** The number of a folded word. */
  number(word: string): number {
    return this.at(word, 0, word.length, hashOf(word), false);
  }

  /** Cuts a text up. @returns how many of {@link found} are its words; of one that stands twice there are more */
  cut(text: string): number {
    const end = text.length;
    let count = 0;
    if (this.found.length < end * 2) this.found = new Uint32Array(end * 4);
    for (let at = 0; at < end; at++) {
      const from = at;
      let hash = SEED;
      let before = 0;
      let mixed = false;
      for (; at < end; at++) {
        const code = text.charCodeAt(at);
        if (code > 127) {
          const words = searchWords(text);
          words.forEach((word, i) => (this.found[i] = this.number(word)));
          return words.length;
        }
        const kind = kinds[code];
        if (kind === 0) break;
        if (before !== 0 && kind !== before && !(before === UPPER && kind === LOWER && at === from + 1)) mixed = true;
        before = kind;
        hash = Math.imul(hash ^ (kind === UPPER ? code | 32 : code), PRIME);
      }
      if (at === from) continue;
      this.found[count++] = this.at(text, from, at, placeOf(hash), true);
      if (mixed)
        for (const piece of splitName(text.slice(from, at))) this.found[count++] = this.number(piece.toLowerCase());
    }
    return count;
  }

  private at(text: string, from: number, to: number, hash: number, ascii: boolean): number {
    const mask = this.places.length - 1;
    for (let place = hash & mask; ; place = (place + 1) & mask) {
      const found = this.places[place];
      if (found === 0) {
        const word = text.slice(from, to);
        this.places[place] = this.words.push(ascii ? word.toLowerCase() : word);
        if (this.words.length * 2 > mask) this.grow();
        return this.words.length - 1;
      }
      if (same(this.words[found - 1], text, from, to, ascii)) return found - 1;
    }
  }

  private grow(): void {
    const { words } = this;
    this.places = new Uint32Array(this.places.length * 2);
    const mask = this.places.length - 1;
    words.forEach((word, n) => {
      let place = hashOf(word) & mask;
      while (this.places[place] !== 0) place = (place + 1) & mask;
      this.places[place] = n + 1;
    });
  }
}

/** Whether a word stands in a text from one place to another. @param ascii whether capitals stand for small letters */
function same(word: string, text: string, from: number, to: number, ascii: boolean): boolean {
  if (word.length !== to - from) return false;
  for (let i = 0; i < word.length; i++) {
    const code = text.charCodeAt(from + i);
    if (word.charCodeAt(i) !== (ascii && code >= 65 && code <= 90 ? code | 32 : code)) return false;
  }
  return true;
}
