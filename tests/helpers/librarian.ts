import { meaning } from '@core/meaning';
import { baseName, folderOf } from '@core/naming';
import { categories, Classifier, type Evidence } from '@core/suggest';
import { Random } from '@core/synth';
import type { NamedSound } from './names';

/** A sound of a made-up library. */
interface Owned {
  evidence: Evidence;
  catId: string;
  /** Takes of one sound have the same. */
  sound: number;
}

const PREFIXES = ['KLD_', 'Fenmoor 0', 'ob-', '', 'TS '];
const SUFFIXES = ['', '_wide', ' licence b', ' 24k', '_mono', ' close'];

/** A library as one person would have named it: a prefix that all have, words that many have, several takes of most. */
function libraryOf(named: readonly NamedSound[], seed: number): Owned[] {
  const random = new Random(seed);
  const prefix = PREFIXES[seed % PREFIXES.length];
  return [...named]
    .sort(() => random.next() - 0.5)
    .slice(0, 250)
    .flatMap(({ path, catId }, sound) => {
      const suffix = SUFFIXES[Math.floor(random.next() * SUFFIXES.length)];
      const takes = 1 + Math.floor(random.next() * 4);
      return Array.from({ length: takes }, (_, take) => ({
        evidence: { name: `${prefix}${baseName(path)}${suffix}_${take + 11}`, folder: folderOf(path) },
        catId,
        sound,
      }));
    });
}

/** How guesses hold once a librarian corrected some of them. */
export interface Held {
  corrections: number;
  /** Shares of sounds that nobody looks at before; of others the wrong ones are the first to be corrected. */
  first: number;
  three: number;
  /** Share of right ones among those said to be 90 % sure and more, and how many these are. */
  sure: number;
  surely: number;
  /** How far being sure and being right differ, over tenths. */
  off: number;
  /** Share of right ones among other takes of what was corrected. */
  takes: number;
  /** The largest sum of the probabilities of one sound. */
  sum: number;
}

/** Librarians correct what is wrong in libraries of their own, one sound after the other. */
export function corrected(named: readonly NamedSound[], librarians: number, corrections: readonly number[]): Held[] {
  const tallies = corrections.map(() => ({ of: 0, first: 0, three: 0, takes: 0, taken: 0, sum: 0, bins: bins() }));
  for (let seed = 1; seed <= librarians; seed++) {
    const sounds = libraryOf(named, seed);
    const classifier = new Classifier(categories, (word) => meaning().of(word));
    for (const { evidence } of sounds) classifier.survey(evidence);
    const done = new Set<number>();
    let made = 0;
    corrections.forEach((until, i) => {
      for (const { evidence, catId, sound } of sounds) {
        if (made >= until) break;
        // Every other sound is only looked at.
        if (sound % 2 === 1 || done.has(sound) || classifier.rank(evidence, 1)[0]?.catId === catId) continue;
        classifier.learn(evidence, catId);
        done.add(sound);
        made++;
      }
      for (const { evidence, catId, sound } of sounds) {
        const ranked = classifier.rank(evidence, 6);
        const right = ranked[0]?.catId === catId;
        const tally = tallies[i];
        tally.sum = Math.max(
          tally.sum,
          ranked.reduce((sum, r) => sum + r.probability, 0),
        );
        if (done.has(sound)) {
          tally.taken++;
          tally.takes += Number(right);
          continue;
        }
        if (sound % 2 === 0) continue;
        tally.of++;
        tally.first += Number(right);
        tally.three += Number(ranked.slice(0, 3).some((r) => r.catId === catId));
        const said = ranked[0]?.probability ?? 0;
        const bin = tally.bins[Math.min(9, Math.floor(said * 10))];
        bin.of++;
        bin.said += said;
        bin.right += Number(right);
      }
    });
  }
  return tallies.map((t, i) => ({
    corrections: corrections[i],
    first: t.first / t.of,
    three: t.three / t.of,
    sure: t.bins[9].right / t.bins[9].of,
    surely: t.bins[9].of,
    off: t.bins.reduce((sum, b) => sum + Math.abs(b.said - b.right), 0) / t.of,
    takes: t.taken === 0 ? 1 : t.takes / t.taken,
    sum: t.sum,
  }));
}

const bins = () => Array.from({ length: 10 }, () => ({ of: 0, said: 0, right: 0 }));

/** The same as lines of a table. */
export const tableOf = (held: readonly Held[]): string[] => [
  'corrections  first  in three  said 90 %: right (of)  off   other takes',
  ...held.map((h) => {
    const percent = (x: number) => `${(100 * x).toFixed(1)} %`.padStart(7);
    return `${String(h.corrections).padStart(11)} ${percent(h.first)} ${percent(h.three)}   ${percent(h.sure)} (${h.surely})   ${percent(h.off)} ${percent(h.takes)}`;
  }),
];
