import { PrintIndex, type Print } from '@core/audio';
import { compared, printFrom, printText, publisherKey, takenFrom, usualChoices, type Choice } from '@core/elsewhere';
import type { PublicKey, PublishAsk } from '@core/schemas';
import { Exchange as Client } from '@platform/elsewhere/exchange';
import { Elsewhere, Service } from '@platform/elsewhere/service';
import { ExchangeFolder, exchangeRouter } from '@services/exchange';
import { Exchange, Refused } from '@services/exchange/model';
import { createApp } from '@server/app';
import express from 'express';
import fc from 'fast-check';
import { createHash, webcrypto } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { artwork } from '@demo/artwork';
import { served } from '../helpers/served';

// The exchange of labels: what is compared, what is kept, who may say what.

const top = mkdtempSync(join(tmpdir(), 'cormorant-exchange-'));
const servers: Server[] = [];
afterAll(() => {
  for (const server of servers) {
    server.close();
    server.closeAllConnections();
  }
  rmSync(top, { recursive: true, force: true });
});

const texts = fc.dictionary(
  fc.constantFrom('fxName', 'description', 'keywords', 'licence', 'notes'),
  fc.constantFrom('', 'a', 'b', 'c'),
);

test('field by field: nothing that somebody wrote is written over unless that is chosen, and what is taken is what they say', () => {
  const choice = fc.constantFrom<Choice>('mine', 'theirs');
  const origins = fc.dictionary(
    fc.constantFrom('fxName', 'description', 'licence'),
    fc.constantFrom('typed' as const, 'name' as const),
  );
  fc.assert(
    fc.property(
      texts,
      texts,
      origins,
      texts,
      fc.dictionary(fc.string(), choice),
      (mine, theirs, from, taken, chosen) => {
        const fields = compared(mine, theirs, from, taken);
        const put = takenFrom(fields, usualChoices, chosen);
        for (const [key, text] of Object.entries(put)) expect(text).toBe(theirs[key]);
        for (const { key, mine: own, theirs: said, state } of fields) {
          expect(key).not.toBe('notes');
          if (state === 'same') expect(own).toBe(said);
          if (state === 'new') expect(own).toBe('');
          if (state === 'corrected') expect([own, own === said]).toEqual([taken[key], false]);
          if (from[key] === 'typed' && own !== '' && own !== taken[key] && chosen[key] !== 'theirs')
            expect(put[key]).toBeUndefined();
        }
        // Looked up again once all was taken, nothing is left to take.
        const after = {
          ...mine,
          ...takenFrom(fields, { new: 'theirs', guessed: 'theirs', corrected: 'theirs', edited: 'theirs' }),
        };
        expect(new Set(compared(after, theirs, from, theirs).map((f) => f.state)).size).toBeLessThanOrEqual(1);
      },
    ),
    { numRuns: 500 },
  );
});

test('what somebody emptied after it was taken stays empty; a correction of what is as it was taken is one', () => {
  const state = (mine: string, theirs: string, taken?: string) =>
    compared({ fxName: mine }, { fxName: theirs }, { fxName: 'typed' }, taken === undefined ? {} : { fxName: taken })[0]
      .state;
  expect(state('', 'Gate')).toBe('new');
  expect(state('', 'Gate', 'Gate')).toBe('edited');
  expect(state('', 'Lock gate', 'Gate')).toBe('new');
  expect(state('Gate', 'Lock gate', 'Gate')).toBe('corrected');
  expect(state('My gate', 'Lock gate', 'Gate')).toBe('edited');
  expect(state('My gate', 'Gate', 'Gate')).toBe('edited');
});

/** Numbers of 32 bit of which those of one seed are no part of those of another. */
const random = (seed: number) => {
  const mixed = (x: number, by: number) => {
    const h = Math.imul((x ^ (x >>> 16) ^ by) >>> 0, 0x85ebca6b);
    return Math.imul(h ^ (h >>> 13), 0xc2b2ae35) ^ (h >>> 16);
  };
  const [a, b] = [mixed(seed, 0x9e3779b9), mixed(seed, 0x7f4a7c15)];
  let i = 0;
  return () => mixed(mixed(++i, a) ^ b, a ^ (b << 1)) >>> 0;
};
/** A print of noise: no two are of the same recording. */
function printOf(seed: number, frames = 90): Print {
  const next = random(seed * 7919 + 1);
  return {
    words: Uint32Array.from({ length: frames }, next),
    under: Uint8Array.from({ length: frames }, () => next() % 40),
  };
}
/** The same, as another coding has it: some bits turned, cut at the head. */
function coded({ words, under }: Print, seed: number, cut: number): Print {
  const next = random(seed + 3);
  const turned = words.map((w) => (next() % 3 === 0 ? (w ^ (1 << (next() % 32))) >>> 0 : w));
  return { words: turned.subarray(cut), under: under.subarray(cut) };
}

test('a print is found among 20,000 in another coding and cut, and none is found for what is not there', () => {
  const prints = Array.from({ length: 20_000 }, (_, i) => printOf(i, 60 + (i % 60)));
  const index = new PrintIndex(prints);
  for (let i = 0; i < 200; i++) {
    const at = (i * 97) % prints.length;
    expect(index.find(coded(prints[at], i, i % 12))).toBe(at);
    expect(index.find(printOf(1_000_000 + i))).toBeUndefined();
  }
});

test('a print comes out of its text as it went in', () => {
  fc.assert(
    fc.property(fc.uint32Array({ maxLength: 300 }), (words) => {
      const under = Uint8Array.from(words, (w) => w & 255);
      expect(printFrom(printText({ words, under }))).toEqual({ words, under });
    }),
  );
});

const hashOf = (n: number) => n.toString(16).padStart(32, '0');
const entryOf = (n: number, labels: Record<string, string>) => ({
  hash: hashOf(n),
  print: printText(printOf(n)),
  labels,
});
const publicKey = (x: string): PublicKey => ({ kty: 'EC', crv: 'P-256', x: x.padEnd(43, 'A'), y: 'B'.repeat(43) });
const askOf = (more: Partial<PublishAsk>): PublishAsk => ({
  ...{
    publisher: 'Sluice Yard',
    key: publicKey('a'),
    after: 0,
    at: '2026-01-02T03:04:05Z',
    note: '',
    entries: [],
    withdrawn: [],
  },
  ...more,
});

test('whatever is published in whatever order, one finds what was said last; since a revision one is told what changed, and no more', () => {
  const step = fc.record({
    say: fc.array(fc.tuple(fc.nat(5), fc.constantFrom('a', 'b', 'c')), { maxLength: 4 }),
    withdraw: fc.array(fc.nat(5), { maxLength: 2 }),
  });
  fc.assert(
    fc.property(fc.array(step, { minLength: 1, maxLength: 8 }), (steps) => {
      const exchange = new Exchange([]);
      const said = new Map<number, { name: string; revision: number }>();
      const gone = new Map<number, number>();
      let revision = 0;
      for (const { say, withdraw } of steps) {
        const taken = new Map(say);
        const own = withdraw.filter((n) => !taken.has(n));
        const entries = [...taken].map(([n, name]) => entryOf(n, { fxName: name }));
        const changes =
          entries.some((e, i) => said.get([...taken][i][0])?.name !== e.labels.fxName) || own.some((n) => said.has(n));
        const publish = () => exchange.publish(askOf({ after: revision, entries, withdrawn: own.map(hashOf) }));
        if (!changes) {
          expect(publish).toThrow(Refused);
          continue;
        }
        exchange.take(publish().kept);
        revision++;
        for (const n of new Set(own)) if (said.delete(n)) gone.set(n, revision);
        for (const [n, name] of taken) {
          if (said.get(n)?.name !== name) said.set(n, { name, revision });
          gone.delete(n);
        }
      }
      if (revision === 0) return;
      const hashes = [0, 1, 2, 3, 4, 5].map(hashOf);
      for (let since = 0; since <= revision; since++) {
        const answer = exchange.lookUp({ publisher: ' sluice  YARD ', hashes, since });
        const expected = [...said]
          .filter(([, s]) => s.revision > since)
          .map(([n, s]) => [hashOf(n), s.name, s.revision]);
        expect(answer.entries.map((e) => [e.hash, e.labels.fxName, e.revision]).sort()).toEqual(expected.sort());
        expect(answer.withdrawn.sort()).toEqual(
          [...gone]
            .filter(([, r]) => r > since)
            .map(([n]) => hashOf(n))
            .sort(),
        );
      }
      expect(exchange.facts('Sluice Yard').sounds).toBe(said.size);
    }),
  );
});

test('a name goes on by the key that began it alone, and from the newest revision', () => {
  const exchange = new Exchange([]);
  exchange.take(exchange.publish(askOf({ entries: [entryOf(1, { fxName: 'Gate' })] })).kept);
  const again = { entries: [entryOf(1, { fxName: 'Other' })] };
  expect(() => exchange.publish(askOf({ ...again, after: 1, key: publicKey('b'), publisher: 'SLUICE YARD' }))).toThrow(
    'somebody else',
  );
  expect(() => exchange.publish(askOf(again))).toThrow('revision 1');
  expect(() => exchange.lookUp({ publisher: 'Tidewrack', hashes: [hashOf(1)] })).toThrow('Nobody publishes');
  expect(exchange.lookUp({ publisher: 'Sluice Yard', hashes: [hashOf(1), hashOf(1), hashOf(2)] }).entries).toHaveLength(
    1,
  );
  const found = exchange.lookNear({
    publisher: 'Sluice Yard',
    prints: [printOf(9), coded(printOf(1), 1, 4)].map(printText),
  });
  expect(found.found.map((f) => [f.at, f.entry.hash])).toEqual([[1, hashOf(1)]]);
  expect(publisherKey('É')).toBe(publisherKey('e\u0301'));
});

async function keyPair() {
  const pair = await webcrypto.subtle.generateKey({ name: 'ECDSA', namedCurve: 'P-256' }, true, ['sign', 'verify']);
  const { x, y } = await webcrypto.subtle.exportKey('jwk', pair.publicKey);
  const sign = async (bytes: Uint8Array) => {
    const made = await webcrypto.subtle.sign({ name: 'ECDSA', hash: 'SHA-256' }, pair.privateKey, bytes);
    return Buffer.from(made).toString('base64url');
  };
  return { key: { kty: 'EC', crv: 'P-256', x: x!, y: y! } as PublicKey, sign };
}

async function at(folder: string) {
  const { server, port } = await served(express().use(exchangeRouter(new ExchangeFolder(folder))));
  servers.push(server);
  const base = `http://127.0.0.1:${port}/`;
  return { base, client: new Client(new Service(base, 'the exchange')) };
}

test('over HTTP: published, found, corrected and taken back; a forged signature, another’s key and a body that was changed are refused', async () => {
  const folder = join(top, 'http');
  const { base, client } = await at(folder);
  const [own, other] = [await keyPair(), await keyPair()];
  expect(await client.publisher('Sluice Yard')).toBeUndefined();
  const first = askOf({ key: own.key, entries: [entryOf(1, { fxName: 'Gate' }), entryOf(2, { fxName: 'Latch' })] });
  const forged: [string, () => Promise<unknown>][] = [
    ['signed by another', () => client.publish(first, other.sign)],
    ['not signed', () => client.publish(first, () => Promise.resolve(''))],
    ['signed for other bytes', () => client.publish(first, (bytes) => own.sign(bytes.slice(1)))],
    ['a point on no curve', () => client.publish({ ...first, key: publicKey('z') }, own.sign)],
  ];
  for (const [, publish] of forged) await expect(publish()).rejects.toThrow('not signed by the key');
  expect(await client.publish(first, own.sign)).toMatchObject({ revision: 1, added: 2 });
  await expect(client.publish({ ...first, after: 1, key: other.key }, other.sign)).rejects.toThrow('somebody else');
  await expect(client.publish(first, own.sign)).rejects.toThrow('revision 1');
  await client.publish(askOf({ key: own.key, after: 1, entries: [entryOf(1, { fxName: 'Lock gate' })] }), own.sign);
  await client.publish(askOf({ key: own.key, after: 2, withdrawn: [hashOf(2)] }), own.sign);
  // What is kept is what a service that starts again tells.
  const again = (await at(folder)).client;
  for (const one of [client, again]) {
    const answer = await one.lookUp('sluice yard', [hashOf(1), hashOf(2)], () => undefined, 1);
    expect(answer).toMatchObject({
      revision: 3,
      withdrawn: [hashOf(2)],
      entries: [{ labels: { fxName: 'Lock gate' }, revision: 2 }],
    });
    expect((await one.publisher('Sluice Yard'))?.publications.map((p) => [p.added, p.changed, p.withdrawn])).toEqual([
      [2, 0, 0],
      [0, 1, 0],
      [0, 0, 1],
    ]);
  }
  const send = (path: string, body: string) =>
    fetch(base + path, { method: 'POST', body, headers: { 'Content-Type': 'application/json' } });
  const bad: [string, string][] = [
    ['v1/lookup', '{'],
    ['v1/lookup', '{"publisher":"x","hashes":["../../etc"]}'],
    ['v1/lookup', `{"publisher":"${'x'.repeat(10_000)}","hashes":[]}`],
    ['v1/near', '{"publisher":"Sluice Yard","prints":[{"words":"zz","under":""}]}'],
    ['v1/publish', JSON.stringify({ ...first, run: 1 })],
    ['v1/publish', ''],
  ];
  for (const [path, body] of bad) expect((await send(path, body)).status).toBe(400);
  expect((await send('v1/lookup', `"${'x'.repeat(9_000_000)}"`)).status).toBe(413);
  expect((await fetch(`${base}v1/publishers/%2e%2e%2fsecret`)).status).toBe(404);
});

test('a picture comes as it was published; one that lies about itself, or was not sent, is refused with all that came with it', async () => {
  const folder = join(top, 'pictures');
  const { base, client } = await at(folder);
  const { key, sign } = await keyPair();
  const png = artwork('Sluice Yard');
  const sumOf = (bytes: Uint8Array) => createHash('sha256').update(bytes).digest('hex');
  const sent = (bytes: Uint8Array) => ({ sha256: sumOf(bytes), data: Buffer.from(bytes).toString('base64') });
  const ref = { sha256: sumOf(png), mime: 'image/png' as const, size: png.length };
  const ask = (own: object, pictures: { sha256: string; data: string }[]) =>
    askOf({ key, entries: [{ ...entryOf(1, { fxName: 'Gate' }), artwork: { ...ref, ...own } }], pictures });
  const page = new TextEncoder().encode('<html><script>alert(1)</script>'.padEnd(200));
  const bad: [string, PublishAsk][] = [
    ['was not sent', ask({}, [])],
    ['another one', ask({}, [{ ...sent(png), data: Buffer.from('not this').toString('base64') }])],
    ['no PNG or JPEG', ask({ sha256: sumOf(page), size: page.length, mime: 'image/jpeg' }, [sent(page)])],
    ['not what is told', ask({ mime: 'image/jpeg' }, [sent(png)])],
    ['not what is told', ask({ size: 9 }, [sent(png)])],
    ['artwork', ask({ size: 1e9 }, [sent(png)])],
    ['artwork', ask({ mime: 'image/svg+xml' }, [sent(png)])],
    ['artwork', ask({ sha256: '../../secret' }, [sent(png)])],
  ];
  for (const [why, one] of bad) await expect(client.publish(one, sign)).rejects.toThrow(why);
  expect(await client.publisher('Sluice Yard')).toBeUndefined();
  expect(readdirSync(join(folder, 'pictures'))).toEqual([]);
  await client.publish(ask({}, [sent(png)]), sign);
  // It was sent, and need not be again.
  const more = { ...entryOf(2, { fxName: 'Latch' }), artwork: ref };
  await client.publish(askOf({ key, after: 1, entries: [more] }), sign);
  for (const one of [client, (await at(folder)).client]) {
    const { entries } = await one.lookUp('Sluice Yard', [hashOf(1), hashOf(2)], () => undefined);
    expect(entries.map((e) => e.artwork)).toEqual([ref, ref]);
    expect(Buffer.from(await (await one.picture(ref)).arrayBuffer()).equals(Buffer.from(png))).toBe(true);
    await expect(one.picture({ ...ref, size: png.length - 1 })).rejects.toThrow('another picture');
  }
  const answer = await fetch(`${base}v1/pictures/${ref.sha256}`);
  expect(['content-type', 'content-disposition', 'x-content-type-options'].map((h) => answer.headers.get(h))).toEqual([
    ...['image/png', 'attachment', 'nosniff'],
  ]);
  // One that is there already is held against what is told of it, too.
  const lie = { ...entryOf(3, { fxName: 'Bolt' }), artwork: { ...ref, size: 9 } };
  await expect(client.publish(askOf({ key, after: 2, entries: [lie] }), sign)).rejects.toThrow('not what is told');
  // Taken back, nobody sees it any more.
  await client.publish(askOf({ key, after: 2, withdrawn: [hashOf(1), hashOf(2)] }), sign);
  await expect(client.picture(ref)).rejects.toThrow('no such picture');
  for (const path of ['..%2f..%2fsecret', 'a'.repeat(64), '']) {
    expect((await fetch(`${base}v1/pictures/${path}`)).status).toBe(404);
  }
});

test('two who publish at once from the same revision: one is kept, the other is told; a file half written at the end is nothing', async () => {
  const folder = join(top, 'at once');
  const { client } = await at(folder);
  const { key, sign } = await keyPair();
  const asks = Array.from({ length: 6 }, (_, i) => askOf({ key, entries: [entryOf(i, { fxName: 'Gate' })] }));
  const outcomes = await Promise.allSettled(asks.map((ask) => client.publish(ask, sign)));
  expect(outcomes.filter((o) => o.status === 'fulfilled')).toHaveLength(1);
  for (const o of outcomes) if (o.status === 'rejected') expect(o.reason).toBeInstanceOf(Elsewhere);
  expect(await client.publisher('Sluice Yard')).toMatchObject({ revision: 1, sounds: 1 });
  writeFileSync(join(folder, 'half.json.new'), '{"publisher":');
  expect(await (await at(folder)).client.publisher('Sluice Yard')).toMatchObject({ revision: 1 });
  expect(readdirSync(folder).filter((n) => n.endsWith('.new'))).toEqual([]);
});

test('beside the page’s own server only that page may publish and look up', async () => {
  const { server, port } = await served(
    createApp({ pages: top, roots: [], exchange: new ExchangeFolder(join(top, 'beside')) }),
  );
  servers.push(server);
  const base = `http://127.0.0.1:${port}`;
  const post = (headers: Record<string, string>) =>
    fetch(`${base}/services/exchange/v1/lookup`, {
      method: 'POST',
      body: JSON.stringify({ publisher: 'x', hashes: [] }),
      headers: { 'Content-Type': 'application/json', ...headers },
    });
  expect((await post({ Origin: base })).status).toBe(404);
  expect((await post({})).status).toBe(405);
  expect((await post({ Origin: 'http://127.0.0.1:1' })).status).toBe(403);
  expect(await (await fetch(`${base}/api/services`)).json()).toEqual({ exchange: '/services/exchange/' });
});
