// Shows how often the classifier is right, by how sure it says to be. usage: tsx scripts/calibrate.ts FILE… (lines: PATH = CatID)
import { readFileSync } from 'node:fs';
import { readTruth, score } from '../tests/helpers/names';

const named = process.argv.slice(2).flatMap((file) => readTruth(readFileSync(file, 'utf8')));
const { first, three, bins, wrong } = score(named);
console.log(
  `${named.length} names: first ${(first * 100).toFixed(1)} %, in the first three ${(three * 100).toFixed(1)} %`,
);
bins.forEach(
  ({ right, of }, i) =>
    of > 0 &&
    console.log(`  said ${i * 10} to ${i * 10 + 10} %: right in ${((100 * right) / of).toFixed(0)} % of ${of}`),
);
for (const line of wrong) console.log(`  ${line}`);
