// Reads damaged sound files, as many as asked for, until one breaks a reader. usage: npm run fuzz [-- CASES [SEED]]
import { writeFileSync } from 'node:fs';
import { Random } from '@core/synth';
import { damaged, seeds, survive } from '../tests/helpers/fuzz';

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
