import { meaning } from '@core/meaning';
import { categories, Classifier } from '@core/suggest';
import { baseName, folderOf } from '@core/naming';

/** A made-up file name and the category that a librarian would give it. */
export interface NamedSound {
  manner: string;
  path: string;
  catId: string;
}

/** Reads lines `PATH = CatID`, under lines `# manner`. */
export function readTruth(text: string): NamedSound[] {
  let manner = '';
  return text.split('\n').flatMap((line) => {
    if (line.startsWith('#')) manner = line.slice(1).trim();
    const found = /^(.+) = (\w+)$/.exec(line.trim());
    return found && !line.startsWith('#') ? [{ manner, path: found[1], catId: found[2] }] : [];
  });
}

/** How well names alone are understood; a bin is a tenth of what is said to be sure. */
export function score(named: readonly NamedSound[]) {
  const classifier = new Classifier(categories, (word) => meaning().of(word));
  const bins = Array.from({ length: 10 }, () => ({ right: 0, of: 0 }));
  const wrong: string[] = [];
  const byManner = new Map<string, { right: number; of: number }>();
  let [first, three] = [0, 0];
  for (const { manner, path, catId } of named) {
    const ranked = classifier.rank({ name: baseName(path), folder: folderOf(path) }, 3);
    const right = ranked[0]?.catId === catId;
    first += Number(right);
    three += Number(ranked.some((r) => r.catId === catId));
    const own = byManner.get(manner) ?? byManner.set(manner, { right: 0, of: 0 }).get(manner)!;
    own.of++;
    own.right += Number(right);
    const bin = bins[Math.min(9, Math.floor((ranked[0]?.probability ?? 0) * 10))];
    bin.of++;
    bin.right += Number(right);
    if (!right)
      wrong.push(`${path}: ${catId}, not ${ranked.map((r) => `${r.catId} ${r.probability.toFixed(2)}`).join(', ')}`);
  }
  return { first: first / named.length, three: three / named.length, bins, wrong, byManner };
}
