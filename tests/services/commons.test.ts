import { anything, type OpenAsk } from '@core/elsewhere';
import type { OpenSound } from '@core/schemas';
import { likeCode, LIKENESS_SIZE } from '@core/search';
import { Commons } from '@platform/elsewhere/commons';
import { Elsewhere } from '@platform/elsewhere/service';
import { CommonsFolder, commonsRouter } from '@services/commons';
import { Commons as Model } from '@services/commons/model';
import { Turnstile } from '@services/commons/turnstile';
import { createApp } from '@server/app';
import express, { type Express } from 'express';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openSound } from '../helpers/open-sounds';
import { served } from '../helpers/served';

// The commons, its client, and what stands between them.

const audio = Uint8Array.from({ length: 5000 }, (_, i) => (i * 7) & 255);
const vector = (first: number) => likeCode(Int8Array.from({ length: LIKENESS_SIZE }, (_, i) => (i === 0 ? first : 0)));
const words = ['bell', 'rope', 'wave', 'gull', 'bells'];
const sounds: OpenSound[] = Array.from({ length: 47 }, (_, i) =>
  openSound(
    {
      id: `s${i}`,
      title: `${words[i % 5]} ${i % 3 === 0 ? 'ferry' : 'pier'} ${i}`,
      tags: i % 4 === 0 ? [words[(i + 1) % 5]] : [],
      author: ['Ines Fallow', 'Osric Vale'][i % 2],
      licence: ['CC0 1.0', 'CC BY 4.0', 'CC BY-NC 4.0'][i % 3],
      shared: new Date(1e12 + i * 1e8).toISOString(),
      seconds: 1 + (i % 7),
      like: vector(i),
    },
    audio,
  ),
);
const top = mkdtempSync(join(tmpdir(), 'cormorant-commons-'));
mkdirSync(join(top, 'files'));
writeFileSync(join(top, 'sounds.json'), JSON.stringify(sounds));
writeFileSync(join(top, 'files', sounds[0].original.sha256), audio);
writeFileSync(join(top, 'secret'), 'secret');

const servers: Server[] = [];
async function at(app: Express): Promise<string> {
  const { server, port } = await served(app);
  servers.push(server);
  return `http://127.0.0.1:${port}/`;
}
const commonsAt = (pace?: { atOnce: number; perSecond: number }) =>
  at(express().use(commonsRouter(new CommonsFolder(top), pace)));
const plain = { atOnce: 1e6, perSecond: 1e6 };
const { signal } = new AbortController();
const told = () => undefined;
afterAll(() => {
  for (const server of servers) {
    server.close();
    server.closeAllConnections();
  }
  rmSync(top, { recursive: true, force: true });
});

const asks = fc.record({
  words: fc.array(fc.constantFrom(...words, 'ferry', 'be*', 'nothing', 'rope|wave', 'nothing|be*'), { maxLength: 2 }),
  without: fc.array(fc.constantFrom(...words), { maxLength: 1 }),
  any: fc.boolean(),
  licences: fc.subarray(['CC0 1.0', 'CC BY 4.0', 'CC BY-NC 4.0']),
  authors: fc.subarray(['Ines Fallow', 'Osric Vale']),
  by: fc.subarray(['ines', 'vale', 'nobody'], { maxLength: 1 }),
  shortest: fc.option(fc.integer({ min: 0, max: 5 }), { nil: undefined }),
  longest: fc.option(fc.integer({ min: 2, max: 9 }), { nil: undefined }),
  order: fc.constantFrom<OpenAsk['order']>('fit', 'newest', 'longest', 'shortest'),
});

test('what is found is what a plain look through all of them finds; its pages are all of it, once; its counts are what a choice would find', () => {
  const model = new Model(sounds);
  const has = (s: OpenSound, word: string) => {
    const own = [s.title, s.tags.join(' '), s.author, s.description].join(' ').toLowerCase().split(' ');
    // The only two of these words that are forms of one another.
    const form = (w: string) => w.replace(/^bells$/, 'bell');
    return word
      .split('|')
      .some((one) => own.some((w) => (one.endsWith('*') ? w.startsWith(one.slice(0, -1)) : form(w) === form(one))));
  };
  fc.assert(
    fc.property(asks, fc.integer({ min: 1, max: 20 }), (ask, size) => {
      const expected = sounds.filter((s) => {
        const fits = ask.words.map((w) => has(s, w));
        return (
          (ask.any && fits.length > 0 ? fits.includes(true) : !fits.includes(false)) &&
          !ask.without.some((w) => has(s, w)) &&
          ask.by.every((w) => s.author.toLowerCase().split(' ').includes(w)) &&
          (ask.licences.length === 0 || ask.licences.includes(s.licence)) &&
          (ask.authors.length === 0 || ask.authors.includes(s.author)) &&
          s.seconds >= (ask.shortest ?? 0) &&
          s.seconds <= (ask.longest ?? 99)
        );
      });
      const first = model.find(ask, 1, size);
      const all = Array.from({ length: first.pages }, (_, i) => model.find(ask, i + 1, size).sounds).flat();
      expect(all.map((s) => s.id).sort()).toEqual(expected.map((s) => s.id).sort());
      expect(first.total).toBe(expected.length);
      for (const [licence, n] of Object.entries(first.licences))
        expect(model.find({ ...ask, licences: [licence] }).total).toBe(n);
      for (const [author, n] of Object.entries(first.authors))
        expect(model.find({ ...ask, authors: [author] }).total).toBe(n);
      const by = all.map(
        (s) => ({ longest: -s.seconds, shortest: s.seconds, newest: -Date.parse(s.shared), fit: 0 })[ask.order],
      );
      expect(by).toEqual([...by].sort((a, b) => a - b));
    }),
    { numRuns: 200 },
  );
});

test('by likeness the nearest come first', () => {
  const { sounds: nearest } = new Model(sounds).find({ like: vector(20) }, 1, 5);
  expect(nearest[0].id).toBe('s20');
  expect(new Set(nearest.slice(1).map((s) => s.id))).toEqual(new Set(['s19', 's21', 's18', 's22']));
});

test('nobody is let through oftener than the pace, and nobody who keeps to it waits', () => {
  fc.assert(
    fc.property(
      fc.array(fc.integer({ min: 0, max: 900 }), { minLength: 1, maxLength: 80 }),
      fc.integer({ min: 1, max: 9 }),
      fc.integer({ min: 1, max: 5 }),
      (gaps, atOnce, perSecond) => {
        let now = 0;
        const turnstile = new Turnstile({ atOnce, perSecond }, () => now);
        const through: number[] = [];
        for (const gap of gaps) {
          now += gap;
          const wait = turnstile.wait('one');
          if (wait === 0) through.push(now);
          else {
            expect(wait).toBeLessThanOrEqual(1 / perSecond + 1e-9);
            // Whoever waits as long as was said is let through.
            now += wait * 1000 + 1e-6;
            expect(turnstile.wait('one')).toBe(0);
            through.push(now);
          }
          expect(turnstile.wait(`other ${now} ${gap}`)).toBe(0);
        }
        for (const [i, from] of through.entries())
          for (const [k, to] of through.slice(i).entries())
            expect(k + 1).toBeLessThanOrEqual(atOnce + ((to - from) / 1000) * perSecond + 1e-3);
      },
    ),
  );
});

test('over HTTP: what it says of itself, pages, files by ranges, and in words what it does not understand', async () => {
  const base = await commonsAt(plain);
  const client = new Commons(base);
  expect(await client.about()).toMatchObject({ sounds: 47, licences: ['CC BY 4.0', 'CC BY-NC 4.0', 'CC0 1.0'] });
  const page = await client.find({ ...anything, words: ['bell'], licences: ['CC0 1.0'] }, 1, signal);
  expect(page.sounds).toEqual(new Model(sounds).find({ words: ['bell'], licences: ['CC0 1.0'] }).sounds);
  const shares: number[] = [];
  const blob = await client.fetch(sounds[0].original, (share) => shares.push(share), signal);
  expect(new Uint8Array(await blob.arrayBuffer())).toEqual(audio);
  expect(shares.at(-1)).toBe(1);

  const get = (path: string, headers: Record<string, string> = {}) => fetch(base + path, { headers });
  const file = sounds[0].original.href;
  const part = await get(file, { Range: 'bytes=10-19' });
  expect([part.status, part.headers.get('content-range')]).toEqual([206, 'bytes 10-19/5000']);
  expect(new Uint8Array(await part.arrayBuffer())).toEqual(audio.subarray(10, 20));
  expect((await get(file, { Range: 'bytes=9000-' })).status).toBe(416);
  for (const path of ['v1/files/..%2Fsecret', 'v1/files/secret', 'v1/files/%00', 'v1/else', 'v1/files/'])
    expect((await get(path)).status).toBe(404);
  for (const bad of ['page=0', 'page=x', 'size=51', 'shortest=-1', 'order=worst', 'page=1e99'])
    expect((await get(`v1/sounds?${bad}`)).status).toBe(400);
});

test('whoever is asked to wait waits as long, and goes on; for ever nobody does', async () => {
  const waits: number[] = [];
  const client = new Commons(
    await commonsAt({ atOnce: 2, perSecond: 1 }),
    (seconds) => waits.push(seconds),
    (seconds) => new Promise((done) => setTimeout(done, seconds * 1000)),
  );
  for (let i = 0; i < 3; i++) expect((await client.find(anything, 1, signal)).total).toBe(47);
  expect(waits).toEqual([1, 0]);
  const never = await at(express().use((_req, res) => void res.status(429).setHeader('Retry-After', '999').json({})));
  const paused: number[] = [];
  const patient = new Commons(never, told, (seconds) => Promise.resolve(void paused.push(seconds)));
  await expect(patient.find(anything, 1, signal)).rejects.toThrow('asks to wait');
  expect(paused).toEqual([30, 30, 30, 30]);
});

test('a service that lies, breaks off or is gone: each is said in words, and nothing of it is taken', async () => {
  const sum = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
  const app = express();
  app.get('/v1/files/short', (_req, res) => void res.send(Buffer.from(audio.subarray(0, 100))));
  app.get('/v1/files/long', (_req, res) => void res.send(Buffer.concat([audio, audio])));
  app.get('/v1/files/other', (_req, res) => void res.send(Buffer.from(audio.map((b) => b ^ 1))));
  app.get('/v1/files/broken', (_req, res) => {
    res.setHeader('Content-Length', '5000');
    res.write(Buffer.from(audio.subarray(0, 100)));
    setImmediate(() => res.destroy());
  });
  app.get('/v1/about', (_req, res) => void res.json({ service: 'open-sounds', version: 2, news: true }));
  app.get('/v1/sounds', (req, res) => {
    if (req.query.page === '1') return void res.send('<html>a portal');
    if (req.query.page === '2') return void res.json({ total: -1 });
    res.status(500).json({ error: 'It is being mended.' });
  });
  const client = new Commons(await at(app));
  const offered = (href: string) => ({
    href: `v1/files/${href}`,
    size: 5000,
    sha256: sum(audio),
    name: 'A sound.flac',
  });
  for (const href of ['short', 'long', 'other'])
    await expect(client.fetch(offered(href), told, signal)).rejects.toThrow(
      'is not the file that the commons tells of',
    );
  await expect(client.fetch(offered('broken'), told, signal)).rejects.toThrow('broke off');
  await expect(client.fetch(offered('gone'), told, signal)).rejects.toBeInstanceOf(Elsewhere);
  await expect(client.about()).rejects.toThrow('newer version');
  await expect(client.find(anything, 1, signal)).rejects.toThrow('no answer');
  await expect(client.find(anything, 2, signal)).rejects.toThrow('the answer of the commons');
  await expect(client.find(anything, 3, signal)).rejects.toThrow('It is being mended.');
  await expect(new Commons('http://127.0.0.1:9/').find(anything, 1, signal)).rejects.toThrow('cannot be reached');
  const gone = new AbortController();
  gone.abort();
  await expect(client.find(anything, 1, gone.signal)).rejects.toMatchObject({ name: 'AbortError' });
});

test('beside the page’s own server it answers that page alone; one that runs by itself may be asked from the page', async () => {
  const pages = join(top, 'pages');
  const beside = await at(createApp({ pages, roots: [], commons: new CommonsFolder(top) }));
  expect(await (await fetch(`${beside}api/services`)).json()).toEqual({ commons: '/services/commons/' });
  expect((await fetch(`${beside}services/commons/v1/about`)).status).toBe(200);
  const foreign: Record<string, string>[] = [{ Origin: 'http://127.0.0.1:1' }, { 'Sec-Fetch-Site': 'same-site' }];
  for (const headers of foreign)
    expect((await fetch(`${beside}services/commons/v1/about`, { headers })).status).toBe(403);
  expect((await fetch(`${beside}services/commons/v1/about`, { method: 'POST' })).status).toBe(405);
  expect((await fetch(`${beside}services/nothing`)).status).toBe(404);
  const alone = await at(createApp({ pages, roots: [], commons: new URL('http://127.0.0.1:4750/') }));
  expect(await (await fetch(`${alone}api/services`)).json()).toEqual({ commons: 'http://127.0.0.1:4750/' });
  const policy = (await fetch(`${alone}none.js`)).headers.get('content-security-policy');
  expect(policy).toMatch(/connect-src 'self' blob: http:\/\/127\.0\.0\.1:4750(;|$)/);
  const none = await at(createApp({ pages, roots: [] }));
  expect(await (await fetch(`${none}api/services`)).json()).toEqual({});
});
