// Reads damaged sound files, and spoilt files and records of every other kind, as many as asked for, until one breaks a reader. usage: npm run fuzz [-- CASES [SEED]]
import { writeFileSync } from 'node:fs';
import { Random } from '@core/synth';
import { damaged, seeds, survive } from '../tests/helpers/fuzz';
import { feed, spoilt, targets } from '../tests/helpers/fuzz-files';

const cases = Number(process.argv[2] ?? 200_000);
const seed = Number(process.argv[3] ?? Date.now() % 1_000_000);
const random = new Random(seed);
const files = seeds();
const started = performance.now();
let [read, slowest] = [0, 0];
for (let n = 0; n < cases; n++) {
  const bytes = damaged(files, random);
  try {
    const outcome = await survive(bytes);
    if (outcome.kind === 'read') read++;
    slowest = Math.max(slowest, outcome.ms);
  } catch (error) {
    writeFileSync('.cache/fuzzed.bin', bytes);
    console.error(`case ${n} of seed ${seed}: ${(error as Error).message}; the file is .cache/fuzzed.bin`);
    process.exit(1);
  }
}
console.log(
  `${cases} damaged files (seed ${seed}): ${read} read, ${cases - read} refused, the slowest in ${slowest.toFixed(1)} ms; ${((performance.now() - started) / 1000).toFixed(1)} s`,
);
for (const target of targets) {
  const kinds = { taken: 0, refused: 0 };
  for (let n = 0; n < cases / 20; n++) {
    const bytes = spoilt(target.seed, random);
    try {
      kinds[await feed(target, bytes)]++;
    } catch (error) {
      writeFileSync('.cache/fuzzed.bin', bytes);
      console.error(`case ${n} of seed ${seed}: ${(error as Error).message}; the input is .cache/fuzzed.bin`);
      process.exit(1);
    }
  }
  console.log(`${target.name}: ${kinds.taken} taken, ${kinds.refused} refused`);
}
