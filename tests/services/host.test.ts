import { plainShape } from '@core/audio';
import { partsOf, SendFault, type SendHow } from '@core/elsewhere';
import type { HostAction, HostPiece, HostState } from '@core/schemas';
import { HostLink, type HostConnection } from '@platform/elsewhere/host';
import { createApp } from '@server/app';
import { HostFolder, SessionHost } from '@services/host';
import { HostRefused, Session, type SessionForm } from '@services/host/model';
import express from 'express';
import fc from 'fast-check';
import { createHash } from 'node:crypto';
import { mkdtempSync, readdirSync, rmSync, writeFileSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { WebSocket, WebSocketServer } from 'ws';
import { soundOf } from '../helpers/catalogue';

// The session host: what is placed and taken back, who may ask, what becomes of it when it is killed, full or busy.

const top = mkdtempSync(join(tmpdir(), 'cormorant-host-'));
const ends: (() => void)[] = [];
afterEach(() => {
  for (const end of ends.splice(0).reverse()) end();
});
afterAll(() => rmSync(top, { recursive: true, force: true }));

const form: SessionForm = { name: 'Yard', rate: 48_000, bits: 24, fps: '24', startFrame: 86_400, allowed: 1000 };
const SUM = 'a'.repeat(64);
const piece = (own: Partial<HostPiece> = {}): HostPiece => ({
  ...{ lane: 0, at: 0, length: 100, from: 0, frames: 300, file: SUM, name: 'Door', gain: 0, fadeIn: 0, fadeOut: 0 },
  ...own,
});
const withFile = () => {
  const session = new Session(form);
  session.took(SUM, 100);
  return session;
};
let asks = 0;
const act = (session: Session, action: HostAction) => session.act(`ask ${asks++}`, action, 'me', 0);

test('whatever is done, taking all of it back leaves the session as it was, and an ask that comes twice is done once', () => {
  const item = fc.nat(5);
  const action: fc.Arbitrary<HostAction> = fc.oneof(
    fc.record({
      do: fc.constant('place' as const),
      label: fc.constant('P'),
      pieces: fc.array(
        fc.record({ lane: fc.nat(6), at: fc.nat(900) }).map((p) => piece(p)),
        { minLength: 1, maxLength: 3 },
      ),
    }),
    fc.record({
      do: fc.constant('trim' as const),
      item,
      at: fc.nat(900),
      from: fc.nat(320),
      length: fc.integer({ min: 1, max: 320 }),
    }),
    fc.record({ do: fc.constant('move' as const), item, at: fc.nat(900), track: fc.integer({ min: 1, max: 6 }) }),
    fc.record({ do: fc.constant('remove' as const), items: fc.array(item, { minLength: 1, maxLength: 2 }) }),
    fc.record({ do: fc.constant('select' as const), track: fc.integer({ min: 1, max: 6 }) }),
  );
  fc.assert(
    fc.property(fc.array(action, { maxLength: 25 }), (actions) => {
      const session = withFile();
      const first = session.state;
      for (const [i, raw] of actions.entries()) {
        // Items by their places, so that most of them are there.
        const ids = session.state.items.map((it) => it.id);
        const at = (n: number) => ids[n % Math.max(1, ids.length)] ?? n;
        const own =
          'item' in raw ? { ...raw, item: at(raw.item) } : 'items' in raw ? { ...raw, items: raw.items.map(at) } : raw;
        const before = JSON.stringify(session.state);
        try {
          const done = session.act(`${i}`, own, 'me', 0);
          const after = JSON.stringify(session.state);
          expect(session.act(`${i}`, own, 'me', 0)).toEqual(done);
          expect(JSON.stringify(session.state)).toBe(after);
        } catch (error) {
          expect(error).toBeInstanceOf(HostRefused);
          expect(JSON.stringify(session.state)).toBe(before);
        }
        for (const { from, length, frames, track } of session.state.items) {
          expect(from + length).toBeLessThanOrEqual(frames);
          expect(session.state.tracks.some((t) => t.id === track)).toBe(true);
        }
      }
      while (session.state.steps.length > 0) act(session, { do: 'undo' });
      expect(session.state.items).toEqual([]);
      // A track that was made and is selected stays.
      const own = session.state.tracks.filter((t) => t.id !== session.state.selected);
      expect(first.tracks).toEqual(expect.arrayContaining(own));
    }),
    { numRuns: 200 },
  );
});

test('what was changed since is not taken back out of turn; what was not, is', () => {
  const session = withFile();
  const a = act(session, { do: 'place', label: 'A', pieces: [piece()] });
  const b = act(session, { do: 'place', label: 'B', pieces: [piece({ lane: 5 })] });
  expect(session.state.tracks).toHaveLength(5);
  act(session, { do: 'move', item: a.items![0], at: 50, track: 2 });
  expect(() => act(session, { do: 'undo', step: a.step! })).toThrow('“A” was changed since');
  act(session, { do: 'undo', step: b.step! });
  expect(session.state.items.map((i) => i.name + i.at)).toEqual(['Door50']);
  expect(session.state.tracks).toHaveLength(4);
  expect(() => act(session, { do: 'undo', step: b.step! })).toThrow('nothing of it to take back');
});

test('full, busy, and pieces that lie: refused in words, and nothing is changed', () => {
  const session = withFile();
  const refused = (action: HostAction, why: string) => {
    const before = JSON.stringify(session.state);
    expect(() => act(session, action)).toThrow(expect.objectContaining({ why }) as HostRefused);
    expect(JSON.stringify(session.state)).toBe(before);
  };
  const place = (own: Partial<HostPiece>, tracks?: string[]): HostAction => ({
    do: 'place',
    label: 'P',
    pieces: [piece(), piece(own)],
    ...(tracks ? { tracks } : {}),
  });
  refused(place({ file: 'b'.repeat(64) }), 'gone');
  refused(place({ from: 250 }), 'bad');
  refused(place({ fadeIn: 60, fadeOut: 60 }), 'bad');
  refused(place({ lane: 2 }, ['one', 'two']), 'bad');
  refused({ do: 'range', range: { start: 5, end: 5 } }, 'bad');
  act(session, { do: 'busy', why: 'It asks something.' });
  refused(place({}), 'busy');
  act(session, { do: 'play' });
  act(session, { do: 'busy', why: '' });
  act(session, place({}));
  // A file that something needs is kept, one that nothing needs gives way.
  session.took('c'.repeat(64), 600);
  expect(session.room(800)).toEqual(['c'.repeat(64)]);
  expect(() => session.room(901)).toThrow('It is full');
});

test('its transport runs by its clock, stops where it is, and goes where it is told to', () => {
  const session = new Session(form);
  const at = (now: number, action: HostAction) => session.act(`${now}`, action, 'me', now);
  at(1000, { do: 'locate', at: 4800 });
  at(2000, { do: 'play' });
  expect(session.positionAt(2500)).toBe(4800 + 24_000);
  at(3000, { do: 'locate', at: 96_000 });
  expect(session.positionAt(3250)).toBe(96_000 + 12_000);
  at(4000, { do: 'stop' });
  expect([session.positionAt(9000), session.state.cursor]).toEqual([96_000 + 48_000, 96_000 + 48_000]);
});

const how: SendHow = { together: 'behind', lands: 'start', fit: 'cut', handles: 1, edges: 'kept' };
/** Four seconds at 96 kHz, of which seconds 1 to 3 are meant. */
const sound = (id: number) => ({
  ...soundOf(id, { fxName: `Hum ${id}` }),
  format: { ...soundOf(id, {}).format, rate: 96_000, frames: 384_000, channels: 1 },
  marks: { anchor: 192_000, region: { start: 96_000, end: 288_000 }, shape: { ...plainShape, gain: -6, fadeIn: 0.1 } },
});

test('a sound becomes a piece: its region, with handles, at the rate of the host; a range is filled to the sample', () => {
  const host = { rate: 48_000, cursor: 480_000 };
  const [plain, next] = partsOf([sound(1), sound(2)], how, host);
  expect(plain.piece).toMatchObject({
    at: 480_000,
    length: 96_000,
    from: 48_000,
    frames: 192_000,
    gain: -6,
    fadeIn: 4800,
  });
  expect(plain.part).toEqual({ start: 0, end: 192_000 });
  expect(plain.mono).toBe(true);
  expect(next.piece.at).toBe(480_000 + 96_000);
  const [anchored] = partsOf([sound(1)], { ...how, lands: 'anchor' }, host);
  expect(anchored.piece.at).toBe(480_000 - 48_000);
  const lanes = partsOf([sound(1), sound(2)], { ...how, together: 'tracks' }, host);
  expect(lanes.map(({ piece: { at, lane } }) => [at, lane])).toEqual([
    [480_000, 0],
    [480_000, 1],
  ]);
  const [whole] = partsOf([sound(1)], { ...how, edges: 'rendered' }, host);
  expect(whole.piece).toMatchObject({ from: 0, length: 96_000, frames: 96_000, gain: 0, fadeIn: 0 });
  for (const fit of ['cut', 'repeated', 'stretched'] as const)
    for (const length of [30_000, 96_000, 500_001])
      for (const edges of ['kept', 'rendered'] as const) {
        const range = { start: 1000, end: 1000 + length };
        const [{ piece: filled, part, cues }] = partsOf([sound(1)], { ...how, fit, edges }, { ...host, range });
        const wanted = fit === 'cut' ? Math.min(length, 96_000) : length;
        expect({ fit, edges, length: filled.length, at: filled.at }).toEqual({ fit, edges, length: wanted, at: 1000 });
        expect(filled.from + filled.length).toBeLessThanOrEqual(filled.frames);
        expect(part.end).toBe(filled.frames);
        if (fit === 'repeated' && length > 96_000) expect(cues.length).toBeGreaterThan(5);
      }
  expect(() =>
    partsOf([sound(1)], { ...how, fit: 'stretched' }, { ...host, range: { start: 0, end: 96_000 * 9 } }),
  ).toThrow(SendFault);
});

/** A service that runs, as a page would meet it. */
async function running(
  folder: string,
  own: Partial<SessionForm> = {},
): Promise<{ base: string; server: Server; host: SessionHost }> {
  const host = new SessionHost(new HostFolder(folder), { form: own });
  const app = express().use('/host', host.router);
  const server = await new Promise<Server>((done) => {
    const made = app.listen(0, '127.0.0.1', () => done(made));
  });
  server.on('upgrade', (req, socket, head) => host.upgrade(req, socket, head));
  ends.push(() => {
    host.close();
    server.close();
    server.closeAllConnections();
  });
  return { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}/host/`, server, host };
}
/** A client of it, and what it hears. */
function client(base: string) {
  const heard = { state: undefined as HostState | undefined, connection: [] as HostConnection[] };
  const link = new HostLink(
    base,
    'Tests',
    {
      connection: (now) => heard.connection.push(now),
      state: (now) => {
        link.rate = now.rate;
        heard.state = now;
      },
      transport: () => undefined,
      wanted: () => undefined,
    },
    (url) => new WebSocket(url) as never,
  );
  link.connect();
  ends.push(() => link.close());
  return { link, heard };
}
const until = async (holds: () => boolean) => {
  while (!holds()) await new Promise((go) => setImmediate(go));
};

test('files go there once, what is placed is on the disk when it is answered, and a host that was killed knows it', async () => {
  const folder = join(top, 'kept');
  const first = await running(folder);
  const { link, heard } = client(first.base);
  const file = new Blob([new Uint8Array(5000).fill(7)]);
  const sum = await link.send(file);
  expect(await link.send(file)).toBe(sum);
  expect(readdirSync(join(folder, 'audio'))).toEqual([sum]);
  const done = await link.act({ do: 'place', label: 'Door', pieces: [piece({ file: sum })] });
  expect(done.said).toBe('1 item on Track 1.');
  await until(() => heard.state?.items.length === 1);
  // As another process would find it, without any good-bye.
  const again = new Session(form, new HostFolder(folder).kept);
  expect(again.state.items).toEqual(heard.state!.items);
  expect(again.has(sum)).toBe(true);
  await link.act({ do: 'undo', step: done.step! });
  await until(() => heard.state?.items.length === 0);
});

test('an ask whose answer was lost is asked again when the host is back, and done once', async () => {
  const folder = join(top, 'lost');
  const first = await running(folder);
  const { link, heard } = client(first.base);
  const sum = await link.send(new Blob(['x']));
  // The connection breaks as soon as the ask is through.
  const told: string[] = [];
  const asked = link.act({ do: 'place', label: 'Bell', pieces: [piece({ file: sum })] }, (why) => told.push(why));
  await until(() => readdirSync(folder).includes('session.json'));
  first.host.close();
  ends.shift()!();
  const port = Number(new URL(first.base).port);
  const host = new SessionHost(new HostFolder(folder), {});
  const app = express().use('/host', host.router);
  const server = app.listen(port, '127.0.0.1');
  server.on('upgrade', (req, socket, head) => host.upgrade(req, socket, head));
  ends.push(() => {
    host.close();
    server.close();
    server.closeAllConnections();
  });
  expect((await asked).said).toBe('1 item on Track 1.');
  await until(() => heard.state?.items.length === 1);
  await link.act({ do: 'locate', at: 48_000 });
  await until(() => heard.state?.cursor === 48_000);
  expect(heard.state!.items).toHaveLength(1);
});

test('one that is busy is asked again until it is not; one that is full says so', async () => {
  const { base } = await running(join(top, 'busy'), { allowed: 100 });
  const { link, heard } = client(base);
  const sum = await link.send(new Blob(['y'.repeat(60)]));
  await link.act({ do: 'busy', why: 'It asks something.' });
  const told: string[] = [];
  const asked = link.act({ do: 'place', label: 'Bell', pieces: [piece({ file: sum })] }, (why) => told.push(why));
  await until(() => told.some((t) => t.includes('It is busy')));
  await link.act({ do: 'busy', why: '' });
  await asked;
  await until(() => heard.state?.items.length === 1);
  await expect(link.send(new Blob(['z'.repeat(60)]))).rejects.toThrow('It is full');
  expect(heard.state!.used).toBe(60);
});

test('uploads that lie, messages that are none, floods and strangers get nowhere', async () => {
  const folder = join(top, 'lies');
  const { base } = await running(folder);
  const post = (sum: string, body: string) => fetch(`${base}v1/audio/${sum}`, { method: 'POST', body });
  const right = createHash('sha256').update('abc').digest('hex');
  expect((await post(SUM, 'abc')).status).toBe(400);
  expect((await post('../session.json', 'abc')).status).toBe(404);
  expect((await post('..%2F..%2Fx', 'abc')).status).toBe(400);
  expect((await post(right, '')).status).toBe(400);
  expect(readdirSync(join(folder, 'audio'))).toEqual([]);
  expect((await post(right, 'abc')).status).toBe(200);
  expect((await fetch(`${base}v1/audio/${right}`)).headers.get('content-type')).toBe('audio/wav');
  const closed = (say: (socket: WebSocket) => void) =>
    new Promise<number>((done) => {
      const socket = new WebSocket(`${base.replace('http', 'ws')}v1/session`);
      socket.on('open', () => say(socket));
      socket.on('error', () => undefined);
      socket.on('close', done);
    });
  const lies = [
    'no JSON',
    '{}',
    JSON.stringify({ type: 'do', id: '1', action: { do: 'erase' } }),
    JSON.stringify({ type: 'do', id: '1', action: { do: 'locate', at: 1e12 } }),
    JSON.stringify({
      type: 'do',
      id: '1',
      action: { do: 'place', label: 'x', pieces: [{ ...piece(), file: '../../etc/passwd' }] },
    }),
    JSON.stringify({ type: 'hello', version: 1, name: 'n'.repeat(10_000) }),
  ];
  for (const lie of lies) expect(await closed((s) => s.send(lie))).toBe(1007);
  expect(await closed((s) => s.send('x'.repeat(5 << 20)))).toBe(1009);
  expect(
    await closed((s) => {
      for (let i = 0; i < 2000; i++) s.send(JSON.stringify({ type: 'ping', sent: i }));
    }),
  ).toBe(1008);
  // It goes on for all others.
  const { link } = client(base);
  expect((await link.act({ do: 'track', name: '<b>Yard</b>' })).said).toContain('<b>Yard</b>');
});

test('within the server of the page, only that page gets a socket', async () => {
  const pages = join(top, 'pages');
  writeFileSync(join(mkdtempSync(join(top, 'p')), 'x'), '');
  const app = createApp({ pages, roots: [], host: new HostFolder(join(top, 'own')) });
  const server = await new Promise<Server>((done) => {
    const made = app.listen(0, '127.0.0.1', () => done(made));
  });
  server.on('upgrade', app.upgrade);
  ends.push(() => {
    server.close();
    server.closeAllConnections();
  });
  const { port } = server.address() as AddressInfo;
  const met = (path: string, origin?: string, host = `127.0.0.1:${port}`) =>
    new Promise<boolean>((done) => {
      const socket = new WebSocket(`ws://127.0.0.1:${port}${path}`, {
        ...(origin ? { origin } : {}),
        headers: { host },
      });
      socket.on('message', () => (done(true), socket.terminate()));
      socket.on('error', () => done(false));
    });
  const own = `http://127.0.0.1:${port}`;
  expect(await met('/services/host/v1/session', own)).toBe(true);
  expect(await met('/services/host/v1/session')).toBe(false);
  expect(await met('/services/host/v1/session', 'http://127.0.0.1:1')).toBe(false);
  expect(await met('/services/host/v1/session', 'http://evil.test', 'evil.test')).toBe(false);
  expect(await met('/services/host/v1/other', own)).toBe(false);
});

test('a service of a newer version is told, and not asked on', async () => {
  const server = new WebSocketServer({ port: 0, host: '127.0.0.1' });
  await new Promise((go) => server.on('listening', go));
  ends.push(() => server.close());
  server.on('connection', (s) => s.send(JSON.stringify({ type: 'state', version: 2, state: {} })));
  const { heard } = client(`http://127.0.0.1:${(server.address() as AddressInfo).port}/`);
  await until(() => heard.connection.includes('newer'));
});
