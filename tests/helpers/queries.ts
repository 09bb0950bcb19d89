import { Random } from '@core/synth';

/** A made-up sound: its path as one recordist would name it, and what it is a sound of. */
export interface Recorded {
  path: string;
  of: string;
}

/** What somebody types, and what would please them. */
export interface Wanted {
  query: string;
  of: string;
}

/** Reads lines `of | subjects | doings | places | quality || query ; query`, alternatives with `/` between them. */
function readSubjects(text: string) {
  return text
    .trim()
    .split('\n')
    .map((line) => {
      const [made, queries] = line.split(' || ');
      const [of, subjects, doings, places, quality] = made.split(' | ');
      const list = (part: string) => part.split('/');
      const wanted = queries.split(' ; ');
      return { of, subjects: list(subjects), doings: list(doings), places: list(places), quality, queries: wanted };
    });
}

const capital = (text: string) => text[0].toUpperCase() + text.slice(1);
const camel = (text: string) => text.split(' ').map(capital).join('');
const short = (text: string) =>
  text
    .split(' ')
    .map((w) => (w.length > 4 ? w[0] + w.slice(1).replace(/[aeiou]/g, '') : w))
    .join(' ');

/** Ten recordists, each with a manner of their own. */
const manners: readonly ((s: string, d: string, p: string, q: string, n: number) => string)[] = [
  (s, d, p, _q, n) => `${camel(s)}${camel(d)}_${p.replace(/ /g, '')}-${n}`,
  (s, d, _p, q, n) => short(`${s} ${d} ${q}`).toUpperCase() + ` ${n}`,
  (s, d, p, q, n) => `${capital(q)} ${s} ${d}, ${p}, take ${n}`,
  (s, d, p, _q, n) => `TK-${1200 + n} ${s}, ${d}, ${p}`,
  (s, d, _p, q, n) => `${capital(s)}/${d} ${q} ${n}`,
  (s, d, p, _q, n) =>
    `${p.split(' ').at(-1)!.toUpperCase()}_${s.split(' ').map(capital).join('_')}_${d.split(' ')[0]}_0${n}`,
  (s, d, _p, _q, n) => `${`${s} ${d}`.replace(/ /g, '')}${n}`,
  (s, d, _p, q, n) => `sfx_${s.replace(/ /g, '_')}_${d.replace(/ /g, '_')}_${q}_${n}`,
  (s, d, _p, _q, n) => `0${40 + n}_${`${s} ${d}`.toUpperCase()}_${n}`,
  (s, d, _p, q, n) => `${s} ${d} again ${q} ${n}`,
];

/** A library of about 1,500 made-up names, and what people ask of it. @param text of `tests/truth/queries/library.txt` */
export function madeUpLibrary(text: string): { sounds: Recorded[]; wanted: Wanted[] } {
  const random = new Random(11);
  const pick = (list: readonly string[]) => list[Math.floor(random.next() * list.length)];
  const subjects = readSubjects(text);
  const sounds = subjects.flatMap(({ of, subjects: things, doings, places, quality }) =>
    Array.from({ length: 15 }, (_, n) => ({
      of,
      path: `${manners[n % manners.length](pick(things), pick(doings), pick(places), quality, n)}.wav`,
    })),
  );
  return { sounds, wanted: subjects.flatMap(({ of, queries }) => queries.map((query) => ({ query, of }))) };
}
