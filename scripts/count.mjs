// Counts lines of code that are not blank, and the share of them that are tests. --check fails outside of the band.
import { execFileSync } from 'node:child_process';
import { readFileSync } from 'node:fs';

const BAND = [25, 33];
const list = (...patterns) =>
  execFileSync('git', ['ls-files', '-co', '--exclude-standard', '--', ...patterns], { encoding: 'utf8' })
    .split('\n')
    .filter(Boolean);
const lines = (files) =>
  files.reduce(
    (sum, f) =>
      sum +
      readFileSync(f, 'utf8')
        .split('\n')
        .filter((l) => /\S/.test(l)).length,
    0,
  );

const all = list('*.ts', '*.vue', '*.mjs', '*.js', '*.css');
const isTest = (f) => /^(tests|e2e)\/|\.(test|spec)\.ts$/.test(f);
const tests = lines(all.filter(isTest));
const total = lines(all);
const share = (100 * tests) / total;
const floors = new Map();
for (const file of all) {
  const floor = isTest(file) ? 'tests' : (/^src\/(core\/[^/]+|[^/]+)/.exec(file)?.[1] ?? 'scripts and settings');
  floors.set(floor, (floors.get(floor) ?? 0) + lines([file]));
}
for (const [floor, n] of [...floors].sort((a, b) => b[1] - a[1])) console.log(`${String(n).padStart(7)}  ${floor}`);
console.log(
  `${String(total).padStart(7)}  in all, ${share.toFixed(1)} % of it tests (the band is ${BAND[0]} to ${BAND[1]} %)`,
);
if (process.argv.includes('--check') && (share < BAND[0] || share > BAND[1])) process.exit(1);
