// Listening's lines of the benchmarks: the engine and its parts under V8, then the built application.
import { PeakCollector, plainShape, spanFor, textures, type Stretch } from '@core/audio';
import { Engine, keyRatio, Material, renderExcerpt } from '@core/engine';
import { decodePcm, writeWav, type AudioFormat } from '@core/files';
import { Random } from '@core/synth';
import { spawn } from 'node:child_process';
import { closeSync, mkdirSync, mkdtempSync, openSync, readFileSync, rmSync, truncateSync, writeSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Page } from '@playwright/test';
import type { SoundReader } from '../src/platform/audio/sound-reader';
import { stretched } from '../src/platform/audio/stretch';
import { Viewer } from '../src/platform/audio/viewer';
import { launch } from './browser';

type Line = (what: string, measured: string, reach: string) => void;
const top = join(dirname(fileURLToPath(import.meta.url)), '..');
const RATE = 48000;
const random = new Random(7);
const sine = (hz: number, rate: number, frames: number, level = 0.5) =>
  Float32Array.from({ length: frames }, (_, i) => level * Math.sin((2 * Math.PI * hz * i) / rate));
const noise = (frames: number) => Float32Array.from({ length: frames }, () => 0.3 * random.noise());
const db = (share: number) => `${(20 * Math.log10(Math.max(share, 1e-9))).toFixed(1)} dB`;
const percentile = (values: readonly number[], p: number) =>
  [...values].sort((a, b) => a - b)[Math.min(values.length - 1, Math.floor(values.length * p))];

/** 64 keys held, as a share of one core: the sound as it is from 44.1 kHz, and each key at a pitch of its own. */
function voices(line: Line): void {
  const share = (name: string, ratio: (key: number) => number) =>
    line(`64 stereo voices, ${name}, of one core`, `${(100 * loadOf(ratio)).toFixed(0)} %`, '20 %');
  share('resampled from 44.1 to 48 kHz', () => 1);
  share('resampled over four octaves', (key) => keyRatio(key, 44));
}

function loadOf(ratio: (key: number) => number): number {
  const engine = new Engine(RATE);
  const frames = RATE * 12;
  const planes = [noise(frames), noise(frames)];
  engine.handle({ type: 'material', id: 1, rate: 44100, frames, channels: 2 });
  for (let c = 0; c * 16384 < frames; c++)
    engine.handle({ type: 'chunk', id: 1, index: c, planes: planes.map((p) => p.slice(c * 16384, (c + 1) * 16384)) });
  engine.handle({ type: 'voices', limit: 64 });
  const audition = { from: 0, region: { start: 0, end: frames }, loop: true, gain: -30 };
  for (let key = 0; key < 64; key++)
    engine.handle({ type: 'note', key, id: 1, audition, note: { ratio: ratio(key), gain: 1 } });
  const [left, right] = [new Float32Array(128), new Float32Array(128)];
  const seconds = 5;
  for (let i = 0; i < 200; i++) engine.render(left, right);
  const from = performance.now();
  for (let at = 0; at < seconds * RATE; at += 128) engine.render(left, right);
  return (performance.now() - from) / 1000 / seconds;
}

/** What is left beside a tone once it was brought to another rate, and how level the band stays. */
function resampling(line: Line): void {
  const residue = (hz: number, from: number, to: number) => {
    const out = renderExcerpt(
      Material.of([sine(hz, from, from)], from),
      { region: { start: 0, end: from }, gain: 0, shape: plainShape },
      to,
    )[0].subarray(4000, to - 4000);
    // The tone that fits best: least squares in its sine and cosine, which are not quite at right angles over any span.
    let [xs, xc, ss, cc, sc, power] = [0, 0, 0, 0, 0, 0];
    out.forEach((x, i) => {
      const [sn, cs] = [Math.sin((2 * Math.PI * hz * i) / to), Math.cos((2 * Math.PI * hz * i) / to)];
      xs += x * sn;
      xc += x * cs;
      ss += sn * sn;
      cc += cs * cs;
      sc += sn * cs;
      power += x * x;
    });
    const det = ss * cc - sc * sc;
    const [s, c] = [(xs * cc - xc * sc) / det, (xc * ss - xs * sc) / det];
    let rest = 0;
    out.forEach((x, i) => {
      const own = s * Math.sin((2 * Math.PI * hz * i) / to) + c * Math.cos((2 * Math.PI * hz * i) / to);
      rest += (x - own) ** 2;
    });
    return { level: Math.hypot(s, c) / 0.5, rest: Math.sqrt(rest / Math.max(power, 1e-12)), power };
  };
  const tones = [100, 997, 5000, 10000, 15000, 18000];
  const up = tones.map((hz) => residue(hz, 44100, 48000));
  const worst = Math.max(...up.map((r) => r.rest));
  const ripple = Math.max(...up.map((r) => Math.abs(20 * Math.log10(r.level))));
  const folded = Math.max(
    ...[21000, 22500, 23500].map((hz) => Math.sqrt(residue(hz, 48000, 32000).power / 32000) / 0.35),
  );
  line('Resampling 44.1 to 48 kHz: all beside the tone, worst of six tones to 18 kHz', db(worst), 'below -100 dB');
  line('Resampling 48 to 32 kHz: what folds down from 21 to 23.5 kHz', db(folded), 'below -100 dB');
  line('Resampling 44.1 to 48 kHz: ripple of the passband', `${ripple.toFixed(4)} dB`, 'below 0.1 dB');
}

const readerOf = (...planes: Float32Array[]): SoundReader => ({
  format: { rate: RATE, frames: planes[0].length, channels: planes.length } as AudioFormat,
  read: (start, count) => Promise.resolve(planes.map((p) => p.slice(start, start + count))),
});

/** How far from its pitch a tone comes out, and over how long an attack is smeared. */
async function stretching(line: Line): Promise<void> {
  for (const texture of textures) {
    const how: Stretch = { length: 1.5, pitch: 4, texture };
    const tone = stretched(readerOf(sine(440, RATE, 2 * RATE)), how);
    const [heard] = await tone.read(RATE, RATE);
    const at: number[] = [];
    for (let i = 1; i < heard.length; i++)
      if (heard[i - 1] < 0 && heard[i] >= 0) at.push(i - heard[i] / (heard[i] - heard[i - 1]));
    const hz = ((at.length - 1) * RATE) / (at[at.length - 1] - at[0]);
    const cents = 1200 * Math.log2(hz / (440 * 2 ** (4 / 12)));
    const click = new Float32Array(RATE);
    for (let i = 0; i < 2000; i++) click[RATE / 2 + i] = Math.exp(-i / 100) * Math.sin(i * 0.7 + i * i * 0.001);
    // The time in which nine tenths of the energy come, beside that of the untouched hit.
    const spread = (x: Float32Array) => {
      let total = 0;
      for (const v of x) total += v * v;
      let [sum, first, last] = [0, 0, 0];
      for (let i = 0; i < x.length; i++) {
        sum += x[i] * x[i];
        if (first === 0 && sum > total * 0.05) first = i;
        if (last === 0 && sum > total * 0.95) last = i;
      }
      return (1000 * (last - first)) / RATE;
    };
    const made = stretched(readerOf(click), how);
    const [hit] = await made.read(0, made.format.frames);
    line(
      `Stretched to 1.5 times and up four semitones, ${texture}: pitch, and a hit’s spread beside the untouched one`,
      `${cents.toFixed(1)} cents; ${spread(hit).toFixed(1)} to ${spread(click).toFixed(1)} ms`,
      '',
    );
  }
}

/** A spectrogram of a minute, and the contour of an hour. */
async function looking(line: Line): Promise<void> {
  const minute = writeWav([noise(60 * RATE), noise(60 * RATE)], { rate: RATE, bits: 24 });
  const file = new File([minute as Uint8Array<ArrayBuffer>], 'minute.wav');
  const format = { ...wavFormat(60 * RATE), bits: 24, blockAlign: 6 };
  const sound = { id: 1, path: 'minute.wav', size: file.size, format };
  const item = { sound, root: { id: -1, name: '', kind: 'picked' as const, files: [file], added: 0 } };
  let from = performance.now();
  await new Viewer().spectrogram(item, 0, 60 * RATE, 800, 192);
  line(
    'Spectrogram of a minute of stereo, 800 columns',
    `${((performance.now() - from) / 1000).toFixed(2)} s`,
    '0.5 s',
  );
  const second = writeWav([noise(RATE), noise(RATE)], { rate: RATE, bits: 16 }).subarray(44);
  const frames = 3600 * RATE;
  const peaks = new PeakCollector(frames, spanFor(frames, RATE));
  from = performance.now();
  for (let s = 0; s < 3600; s++) peaks.push(decodePcm(second, wavFormat(RATE)));
  line('Contour of an hour of 16-bit stereo', `${((performance.now() - from) / 1000).toFixed(1)} s`, '6 s');
}

const wavFormat = (frames: number): AudioFormat => ({
  ...{ container: 'WAV', encoding: 'pcm', unsigned: false, littleEndian: true },
  ...{ rate: RATE, channels: 2, bits: 16, blockAlign: 4, frames, dataOffset: 44 },
});

/** A stereo WAV file of any length that takes next to no room: a second of sound, then a hole. */
function sparse(path: string, seconds: number): void {
  const head = writeWav([noise(RATE), noise(RATE)], { rate: RATE, bits: 16 });
  const size = 44 + seconds * RATE * 4;
  const view = new DataView(head.buffer, head.byteOffset);
  view.setUint32(4, size - 8, true);
  view.setUint32(40, size - 44, true);
  const file = openSync(path, 'w');
  writeSync(file, head);
  closeSync(file);
  truncateSync(path, size);
}

async function served<T>(args: string[], task: (page: Page, url: string) => Promise<T>): Promise<T> {
  const server = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '0', ...args], { cwd: top });
  const url = await new Promise<string>((done) =>
    server.stdout.on('data', (d) => done(/http:\S+/.exec(String(d))![0])),
  );
  const browser = await launch();
  try {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 }, acceptDownloads: true });
    const page = await context.newPage();
    page.setDefaultTimeout(300_000);
    return await task(page, url);
  } finally {
    await browser.close();
    server.kill();
  }
}

/** What the diagnostics say of keys, milliseconds. */
async function latencies(page: Page): Promise<number[]> {
  await page.keyboard.press('Control+k');
  await page.keyboard.type('Diagnostics');
  await page.keyboard.press('Enter');
  const waiting = page.waitForEvent('download');
  await page.getByRole('button', { name: 'Save as a file' }).click();
  const text = readFileSync(await (await waiting).path(), 'utf8');
  return (JSON.parse(text) as { latencies: { ms: number }[] }).latencies.map((l) => l.ms);
}

/** From the key to the engine's first block, as the application measures it itself. */
async function keys(line: Line): Promise<void> {
  const settled = async (page: Page, url: string, roots: number) => {
    const opened = performance.now();
    await page.goto(`${url}find`);
    await page.getByRole('textbox', { name: 'Query', exact: true }).waitFor();
    const first = performance.now() - opened;
    await page.goto(`${url}intake`);
    while ((await page.getByText('Up to date', { exact: true }).count()) < roots) await page.waitForTimeout(300);
    await page.getByRole('link', { name: 'Find', exact: true }).click();
    await page.getByRole('row', { name: /heard/ }).first().waitFor();
    return first;
  };
  const walk = async (page: Page, steps: number, pause: number) => {
    for (let i = 0; i < steps; i++) {
      await page.keyboard.press('ArrowDown');
      await page.waitForTimeout(pause);
    }
    return (await latencies(page)).slice(3);
  };
  const said = (waits: number[]) =>
    `p50 ${percentile(waits, 0.5).toFixed(0)} ms, p95 ${percentile(waits, 0.95).toFixed(0)} ms (${waits.length} keys)`;
  await served(['--demo', '.demo'], async (page, url) => {
    const first = await settled(page, url, 5);
    line('First view of the demo, from an empty profile', `${(first / 1000).toFixed(2)} s`, '1.5 s');
    line(
      'Key to the first block, walking the demo’s rows',
      said(await walk(page, 60, 250)),
      '30 ms p95, a ready row 12 ms',
    );
    await page.goBack();
    await page.getByRole('row', { name: /heard/ }).first().waitFor();
    // Wheel and time: how evenly the waveform is drawn while one zooms into it.
    const wave = page.getByRole('img', { name: /^Waveform of/ });
    await wave.hover();
    const frames = page.evaluate(async () => {
      const all: number[] = [];
      let last = await new Promise<number>((done) => requestAnimationFrame(done));
      for (let i = 0; i < 90; i++) {
        const now = await new Promise<number>((done) => requestAnimationFrame(done));
        all.push(now - last);
        last = now;
      }
      return all;
    });
    for (let i = 0; i < 40; i++) {
      await page.mouse.wheel(0, i < 20 ? -120 : 120);
      await page.waitForTimeout(16);
    }
    const drawn = await frames;
    line(
      'Frames while zooming by the wheel (drawn without a graphics card)',
      `p50 ${percentile(drawn, 0.5).toFixed(0)}, p95 ${percentile(drawn, 0.95).toFixed(0)} ms`,
      '60 a second',
    );
  });
  const folder = mkdtempSync(join(tmpdir(), 'cormorant-bench-'));
  try {
    for (const [name, seconds] of [
      ['second', 1],
      ['ten minutes', 600],
      ['four hours', 14_400],
    ] as const) {
      const own = join(folder, name);
      mkdirSync(own);
      for (let i = 0; i < 12; i++) sparse(join(own, `${name} ${i}.wav`), seconds);
      await served([own], async (page, url) => {
        await page.goto(`${url}find`);
        await page
          .getByRole('row', { name: new RegExp(name, 'i') })
          .first()
          .waitFor();
        await page.waitForTimeout(1500);
        line(
          `Key to the first block, WAV files of ${name} each, labels read`,
          said(await walk(page, 11, 400)),
          '30 ms p95',
        );
      });
    }
  } finally {
    rmSync(folder, { recursive: true });
  }
}

export async function auditioning(line: Line): Promise<void> {
  voices(line);
  resampling(line);
  await stretching(line);
  await looking(line);
  await keys(line);
}
