import { writeWav } from '@core/files';
import { expect, test, type Page } from '@playwright/test';
import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { bundled } from '../helpers/bundle';
import type { Read } from '../helpers/decoding';
import { id3, latin } from '../helpers/fuzz';
import { randomBytes } from '../helpers/labels';
import { has, run, scratch } from '../helpers/programs';
import { noise } from '../helpers/signals';

// Coded sounds through the browser's own decoders: a burst at a known frame, coded by programs that are none of ours, comes back there.

const folder = scratch();
const at = (name: string) => join(folder, name);
let page: Page;
test.beforeAll(async ({ browser }) => {
  page = await browser.newPage();
  // A page with an origin, as decoders ask for one.
  await page.route('http://localhost:1/', (route) =>
    route.fulfill({ contentType: 'text/html', body: '<p>decoding</p>' }),
  );
  await page.goto('http://localhost:1/');
  await page.addScriptTag({ content: await bundled('./decoding.ts', 'decoding') });
});
test.afterAll(() => page.close());

const read = (name: string, bytes: Uint8Array = readFileSync(at(name)), level = 0.15) =>
  page.evaluate(
    ([base64, file, above]) => {
      const { decoding } = window as never as {
        decoding: { read: (b: Uint8Array, n: string, l: number) => Promise<Partial<Read>> };
      };
      return decoding.read(
        Uint8Array.from(atob(base64 as string), (c) => c.charCodeAt(0)),
        file as string,
        above as number,
      );
    },
    [Buffer.from(bytes).toString('base64'), name, level],
  );

/** A burst in silence, which ends in silence, too: some coders leave the last of it out. */
function burst(name: string, rate: number, frames: number, start: number, channels: number): void {
  const plane = new Float32Array(frames);
  for (let i = start; i < start + 2000 && i < frames; i++)
    plane[i] = 0.6 * Math.sin((2 * Math.PI * 1000 * (i - start)) / rate + 0.5);
  writeFileSync(
    at(name),
    writeWav(
      Array.from({ length: channels }, () => plane),
      { rate, bits: 16 },
    ),
  );
}

const sources = [
  { name: 'long.wav', rate: 44_100, frames: 50_000, start: 20_000, channels: 2 },
  { name: 'odd.wav', rate: 48_000, frames: 30_011, start: 9000, channels: 1 },
  { name: 'short.wav', rate: 44_100, frames: 3000, start: 500, channels: 1 },
];
const coders: { ending: string; program: string; args: (from: string, to: string) => string[]; lossless?: boolean }[] =
  [
    { ending: '1.ogg', program: 'oggenc', args: (a, b) => ['-Q', '-o', b, a] },
    { ending: '2.ogg', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'libvorbis', b] },
    { ending: '1.opus', program: 'opusenc', args: (a, b) => ['--quiet', a, b] },
    { ending: '2.opus', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'libopus', b] },
    { ending: '1.mp3', program: 'lame', args: (a, b) => ['--quiet', a, b] },
    { ending: '2.mp3', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'libmp3lame', b] },
    { ending: 'm4a', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'aac', b] },
    { ending: '1.flac', program: 'flac', args: (a, b) => ['-s', '-f', '-o', b, a], lossless: true },
    { ending: '2.flac', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'flac', b], lossless: true },
    { ending: '3.ogg', program: 'ffmpeg', args: (a, b) => ['-y', '-i', a, '-c:a', 'flac', b], lossless: true },
  ];

for (const { ending, program, args, lossless } of coders)
  test(`${program} to ${ending}: the very length, and the burst where it was; from the middle as from the start`, async () => {
    test.skip(!has(program), `${program} is not installed`);
    for (const { name, rate, frames, start, channels } of sources) {
      burst(name, rate, frames, start, channels);
      const file = name.replace('wav', ending);
      run(program, ...args(at(name), at(file)));
      const found = await read(file);
      // Opus knows one rate only.
      const scale = ending.endsWith('opus') ? 48_000 / rate : 1;
      expect({ file, reason: found.reason, frames: found.frames }).toEqual({
        file,
        frames: Math.ceil(frames * scale),
      });
      expect(Math.abs(found.onset! - start * scale)).toBeLessThanOrEqual(lossless ? 1 : 32);
      expect(found.apart).toBeLessThan(lossless ? 1e-9 : 2e-5);
      expect(found.warnings).toEqual([]);
    }
  });

test('a damaged Ogg is silent where it is damaged, as long as it was, and says so; it never becomes noise', async () => {
  test.skip(!has('oggenc') || !has('opusenc'), 'oggenc and opusenc are not installed');
  const rate = 44_100;
  writeFileSync(at('noise.wav'), writeWav([noise(20 * rate, 0.3, 5)], { rate, bits: 16 }));
  run('oggenc', '-Q', '-o', at('noise.ogg'), at('noise.wav'));
  run('opusenc', '--quiet', at('noise.wav'), at('noise.opus'));
  for (const file of ['noise.ogg', 'noise.opus']) {
    const good = readFileSync(at(file));
    const whole = await read(file);
    const middle = Buffer.from(good);
    for (let i = 0; i < 40; i++) middle[(good.length >> 1) + 5 * i] ^= 0x5a;
    const hurt = await read(file, middle);
    expect([hurt.frames, hurt.warnings]).toEqual([whole.frames, [expect.stringMatching(/damaged; silence/)]]);
    expect(hurt.peak).toBeLessThan(1.2);
    expect(Math.max(...hurt.tenths!.slice(0, 3))).toBeGreaterThan(0.1);
    expect(Math.max(...hurt.tenths!.slice(7))).toBeGreaterThan(0.1);
    const cut = await read(file, good.subarray(0, Math.floor(good.length * 0.6)));
    expect(cut.warnings).toEqual([expect.stringMatching(/cut off/)]);
    expect(cut.frames! / whole.frames!).toBeGreaterThan(0.45);
    expect(cut.frames! / whole.frames!).toBeLessThan(0.7);
    const two = await read(file, Buffer.concat([good, readFileSync(at('noise.ogg'))]));
    expect([two.frames, two.warnings]).toEqual([whole.frames, [expect.stringMatching(/2 streams follow/)]]);
    const hole = await read(file, Buffer.concat([good.subarray(0, 20_000), good.subarray(26_000)]));
    expect([hole.frames, hole.warnings!.length]).toEqual([whole.frames, 1]);
    expect([whole.apart! < 2e-5, hurt.apart, cut.apart, hole.apart]).toEqual([true, 0, 0, 0]);
  }
});

test('a file is what it holds, whatever it is called, and reasons are told apart', async () => {
  test.skip(!has('lame') || !has('ffmpeg'), 'lame and ffmpeg are not installed');
  burst('a.wav', 44_100, 50_000, 20_000, 2);
  run('lame', '--quiet', at('a.wav'), at('a.mp3'));
  run('ffmpeg', '-y', '-i', at('a.wav'), '-c:a', 'aac', at('a.m4a'));
  const [wav, mp3, m4a] = ['a.wav', 'a.mp3', 'a.m4a'].map((n) => readFileSync(at(n)));
  expect(await read('wav.mp3', wav)).toMatchObject({ container: 'WAV', frames: 50_000 });
  expect(await read('mp3.wav', mp3)).toMatchObject({ container: 'MP3', frames: 50_000 });
  // Tags of two programs, the second longer than what is looked through for a first frame.
  const tags = [id3({ TIT2: latin('One') }, 3), id3({ PRIV: randomBytes(9000, 4) }, 4)];
  const tagged = await read('tagged.mp3', Buffer.concat([...tags, mp3]));
  expect(tagged).toMatchObject({ container: 'MP3', frames: 50_000, warnings: [] });
  expect(Math.abs(tagged.onset! - 20_000)).toBeLessThanOrEqual(32);
  expect((await read('page.mp3', Buffer.from('<!doctype html><p>'))).reason).toMatch(
    /no sound file: it holds a web page/,
  );
  expect((await read('bytes.ogg', Buffer.from(noise(2000, 1, 3).buffer))).reason).toMatch(/no sound file/);
  expect((await read('zeros.wav', Buffer.alloc(900))).reason).toMatch(/nothing but zeros/);
  expect((await read('empty.flac', Buffer.alloc(0))).reason).toMatch(/empty/);
  expect((await read('cut.m4a', m4a.subarray(0, m4a.length >> 1))).reason).toMatch(/cut off: .*moov/);
  const cut = await read('cut.mp3', mp3.subarray(0, mp3.length >> 1));
  expect(cut.warnings).toEqual([expect.stringMatching(/cut off or damaged: .* of 1\.13 s are there/)]);
});
