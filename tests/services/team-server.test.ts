import { allows, measuredText } from '@core/elsewhere';
import { teamRights, type TeamChanges, type TeamRight } from '@core/schemas';
import { Team, TeamFolder } from '@services/team';
import express from 'express';
import { appendFileSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync, truncateSync } from 'node:fs';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { factsOf } from '../helpers/catalogue';
import { sumOf, teamSound as sound } from '../helpers/team';

// A team's server: who may do what by which address, what is kept when it is killed, and what lies get.

const top = mkdtempSync(join(tmpdir(), 'cormorant-team-'));
const servers: Server[] = [];
afterAll(() => {
  for (const server of servers) {
    server.close();
    server.closeAllConnections();
  }
  rmSync(top, { recursive: true, force: true });
});

interface Reply<T> {
  status: number;
  body: T;
  headers: Headers;
}
/** Somebody at the door of a team. */
class Visitor {
  cookie = '';
  constructor(private readonly base: string) {}

  async ask<T = Record<string, never>>(path: string, body?: unknown, init: RequestInit = {}): Promise<Reply<T>> {
    const raw = body instanceof Uint8Array;
    const response = await fetch(this.base + path, {
      ...(body === undefined ? {} : { method: 'POST', body: raw ? (body as BodyInit) : JSON.stringify(body) }),
      ...init,
      headers: {
        ...(this.cookie ? { Cookie: this.cookie } : {}),
        ...(body === undefined || raw ? {} : { 'Content-Type': 'application/json' }),
        ...init.headers,
      },
    });
    const [cookie] = response.headers.getSetCookie();
    if (cookie) this.cookie = cookie.split(';')[0];
    const text = await response.text();
    return {
      status: response.status,
      headers: response.headers,
      body: (text.startsWith('{') || text.startsWith('[') ? JSON.parse(text) : text) as T,
    };
  }

  /** Sends a file, part by part. */
  async send(library: number, content: string): Promise<void> {
    const [file, bytes] = [sumOf(content), new TextEncoder().encode(content)];
    const { body } = await this.ask<{ at: number }>(`v1/libraries/${library}/files`, {
      sha256: file,
      size: bytes.length,
    });
    for (let { at } = body; at < bytes.length;) {
      const part = bytes.subarray(at, at + Math.ceil(bytes.length / 2));
      const reply = await this.ask<{ at: number }>(
        `v1/libraries/${library}/files/${file}?at=${at}&size=${bytes.length}`,
        part,
      );
      expect(reply.status).toBe(200);
      ({ at } = reply.body);
    }
  }
}
async function opened(folder: string): Promise<{ base: string; invitation: string; server: Server }> {
  let invitation = '';
  const team = new Team(new TeamFolder(folder), { invite: (token) => (invitation = token) });
  const app = express().use('/team', team.router);
  const server = await new Promise<Server>((done) => {
    const made = app.listen(0, '127.0.0.1', () => done(made));
  });
  servers.push(server);
  return { base: `http://127.0.0.1:${(server.address() as AddressInfo).port}/team/`, invitation, server };
}
const PASSWORD = 'kelp and copper';

test('an authorisation matrix: every address by every right, and by nobody', async () => {
  const folder = join(top, 'matrix');
  const { base, invitation } = await opened(folder);
  const owner = new Visitor(base);
  await owner.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  await owner.ask('v1/libraries', { name: 'Yard' });
  await owner.send(1, 'door slam');
  await owner.ask('v1/libraries/1/sounds', { sounds: [sound('Doors/slam.wav', 'door slam')] });
  await owner.ask('v1/lists', { name: 'Reel 1' });
  await owner.ask('v1/lists/1', { add: [{ library: 1, sound: 1 }] });
  const grants = (right: TeamRight) => (['library', 'list'] as const).map((of) => ({ of, id: 1, right }));
  const people = new Map<string, Visitor>([['nobody', new Visitor(base)]]);
  for (const right of [undefined, ...teamRights]) {
    const invited = await owner.ask<{ invitation: string }>('v1/invitations', {
      grants: right ? grants(right) : [],
      owner: false,
    });
    const visitor = new Visitor(base);
    const name = `With ${right ?? 'none'}`;
    expect((await visitor.ask('v1/join', { ...invited.body, name, password: PASSWORD })).status).toBe(200);
    people.set(right ?? 'none', visitor);
  }
  const fresh = 'a sound that is new';
  const upload = `files/${sumOf(fresh)}?at=0&size=${fresh.length}`;
  const edit = (n: string) => ({ edits: [{ id: 1, was: {}, is: { notes: n } }] });
  const measured = measuredText(2, { frames: 9, span: 3, pairs: new Int8Array(6) }, factsOf(1));
  const routes: [string, TeamRight, (who: string) => unknown][] = [
    ['v1/libraries/1/changes?since=0', 'hear', () => undefined],
    ['v1/libraries/1/deeds', 'hear', () => undefined],
    ['v1/libraries/1/audio/1', 'fetch', () => undefined],
    ['v1/libraries/1/at/Doors/slam.wav', 'fetch', () => undefined],
    ['v1/libraries/1/measured', 'hear', () => ({ sounds: [1, 99] })],
    ['v1/libraries/1/facts', 'add', () => ({ facts: [{ file: sumOf('door slam'), measured }] })],
    ['v1/libraries/1/files', 'add', () => ({ sha256: sumOf(fresh), size: fresh.length })],
    [`v1/libraries/1/${upload}`, 'add', () => new TextEncoder().encode(fresh)],
    ['v1/libraries/1/sounds', 'add', (who) => ({ sounds: [sound(`Doors/${who}.wav`, 'door slam')] })],
    ['v1/libraries/1/edits', 'add', edit],
    ['v1/libraries/1/remove', 'administer', () => ({ sounds: [99] })],
    ['v1/libraries/1/people', 'administer', () => undefined],
    ['v1/libraries/1/people', 'administer', () => ({ person: 'With none', right: null })],
    ['v1/lists/1/sounds', 'hear', () => undefined],
    ['v1/lists/1/measured', 'hear', () => ({ library: 1, sounds: [1, 99] })],
    ['v1/lists/1/audio/1/1', 'fetch', () => undefined],
    ['v1/lists/1/at/1/Doors/slam.wav', 'fetch', () => undefined],
    ['v1/lists/1', 'add', () => ({ notes: [] })],
    ['v1/lists/1/people', 'administer', () => undefined],
  ];
  for (const [path, needed, body] of routes)
    for (const [who, visitor] of people) {
      const { status, body: said } = await visitor.ask(path, body(who));
      const right = teamRights.find((r) => r === who);
      const wanted = who === 'nobody' ? 401 : right === undefined ? 404 : allows(right, needed) ? 200 : 403;
      expect({ path, who, status }).toEqual({ path, who, status: wanted });
      // What one may not see is as what is not there, to the letter.
      if (wanted === 404)
        expect(said).toEqual((await visitor.ask(path.replace(/\/1(?=[/?]|$)/, '/77'), body(who))).body);
    }
  // By a path that leads elsewhere there is nothing, nor of a file that is not in the library.
  const adder = people.get('add')!;
  for (const path of ['Doors/../../people.json', '..%2f..%2fpeople.json', 'Doors', '', 'Doors/slam.wav/'])
    expect((await adder.ask(`v1/libraries/1/at/${path}`)).status).toBe(404);
  const foreign = { facts: [{ file: sumOf('not here'), measured }] };
  expect((await adder.ask('v1/libraries/1/facts', foreign)).status).toBe(404);
  // What was measured first stays: nobody changes what others compare by.
  const other = { ...measured, pairs: 'AAAA' };
  expect(
    (await adder.ask('v1/libraries/1/facts', { facts: [{ file: sumOf('door slam'), measured: other }] })).status,
  ).toBe(200);
  // By the list, of its members alone.
  expect((await adder.ask('v1/lists/1/measured', { library: 1, sounds: [1, 2] })).body).toEqual({
    measured: [{ id: 1, measured }],
  });
  expect((await adder.ask('v1/libraries/1/measured', { sounds: [1] })).body).toEqual({
    measured: [{ id: 1, measured }],
  });
  // One who may hear asks for parts, as a player does.
  const part = await people.get('hear')!.ask('v1/libraries/1/audio/1', undefined, { headers: { Range: 'bytes=0-3' } });
  expect([part.status, part.body, part.headers.get('content-type')]).toEqual([206, 'door', 'application/octet-stream']);
  expect(
    (await people.get('hear')!.ask('v1/libraries/1/audio/1', undefined, { headers: { Range: 'bytes=0-' } })).status,
  ).toBe(403);
  for (const right of [...teamRights, 'none']) {
    const seen = await people.get(right)!.ask<unknown[]>('v1/libraries');
    expect(seen.body).toHaveLength(right === 'none' ? 0 : 1);
    if (right !== 'none') expect((await people.get(right)!.ask('v1/libraries', { name: 'Own' })).status).toBe(403);
  }
  // Forged and stale cookies are nobody's; one who left is out.
  const forged = new Visitor(base);
  for (const cookie of ['cormorant-team=1', 'cormorant-team=', `cormorant-team=${'A'.repeat(32)}`, '=;;=']) {
    forged.cookie = cookie;
    expect((await forged.ask('v1/libraries')).status).toBe(401);
  }
  const leaving = people.get('add')!;
  const { cookie } = leaving;
  await leaving.ask('v1/leave', {});
  leaving.cookie = cookie;
  expect((await leaving.ask('v1/me')).status).toBe(401);
});

test('that a file is here is told to nobody who may not hear it; a list shows its members and nothing else', async () => {
  const { base, invitation } = await opened(join(top, 'oracle'));
  const owner = new Visitor(base);
  const joined = await owner.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  expect(joined.headers.getSetCookie()[0]).toMatch(/HttpOnly; SameSite=Strict/);
  for (const name of ['Secret', 'Shared']) await owner.ask('v1/libraries', { name });
  for (const content of ['hush hush', 'in the open']) await owner.send(1, content);
  await owner.ask('v1/libraries/1/sounds', { sounds: [sound('a.wav', 'hush hush'), sound('b.wav', 'in the open')] });
  await owner.ask('v1/lists', { name: 'For Ivo' });
  await owner.ask('v1/lists/1', { add: [{ library: 1, sound: 2 }] });
  const grants = [
    { of: 'library', id: 2, right: 'add' },
    { of: 'list', id: 1, right: 'administer' },
  ];
  const invited = await owner.ask<{ invitation: string }>('v1/invitations', { grants, owner: false });
  const ivo = new Visitor(base);
  await ivo.ask('v1/join', { ...invited.body, name: 'Ivo', password: PASSWORD });
  const asked = { sha256: sumOf('hush hush'), size: 9 };
  expect((await owner.ask('v1/libraries/2/files', asked)).body).toEqual({ at: 9 });
  expect((await ivo.ask('v1/libraries/2/files', asked)).body).toEqual({ at: 0 });
  expect((await ivo.ask('v1/libraries/2/sounds', { sounds: [sound('mine.wav', 'hush hush')] })).status).toBe(409);
  const shared = await ivo.ask<{ row: { path: string } }[]>('v1/lists/1/sounds');
  expect(shared.body.map((s) => s.row.path)).toEqual(['b.wav']);
  expect((await ivo.ask('v1/lists/1/audio/1/2')).body).toBe('in the open');
  expect((await ivo.ask('v1/lists/1/audio/1/1')).status).toBe(404);
  // Nor may it be put into the list by one who may not hear it.
  expect((await ivo.ask('v1/lists/1', { add: [{ library: 1, sound: 1 }] })).status).toBe(404);
});

test('two people edit one sound and one list: both are kept, and where they differ it is told', async () => {
  const { base, invitation } = await opened(join(top, 'two'));
  const maren = new Visitor(base);
  await maren.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  await maren.ask('v1/libraries', { name: 'Yard' });
  await maren.send(1, 'x');
  await maren.ask('v1/libraries/1/sounds', {
    sounds: [sound('x.wav', 'x', { fields: { fxName: 'X', keywords: ['old'] } })],
  });
  const invited = await maren.ask<{ invitation: string }>('v1/invitations', {
    grants: [{ of: 'library', id: 1, right: 'add' }],
    owner: false,
  });
  const ivo = new Visitor(base);
  await ivo.ask('v1/join', { ...invited.body, name: 'Ivo', password: PASSWORD });
  const events = await fetch(`${base}v1/events`, { headers: { Cookie: maren.cookie } });
  const reader = events.body!.getReader();
  const edits = (is: object) => ({ edits: [{ id: 1, was: { fxName: 'X', keywords: ['old'] }, is }] });
  await ivo.ask('v1/libraries/1/edits', edits({ fxName: 'Gate', keywords: ['old', 'gate'] }));
  const late = await maren.ask<{ conflicts: object[] }>(
    'v1/libraries/1/edits',
    edits({ fxName: 'Door', keywords: ['iron'] }),
  );
  expect(late.body.conflicts).toEqual([{ id: 1, key: 'fxName', was: 'X', theirs: 'Gate', mine: 'Door' }]);
  const { body } = await maren.ask<TeamChanges>('v1/libraries/1/changes?since=0');
  expect(body.changed.map((r) => [r.fields.fxName, r.fields.keywords, r.by])).toEqual([
    ['Gate', ['gate', 'iron'], 'Maren'],
  ]);
  let heard = '';
  while (!heard.includes('"revision":3')) heard += new TextDecoder().decode((await reader.read()).value);
  await reader.cancel();
  // A right that is taken away is told to whoever had it, and nothing of the library is from then on.
  const own = await fetch(`${base}v1/events`, { headers: { Cookie: ivo.cookie } });
  const his = own.body!.getReader();
  await maren.ask('v1/libraries/1/people', { person: 'Ivo', right: null });
  heard = '';
  while (!heard.includes('data:')) heard += new TextDecoder().decode((await his.read()).value);
  expect(heard).toContain('{"of":"library","id":1,"revision":0}');
  await maren.ask('v1/libraries/1/edits', { edits: [{ id: 1, was: {}, is: { notes: 'unheard' } }] });
  await maren.ask('v1/libraries/1/people', { person: 'Ivo', right: 'hear' });
  heard = '';
  while (!heard.includes('data:')) heard += new TextDecoder().decode((await his.read()).value);
  expect(heard.trim()).toBe('data: {"of":"library","id":1,"revision":0}');
  await his.cancel();
  const deeds = await maren.ask<{ by: string; what: string }[]>('v1/libraries/1/deeds');
  expect(deeds.body.map((d) => `${d.by}: ${d.what}`)).toEqual([
    'Maren: Edit 1 sound',
    'Maren: Edit 1 sound',
    'Ivo: Edit 1 sound',
    'Maren: Add 1 sound',
  ]);
});

test('an upload is gone on with after a break; what lies about its sum, length or place is refused, and nothing of it stays', async () => {
  const folder = join(top, 'uploads');
  const { base, invitation } = await opened(folder);
  const maren = new Visitor(base);
  await maren.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  await maren.ask('v1/libraries', { name: 'Yard' });
  const content = 'half of it, and the other half';
  const sum = sumOf(content);
  const bytes = new TextEncoder().encode(content);
  const put = (at: number, part: Uint8Array, of = sum, size = bytes.length) =>
    maren.ask<{ at?: number; error?: string }>(`v1/libraries/1/files/${of}?at=${at}&size=${size}`, part);
  expect((await put(0, bytes.subarray(0, 10))).body).toEqual({ at: 10 });
  // Another visit finds out how far it got.
  expect((await maren.ask('v1/libraries/1/files', { sha256: sum, size: bytes.length })).body).toEqual({ at: 10 });
  expect((await put(0, bytes)).body.error).toContain('goes on from byte 10');
  expect((await maren.ask('v1/libraries/1/sounds', { sounds: [sound('a.wav', content)] })).status).toBe(409);
  expect((await put(10, bytes.subarray(10))).body).toEqual({ at: bytes.length });
  expect((await put(0, new TextEncoder().encode('abc'), sumOf('other'), 3)).body.error).toContain(
    'not what its sum says',
  );
  expect((await put(0, bytes, sumOf('abc'), 3)).body.error).toContain('More comes in');
  expect((await put(0, bytes, '..%2f..%2fpeople.json')).status).toBe(400);
  expect(readdirSync(join(folder, 'files'))).toEqual([sum]);
  expect(readdirSync(join(folder, 'uploads')).filter((n) => n.endsWith('.part'))).toEqual([]);
  for (const path of ['../x.wav', '/x.wav', 'a//b.wav', 'a/../../b', '.hidden', 'a/', 'C:\\x', 'x\u0000.wav', ''])
    expect({
      path,
      status: (await maren.ask('v1/libraries/1/sounds', { sounds: [sound(path, content)] })).status,
    }).toEqual({ path, status: 400 });
  for (const body of [
    '{',
    '[]',
    '{"sounds":[]}',
    JSON.stringify({ sounds: [{ ...sound('a.wav', content), evil: 1 }] }),
  ])
    expect(
      (
        await maren.ask('v1/libraries/1/sounds', undefined, {
          method: 'POST',
          body,
          headers: { 'Content-Type': 'application/json' },
        })
      ).status,
    ).toBe(400);
  const lied = sound('a.wav', content, { size: 7 });
  expect((await maren.ask('v1/libraries/1/sounds', { sounds: [lied] })).status).toBe(409);
  const added = await maren.ask<{ ids: number[] }>('v1/libraries/1/sounds', {
    sounds: [sound('a.wav', content), sound('b.wav', content)],
  });
  expect(added.body.ids).toEqual([1, 2]);
  expect((await maren.ask<{ used: number }[]>('v1/libraries')).body[0].used).toBe(content.length);
  // The same again adds nothing.
  expect(
    (
      await maren.ask<{ ids: number[]; revision: number }>('v1/libraries/1/sounds', {
        sounds: [sound('a.wav', content)],
      })
    ).body,
  ).toEqual({ ids: [1], revision: 1 });
});

test('killed at any byte of its log, it opens with all that was answered', async () => {
  const folder = join(top, 'killed');
  const { base, invitation } = await opened(folder);
  const maren = new Visitor(base);
  await maren.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  await maren.ask('v1/libraries', { name: 'Yard' });
  await maren.send(1, 'x');
  const log = join(folder, 'libraries/1.log');
  const ends: number[] = [0];
  for (let i = 0; i < 6; i++) {
    await maren.ask('v1/libraries/1/sounds', { sounds: [sound(`${i}.wav`, 'x')] });
    ends.push(statSync(log).size);
  }
  const whole = readFileSync(log);
  for (let size = whole.length; size >= 0; size -= 37) {
    truncateSync(log, 0);
    appendFileSync(log, whole.subarray(0, size));
    const library = new TeamFolder(folder).libraries.get(1)!;
    expect(library.sounds).toBe(ends.filter((end) => end > 0 && end <= size).length);
    expect(statSync(log).size).toBe(ends.filter((end) => end <= size).at(-1));
  }
  // It goes on where it was.
  const again = await opened(folder);
  expect(again.invitation).toBe('');
  const back = new Visitor(again.base);
  back.cookie = maren.cookie;
  expect((await back.ask<{ name: string }>('v1/me')).body.name).toBe('Maren');
});

test('few files an hour for one who may not fetch many', async () => {
  const { base, invitation } = await opened(join(top, 'few'));
  const maren = new Visitor(base);
  await maren.ask('v1/join', { invitation, name: 'Maren', password: PASSWORD });
  await maren.ask('v1/libraries', { name: 'Yard' });
  await maren.send(1, 'x');
  await maren.ask('v1/libraries/1/sounds', { sounds: [sound('x.wav', 'x')] });
  const invited = await maren.ask<{ invitation: string }>('v1/invitations', {
    grants: [{ of: 'library', id: 1, right: 'fetch' }],
    owner: false,
  });
  const ivo = new Visitor(base);
  await ivo.ask('v1/join', { ...invited.body, name: 'Ivo', password: PASSWORD });
  const statuses = [];
  for (let i = 0; i < 22; i++) statuses.push((await ivo.ask('v1/libraries/1/audio/1')).status);
  expect(statuses).toEqual([...Array<number>(20).fill(200), 429, 429]);
  expect(Number((await ivo.ask('v1/libraries/1/audio/1')).headers.get('retry-after'))).toBeGreaterThan(3000);
});
