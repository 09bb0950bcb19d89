// Label's lines of the benchmarks: the built application on a catalogue of 100,000 made-up sounds.
import { spawn } from 'node:child_process';
import { readFileSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { categories, Classifier } from '@core/suggest';
import { Random } from '@core/synth';
import { corrected, tableOf } from '../tests/helpers/librarian';
import { readTruth } from '../tests/helpers/names';
import { launch } from './browser';
import { fill } from './fill';

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
type Line = (what: string, measured: string, reach: string) => void;
const SOUNDS = Number(process.env.BENCH_SOUNDS ?? 100_000);

/** Guesses for names of two words of the list each, every one another. */
export function suggestions(line: Line): void {
  const random = new Random(5);
  const words = categories.flatMap((c) => c.synonyms);
  const pick = () => words[Math.floor(random.next() * words.length)];
  const names = Array.from({ length: 20_000 }, (_, i) => `${pick()} ${pick()} ${pick()} ${i}`);
  const classifier = new Classifier(categories);
  const from = performance.now();
  for (const name of names) classifier.rank({ name, folder: 'Field/tapes' }, 6);
  line(
    'Suggestions of categories, on one core',
    `${Math.round(20_000_000 / (performance.now() - from))} sounds a second`,
    '2,000',
  );
}

/** How suggestions hold while librarians correct libraries of their own. */
export function calibration(): void {
  const names = join(top, 'tests/truth/names');
  const named = ['names.txt', 'held.txt', 'unseen.txt'].flatMap((file) =>
    readTruth(readFileSync(join(names, file), 'utf8')),
  );
  console.log(`\nSuggestions over ${named.length} made-up names, ten librarians:`);
  for (const row of tableOf(corrected(named, 10, [0, 1, 10, 100]))) console.log(`  ${row}`);
}

export async function labelling(line: Line): Promise<void> {
  const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '4970'], { cwd: top });
  const url = await new Promise<string>((done) =>
    server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])),
  );
  const browser = await launch();
  const took = async (work: () => Promise<unknown>) => {
    const from = performance.now();
    await work();
    return (performance.now() - from) / 1000;
  };
  const seconds = (s: number) => `${s.toFixed(s < 1 ? 2 : 1)} s`;
  try {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    const page = await context.newPage();
    page.setDefaultTimeout(180_000);
    const open = async (path: string) => {
      await page.goto(`${url}${path}`);
      await page
        .getByText(/ in (under )?\d+ ms$/)
        .first()
        .waitFor();
    };
    // Parts are gone to by their links: a page that is loaded builds its index first, which is measured elsewhere.
    const part = (name: string) =>
      page.getByRole('navigation', { name: 'Parts of label' }).getByRole('link', { name }).click();
    await open('label');
    await fill(page, SOUNDS);

    await open('label/recipes?q=library:%22First%20ten%20thousand%22');
    await page.getByText('10,000 in').waitFor();
    // The first one starts the worker that works it out, while the page is still busy with its index: the middle of five.
    const previews: number[] = [];
    for (let round = 0; round < 5; round++) {
      if (round > 0) {
        await part('Tags');
        await page.getByRole('button', { name: 'Rename' }).waitFor();
        await part('Recipes');
      }
      await page.getByRole('combobox', { name: 'Open a recipe' }).click();
      await page.getByRole('combobox', { name: 'Open a recipe' }).fill('Clean up');
      previews.push(
        await took(async () => {
          await page.keyboard.press('Enter');
          await page.getByRole('grid', { name: 'Before and after' }).getByText('would be').waitFor();
        }),
      );
    }
    const [preview] = previews.sort((x, y) => x - y).slice(2);
    line(
      'A recipe of five steps, from choosing it to before and after of the rows on screen',
      seconds(preview),
      '0.1 s',
    );
    const run = page.getByRole('button', { name: /^Run on 10,000/ });
    await run.waitFor();
    const applied = await took(async () => {
      await run.click();
      await page
        .getByText(/changed 10,000 sounds/)
        .first()
        .waitFor();
    });
    line('That recipe run on 10,000 sounds, as one edit', seconds(applied), '3 s');

    await open('label');
    await part('Tags');
    await page.getByRole('button', { name: 'Rename' }).click();
    await page.getByRole('textbox', { name: 'New name of the tag' }).fill('lock yard');
    const renamed = await took(async () => {
      await page.keyboard.press('Enter');
      await page.getByRole('cell', { name: 'lock yard' }).waitFor();
    });
    line('A tag of 100,000 sounds renamed', seconds(renamed), '1 s');

    const csv = join(tmpdir(), 'fifty-thousand.csv');
    const rows = Array.from({ length: 50_000 }, (_, i) => `Folder ${i % 400}/x-${i}.wav,"Row, ${i}",a; b`);
    const things = ['winch', 'pawl', 'rudder', 'chain', 'rope', 'gate', 'oar', 'reed', 'mud', 'hull'];
    const doings = ['creak', 'clack', 'drag', 'slap', 'knock', 'rattle', 'call', 'thump'];
    const named = rows.map((r, i) => r.replace('x-', `${things[i % 10]}_${doings[(i >> 3) % 8]}-`));
    writeFileSync(csv, `Path,Notes,Keywords\n${named.join('\n')}\n`);
    await part('Sheets');
    const matched = await took(async () => {
      await page.locator('input[type=file]').setInputFiles(csv);
      await page.getByText(/^50,000 differ/).waitFor();
    });
    line('A sheet of 50,000 rows, read and matched to 100,000 sounds', seconds(matched), '2 s');

    await part('History and backup');
    let path = '';
    const backed = await took(async () => {
      const download = page.waitForEvent('download');
      await page.getByRole('button', { name: 'Back up now' }).click();
      path = await (await download).path();
    });
    const size = readFileSync(path).length / 1e6;
    line('A backup of 100,000 sounds written', `${seconds(backed)} (${size.toFixed(1)} MB)`, '10 s');
    const fresh = await (await browser.newContext()).newPage();
    fresh.setDefaultTimeout(180_000);
    await fresh.goto(`${url}label/safety`);
    const restored = await took(async () => {
      await fresh.locator('input[type=file]').setInputFiles(path);
      await fresh.getByRole('button', { name: /^Restore \d+ parts$/ }).click();
      await fresh
        .getByText(/records restored/)
        .first()
        .waitFor();
    });
    line('That backup restored into an empty catalogue', seconds(restored), '20 s');
  } finally {
    await browser.close();
    server.kill();
  }
}
