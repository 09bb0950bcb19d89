// Measures what docs/architecture.md promises, as ratios within one run, and writes docs/benchmarks.md.
import { mkdirSync, mkdtempSync, readFileSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import { spawn } from 'node:child_process';
import { cpus, tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { FactsCollector, findCopies, type Printed } from '@core/audio';
import { memorySource, readAudioFile, readFrames, writeWav, type ByteSource } from '@core/files';
import { Random, render } from '@core/synth';
import { EACH, farOff, reach } from '../tests/helpers/anchors';
import { auditioning } from './bench-audition';
import { painted } from './bench-find';
import { finding } from './bench-search';
import { builds } from './bench-build';
import { calibration, labelling, suggestions } from './bench-label';
import { deliveries, scenes } from './bench-scene';
import { exchanging, hosting, teaming } from './bench-services';
import { slicing } from './bench-slices';
import { picture } from './bench-picture';
import { timeline } from './bench-timeline';
import { writing } from './bench-write';
import { launch } from './browser';

const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const lines: [string, string, string][] = [];
const line = (what: string, measured: string, reach: string) => {
  lines.push([what, measured, reach]);
  console.log(`  ${what}: ${measured}${reach ? ` (to reach: ${reach})` : ''}`);
};
const percentile = (values: number[], p: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))];
function time(work: () => void): number {
  const from = performance.now();
  work();
  return performance.now() - from;
}

/** All facts of one minute of 48 kHz stereo, as intake measures them: decoding, contour, loudness, onsets, fingerprints. */
async function facts(): Promise<void> {
  const { planes } = render({ family: 'wind', seed: 3, rate: 48000, seconds: 60, channels: 2 });
  const source = memorySource(writeWav(planes, { rate: 48000, bits: 24 }));
  const { format } = await readAudioFile(source);
  const runs: number[] = [];
  const plain: number[] = [];
  for (let run = 0; run < 5; run++) {
    let from = performance.now();
    for (let at = 0; at < format.frames; at += 1 << 17) await readFrames(source, format, at, 1 << 17);
    plain.push(performance.now() - from);
    from = performance.now();
    const collector = await FactsCollector.start(format.frames, format.rate, format.channels);
    for (let at = 0; at < format.frames; at += 1 << 17) collector.push(await readFrames(source, format, at, 1 << 17));
    collector.done();
    runs.push(performance.now() - from);
  }
  const ms = percentile(runs, 0.5);
  line(
    'All facts, contour and fingerprints of a minute of 48 kHz stereo, 24 bit, on one core',
    `${(ms / 1000).toFixed(2)} s (${Math.round(60_000 / ms)} times real time; ${(ms / percentile(plain, 0.5)).toFixed(0)} times decoding alone)`,
    '0.3 s',
  );
}

/** How many suggested anchors lie where they should, on sounds whose instants are known. */
async function anchors(): Promise<void> {
  for (const kind of ['hit', 'run', 'swell', 'rise', 'bed'] as const) {
    const [within, share] = reach[kind];
    const far = await farOff(kind);
    line(
      `Anchors of ${EACH} made-up sounds: ${kind}, within ${within * 1000} ms`,
      `${Math.round((100 * (EACH - far.length)) / EACH)} %`,
      `${share * 100} %`,
    );
  }
}

/** The search for copies among made-up fingerprints, one in fifty of them near a copy of another. */
function copies(): void {
  const random = new Random(11);
  const word = () => Math.floor(random.next() * 2 ** 32);
  const count = 20_000;
  const sounds: Printed[] = [];
  for (let id = 0; id < count; id++) {
    const original = id % 50 === 49 ? sounds[id - 10] : undefined;
    const words = original
      ? original.print.words.map((w) => (random.next() < 0.5 ? w ^ (1 << Math.floor(random.next() * 32)) : w))
      : Uint32Array.from({ length: 150 + Math.floor(random.next() * 200) }, word);
    sounds.push({ id, print: { words, under: Uint8Array.from(words, () => Math.floor(random.next() * 60)) } });
  }
  let found = 0;
  const ms = time(() => (found = findCopies(sounds).length));
  line('Duplicates among 20,000 sounds', `${(ms / 1000).toFixed(1)} s; ${found} of ${count / 50} pairs found`, '');
}

/** Labels of the demo's WAV files against reading the whole of the same files. */
async function labels(): Promise<void> {
  const folder = join(top, '.demo/libraries/Tidewrack Audio');
  const paths = readdirSync(folder, { recursive: true, encoding: 'utf8' })
    .filter((p) => p.endsWith('.wav'))
    .map((p) => join(folder, p));
  const sources: ByteSource[] = paths.map((p) => memorySource(readFileSync(p), p));
  const total = sources.reduce((sum, s) => sum + s.size, 0);
  let read = 0;
  let most = 0;
  const from = performance.now();
  for (const source of sources) {
    let own = 0;
    await readAudioFile({ ...source, read: async (o, n) => source.read(o, n).then((b) => ((own += b.length), b)) });
    read += own;
    most = Math.max(most, own);
  }
  const ours = performance.now() - from;
  const plain = time(() => paths.forEach((p) => readFileSync(p)));
  line(
    'Labels of 112 WAV files',
    `${(plain / ours).toFixed(1)} times as fast as reading the files whole; ${Math.round(most / 1024)} KiB read of the costliest, ${((100 * read) / total).toFixed(1)} % of all bytes`,
    'half as fast; under 64 KiB a file',
  );
}

/** WAV files of 0.3 s in a tree of folders, some 155 to each, as a drive that grew over the years has them. */
function manyFiles(count: number): string {
  const folder = mkdtempSync(join(tmpdir(), 'cormorant-bench-'));
  const words = ['gate', 'rope', 'oar', 'mud', 'winch', 'plank', 'reed', 'gull', 'hull', 'chain', 'bolt', 'lamp'];
  const frames = 14_400;
  const plane = new Float32Array(frames);
  const folders = Math.max(1, Math.round(count / 155));
  for (let f = 0; f < folders; f++) {
    const place = join(folder, `${words[f % 12]} ${words[(f >> 3) % 12]}`, `set ${f}`);
    mkdirSync(place, { recursive: true });
    for (let i = f; i < count; i += folders) {
      const [pitch, fall] = [0.02 + (i % 997) / 3000, 2000 + (i % 31) * 200];
      for (let k = 0; k < frames; k++) plane[k] = 0.4 * Math.exp(-k / fall) * Math.sin(k * pitch);
      const name = `${i % 40 === 0 ? 'creak' : words[i % 12]}_${words[(i >> 5) % 12]}-${String(i).padStart(6, '0')}.wav`;
      writeFileSync(join(place, name), writeWav([plane], { rate: 48_000, bits: 16 }));
    }
  }
  return folder;
}

/** Intake of many files in the built application: the first answer, the rate, memory on the way, a second look. */
async function intake(): Promise<void> {
  const count = Number(process.env.CORMORANT_BENCH_FILES ?? 20_000);
  const folder = manyFiles(count);
  const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '4960', folder], { cwd: top });
  const url = await new Promise<string>((done) =>
    server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])),
  );
  const browser = await launch();
  try {
    const page = await (await browser.newContext({ viewport: { width: 1280, height: 800 } })).newPage();
    const session = await browser.newBrowserCDPSession();
    const memory = async () => {
      const { processInfo } = await session.send('SystemInfo.getProcessInfo');
      const ids = processInfo.filter((p) => p.type === 'renderer').map((p) => p.id);
      const kib = ids.map((id) => {
        const status = readFileSync(`/proc/${id}/status`, 'utf8');
        return Number(/VmRSS:\s+(\d+)/.exec(status)?.[1] ?? 0);
      });
      return Math.round(Math.max(...kib) / 1024);
    };
    /** What page and workers still use once the browser has collected its garbage; processes keep far more for themselves. */
    const used = () =>
      page.evaluate(async () => {
        type Measured = { measureUserAgentSpecificMemory(): Promise<{ bytes: number }> };
        return (await (performance as unknown as Measured).measureUserAgentSpecificMemory()).bytes;
      });
    const started = performance.now();
    await page.goto(`${url}find?q=creak`);
    const all = page.getByRole('button', { name: /^All libraries/ });
    await page.getByRole('row', { name: /Creak/ }).first().waitFor({ timeout: 60_000 });
    const first = performance.now() - started;
    const here = async () => Number(((await all.textContent()) ?? '').replace(/\D/g, ''));
    const curve: string[] = [];
    // Sounds a second about each size of the catalogue: a batch is to cost the same however large it is.
    const speeds: string[] = [];
    let mark = { n: 0, at: performance.now() };
    for (let n = await here(), next = 0; n < count; n = await here()) {
      if (n >= next) {
        curve.push(`${Math.round(n / 1000)}k ${await memory()} MB`);
        const now = performance.now();
        if (n > mark.n + count / 20) {
          speeds.push(`${Math.round((1000 * (n - mark.n)) / (now - mark.at))} at ${Math.round(n / 1000)}k`);
          mark = { n, at: now };
        }
        next += count / 6;
      }
      await page.waitForTimeout(400);
    }
    const read = (performance.now() - started) / 1000;
    curve.push(`${Math.round(count / 1000)}k ${await memory()} MB`);
    line(
      `First answer while ${count.toLocaleString('en')} files come in, from opening the page`,
      `${(first / 1000).toFixed(1)} s`,
      '2 s from the first file',
    );
    line(
      `Labels of ${count.toLocaleString('en')} files taken in and found by search`,
      `${read.toFixed(0)} s, ${Math.round(count / read)} a second (${speeds.join(', ')})`,
      '1,000 a second',
    );
    line('Memory of the page’s process with its workers on the way', curve.join(', '), 'flat');
    line('Of which is in use, garbage apart', `${Math.round((await used()) / 1e6)} MB`, '');
    await page.getByRole('link', { name: 'Intake', exact: true }).click();
    const measured = async () =>
      Number(
        /^Measuring: ([\d,]+) of/
          .exec((await page.getByText(/^Measuring: /).textContent()) ?? '')?.[1]
          .replace(/,/g, ''),
      );
    await page.getByText(/^Measuring: /).waitFor({ timeout: 120_000 });
    const [from, at] = [await measured(), performance.now()];
    await page.waitForTimeout(40_000);
    const facts = (1000 * ((await measured()) - from)) / (performance.now() - at);
    line(
      `Facts of sounds of 0.3 s, with ${count.toLocaleString('en')} in the catalogue`,
      `${Math.round(facts)} a second`,
      '150 on 2 cores',
    );
    await page.getByRole('button', { name: /^Pause/ }).click();
    await page.getByText('Paused', { exact: true }).waitFor({ timeout: 60_000 });
    await page.reload();
    await page.getByText('Paused', { exact: true }).waitFor({ timeout: 60_000 });
    const again = performance.now();
    await page.getByRole('button', { name: /^Go on/ }).click();
    await page.getByText(/^Measuring: /).waitFor({ timeout: 120_000 });
    line(
      `Second look at ${count.toLocaleString('en')} unchanged files`,
      `${((performance.now() - again) / 1000).toFixed(1)} s`,
      'a few seconds',
    );
  } finally {
    await browser.close();
    server.kill();
    rmSync(folder, { recursive: true });
  }
}

/** What is measured, by the names under which parts of it are asked for, each under its heading. */
const parts: Record<string, { heading: string; measure: () => Promise<void> | void }> = {
  // First, while the memory that it measures holds nothing else.
  search: { heading: 'Finding, under V8', measure: () => finding(line) },
  facts: {
    heading: 'Facts, duplicates and labels of files',
    measure: async () => {
      await facts();
      await anchors();
      await slicing(line);
      copies();
      await labels();
    },
  },
  write: { heading: 'Writing files, by the server', measure: () => writing(line) },
  label: {
    heading: 'Labelling, in Chromium',
    measure: async () => {
      suggestions(line);
      calibration();
      await labelling(line);
    },
  },
  intake: { heading: 'Intake, in Chromium', measure: intake },
  audition: { heading: 'Audition: the engine under V8, keys and frames in Chromium', measure: () => auditioning(line) },
  scenes: {
    heading: 'Scenes, under V8',
    measure: () => {
      scenes(line);
      deliveries(line);
    },
  },
  builds: { heading: 'Builds, under V8', measure: () => builds(line) },
  services: {
    heading: 'Services, under V8',
    measure: async () => {
      exchanging(line);
      await hosting(line);
      await teaming(line);
    },
  },
  timeline: { heading: 'Large scenes, in Chromium', measure: () => timeline(line) },
  picture: { heading: 'Pictures, in Chromium', measure: () => picture(line) },
  painted: { heading: 'Finding, in Chromium', measure: () => painted(line) },
};
const asked = process.argv.slice(2);
const unknown = asked.find((name) => !(name in parts));
if (unknown) throw new Error(`no part is called “${unknown}”; there are: ${Object.keys(parts).join(', ')}`);

const file = join(top, 'docs/benchmarks.md');
/** The tables as they stand, by heading: those of parts that are not asked for stay as they were. */
const tables = new Map(
  readFileSync(file, 'utf8')
    .split(/^## /m)
    .slice(1)
    .map((section) => [section.split('\n')[0], section.slice(section.indexOf('|')).trimEnd()]),
);
for (const [name, { heading, measure }] of Object.entries(parts)) {
  if (asked.length > 0 && !asked.includes(name)) continue;
  lines.length = 0;
  await measure();
  const rows = lines.map((row) => `| ${row.join(' | ')} |`);
  tables.set(heading, ['| what | measured | to reach |', '| --- | --- | --- |', ...rows].join('\n'));
}
const sections = Object.values(parts).flatMap(({ heading }) =>
  tables.has(heading) ? [`## ${heading}\n\n${tables.get(heading)}\n`] : [],
);
const machine = `${cpus().length} × ${cpus()[0].model.trim()}, Node.js ${process.version}`;
const head = `# Benchmarks

Written by \`npm run bench\`, or a part of it by \`npm run bench -- PART\` (${Object.keys(parts).join(', ')}): each part is measured in
one run, peers beside ours. The parts may be of different days, and the machine of the last of them (${machine}) is uneven by half.
`;
writeFileSync(file, [head, ...sections].join('\n'));
