// Finding's lines of the benchmarks: the index of the core under V8, as the catalogue's worker runs it, beside MiniSearch.
import {
  LIKENESS_SIZE,
  loosened,
  plainWords,
  parseQuery,
  SoundIndex,
  type IndexedSound,
  type Request,
} from '@core/search';
import { allSteps } from '@core/search/argsort';
import { nearWords, shipped } from '@core/suggest';
import { Random } from '@core/synth';
import { searchLexicon } from '@platform/finding/lexicon';
import MiniSearch from 'minisearch';
import sqlite from 'node-sqlite3-wasm';

type Line = (what: string, measured: string, reach: string) => void;

const MANY = Number(process.env.BENCH_MANY ?? 1_000_000);
const random = new Random(3);
const words = [
  ...new Set(
    shipped.flatMap((c) =>
      c.synonyms
        .join(' ')
        .toLowerCase()
        .split(/[^a-z]+/),
    ),
  ),
].filter((w) => w.length > 2);
const below = (n: number) => Math.floor(random.next() * n);
/** Few words are frequent and most are rare, as in any library. */
const word = () => words[Math.floor(random.next() ** 2 * words.length)];

export function sound(i: number): IndexedSound {
  const c = shipped[below(shipped.length)];
  return {
    id: i + 2,
    fields: {
      fxName: `${word()} ${word()} ${word()} ${i % 97}`,
      description: `${word()} ${word()} near the ${word()}, ${word()} take ${i % 9}`,
      catId: c.catId,
      category: c.category,
      subCategory: c.subCategory,
      keywords: [word(), word()],
      library: `Library ${i % 40}`,
      licence: ['CC0 1.0', 'CC BY 4.0', 'Owned'][i % 3],
      kind: ['Hit', 'Loop', 'Ambience'][i % 3],
      layout: ['Mono', 'Stereo'][i % 2],
      length: random.next() * 30,
      loudness: -40 * random.next(),
      file: `${c.catId}_${word()} ${word()} ${i % 5000}_TWA.wav`,
      folder: `${c.category}/${c.subCategory}`,
      added: 1.7e12 + i * 1000,
    },
  };
}

const time = (work: () => unknown) => {
  const from = performance.now();
  work();
  return performance.now() - from;
};
const middle = (values: number[], at = 0.5) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * at))];
const again = (work: () => unknown, times = 5) => middle(Array.from({ length: times }, () => time(work)));
const ms = (n: number) => `${n < 10 ? n.toFixed(1) : Math.round(n)} ms`;
const held = async () => {
  // What was let go of before is given back bit by bit.
  for (let i = 0; i < 4; i++) {
    (globalThis as { gc?: () => void }).gc?.();
    await new Promise((done) => setTimeout(done, 50));
  }
  const { heapUsed, arrayBuffers } = process.memoryUsage();
  return (heapUsed + arrayBuffers) / 1e6;
};
const asked = (text: string, more: Partial<Request> = {}): Request => {
  const { query } = parseQuery(text);
  return { query: loosened(query), words: plainWords(query, text), ...more };
};
const typed = [
  'metal creak',
  'wooden door slam',
  'wind',
  'rain on roof',
  'boat engine idle',
  'footsteps gravel',
].flatMap((q) => Array.from({ length: q.length }, (_, i) => q.slice(0, i + 1)));

/** What the peers index of each sound. */
const peerKeys = [
  ...['fxName', 'description', 'catId', 'category', 'subCategory'],
  ...['keywords', 'library', 'kind', 'file', 'folder'],
];

/** What the lexicon of meaning takes in memory, beside any index. */
async function lexiconMemory(line: Line): Promise<void> {
  const before = await held();
  const { of } = searchLexicon();
  for (const word of ['door', 'rain', 'metal']) of(word);
  line('Memory of the lexicon of meaning', `${((await held()) - before).toFixed(1)} MB`, 'printed');
}

async function beside(line: Line): Promise<void> {
  // Texts put together from parts are packed when they are first read: done before, so that it is not taken for the index's.
  const sounds = JSON.parse(JSON.stringify(Array.from({ length: 100_000 }, (_, i) => sound(i)))) as IndexedSound[];
  const empty = await held();
  const build = () => {
    const index = new SoundIndex(undefined, searchLexicon());
    index.setAlike(nearWords);
    const took = time(() => {
      for (let from = 0; from < sounds.length; from += 20_000) index.put(sounds.slice(from, from + 20_000));
    });
    return { index, took };
  };
  const { index, took } = build();
  const own = (await held()) - empty;
  const mini = new MiniSearch({
    fields: peerKeys,
    searchOptions: { prefix: (_t, i, terms) => i === terms.length - 1, combineWith: 'AND' },
  });
  const documents = sounds.map(({ id, fields }) => ({
    id,
    ...fields,
    keywords: (fields.keywords as string[]).join(' '),
  }));
  const before = await held();
  const theirs = time(() => mini.addAll(documents));
  const peer = (await held()) - before;
  // The machine is uneven, and ours is the shorter run.
  const built = middle([took, build().took, build().took]);
  line(
    'Index of 100,000 sounds, against MiniSearch',
    `${(theirs / built).toFixed(1)} times as fast (${ms(built)} to ${ms(theirs)})`,
    '3 times',
  );
  line(
    'Memory of that index, with all columns, against MiniSearch without',
    `${(own / peer).toFixed(2)} of it (${Math.round(own)} MB to ${Math.round(peer)} MB)`,
    'a quarter',
  );
  const mine = typed.map((text) => time(() => index.find(asked(text)).first(300)));
  const others = typed.map((text) => time(() => mini.search(text)));
  line(
    'A keystroke at 100,000 sounds, p95, against MiniSearch',
    `${(middle(others, 0.95) / middle(mine, 0.95)).toFixed(1)} times as fast (${ms(middle(mine, 0.95))} to ${ms(middle(others, 0.95))})`,
    '10 times',
  );
  besideSqlite(line, sounds, index);
}

/** The same keystrokes beside SQLite's full-text search, compiled to WebAssembly as ours is not. */
function besideSqlite(line: Line, sounds: readonly IndexedSound[], index: SoundIndex): void {
  const database = new sqlite.Database(':memory:');
  database.exec(`create virtual table sounds using fts5(${peerKeys.join(', ')}, prefix='1 2 3')`);
  const insert = database.prepare(
    `insert into sounds(rowid, ${peerKeys.join(', ')}) values (?${', ?'.repeat(peerKeys.length)})`,
  );
  database.exec('begin');
  for (const { id, fields } of sounds) insert.run([id, ...peerKeys.map((k) => String(fields[k]))]);
  database.exec('commit');
  insert.finalize();
  const ask = database.prepare('select rowid from sounds where sounds match ? order by rank limit 300');
  const words = typed.map((text) => `${text.trim().split(' ').join(' ')}*`);
  const theirs = words.map((text) => time(() => ask.all([text])));
  const mine = typed.map((text) => time(() => index.find(asked(text)).first(300)));
  line(
    'A keystroke at 100,000 sounds to the first 300 rows, against SQLite FTS5 in WASM with prefix indexes',
    `p50 ${(middle(theirs) / middle(mine)).toFixed(1)}, p95 ${(middle(theirs, 0.95) / middle(mine, 0.95)).toFixed(1)} times as fast (p95 ${ms(middle(mine, 0.95))} to ${ms(middle(theirs, 0.95))})`,
    '3 times',
  );
  ask.finalize();
  database.close();
}

async function many(line: Line): Promise<void> {
  const empty = await held();
  const index = new SoundIndex(undefined, searchLexicon());
  index.setAlike(nearWords);
  let built = 0;
  for (let from = 0; from < MANY; from += 20_000) {
    const part = Array.from({ length: 20_000 }, (_, i) => sound(from + i));
    built += time(() => index.put(part));
  }
  line(
    `Index of ${MANY.toLocaleString('en')} sounds, built from rows`,
    `${(built / 1000).toFixed(1)} s, ${Math.round((await held()) - empty)} MB`,
    '',
  );
  let steps: number[] = [];
  for (const prepared = index.prepare(); ;) {
    let done = false;
    steps.push(time(() => (done = prepared.next().done === true)));
    if (done) break;
  }
  line(
    'Order of its texts, worked out while nobody asks',
    `${(steps.reduce((a, b) => a + b) / 1000).toFixed(1)} s in steps of at most ${ms(Math.max(...steps))}`,
    '',
  );
  steps = typed.map((text) => time(() => index.find(asked(text)).first(300)));
  line(
    'A keystroke there, to the first 300 rows',
    `p50 ${ms(middle(steps))}, p95 ${ms(middle(steps, 0.95))}`,
    '10 ms p95',
  );
  const all = index.find(asked(''));
  const keys = ['catId', 'category', 'subCategory', 'library', 'licence', 'kind', 'layout', 'folder'];
  line('Facets of 8 fields over all of them', ms(again(() => keys.forEach((key) => all.facet(key, 60)))), '50 ms');
  for (const [key, name] of [
    ['fxName', 'name'],
    ['loudness', 'loudness'],
    ['library', 'library'],
  ]) {
    const sorted = (down: boolean) => time(() => index.find(asked('', { sort: { key, down } })).rows());
    // Either way is an order of its own: two that nobody asked for yet, and one that is kept.
    line(
      `All of them sorted by ${name}, and again while nothing of it changes`,
      `${ms((sorted(false) + sorted(true)) / 2)}, ${ms(sorted(true))}`,
      '150 ms',
    );
  }
  line('A facet with as many values as there are file names', ms(again(() => all.facet('file', 60), 3)), '');
  line('A part of a word, in file names', ms(again(() => index.find(asked('file:~47')).first(300))), '60 ms');
  // Sounds come in families: each vector lies about one of a thousand middles.
  const middles = Array.from({ length: 1000 }, () => Array.from({ length: LIKENESS_SIZE }, () => below(120) - 60));
  for (let i = 0; i < MANY; i++)
    index.setVector(
      i + 2,
      Int8Array.from(middles[i % 1000], (v) => v + below(24) - 12),
    );
  const vector = index.vectorOf(2)!;
  line('The nearest 50 by ear', ms(again(() => index.nearest(vector, asked(''), 50), 3)), '60 ms');
  const edits = Array.from({ length: 1000 }, (_, i) => sound(i * 7));
  line(
    '1,000 edited sounds, until a search finds them',
    ms(again(() => (index.put(edits), index.find(asked('metal')).first(300)), 3)),
    '100 ms',
  );
  const pieces = allSteps(index.save({}));
  const file = new Uint8Array(pieces.reduce((sum, p) => sum + p.length, 0));
  let at = 0;
  for (const piece of pieces) {
    file.set(piece, at);
    at += piece.length;
  }
  const opened = new SoundIndex(undefined, searchLexicon());
  const took = time(() => (opened.load(file.buffer), opened.find(asked('metal creak')).first(300)));
  line(
    'Its snapshot opened, to the first answer',
    `${(took / 1000).toFixed(1)} s, ${Math.round(file.length / 1e6)} MB`,
    '3 s',
  );
}

export async function finding(line: Line): Promise<void> {
  await lexiconMemory(line);
  await beside(line);
  await many(line);
}
