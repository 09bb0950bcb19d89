import { inverted, memorySource, planLabels, readAudioFile, spliced, writeWav, type Splice } from '@core/files';
import type { WriteRequest } from '@core/schemas';
import { Random } from '@core/synth';
import { createApp } from '@server/app';
import { rootFor } from '@server/roots';
import { FileWriter } from '@server/writing';
import { execFileSync, spawn, spawnSync, type ChildProcess } from 'node:child_process';
import {
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  readdirSync,
  rmSync,
  statSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { join } from 'node:path';
import { served } from '../helpers/served';
import { noise } from '../helpers/signals';
import { bytesIn, expected, writableRoot } from '../helpers/writable';

// Files of a root are written whole or not at all: into the file or beside it, and whoever is killed over it leaves the old one or the new.

const rate = 8000;
const good = writeWav([noise(4000, 0.4, 3)], { rate, bits: 16 }, { info: { INAM: 'Gate' } });
const { top, folder, notes, root, ask, served: server } = writableRoot();
const put = (name: string, bytes: Uint8Array = good) => {
  writeFileSync(join(folder, name), bytes);
  return name;
};
const piecesOf = ({ pieces }: Splice): WriteRequest['pieces'] =>
  pieces.map((p) => ('bytes' in p ? { base64: Buffer.from(p.bytes).toString('base64') } : p));

/** What puts a name into a file, and what takes it back. */
async function requestFor(
  path: string,
  text: string,
): Promise<{ there: WriteRequest; back: Splice; after: Uint8Array }> {
  const source = memorySource(bytesIn(path));
  const plan = (await planLabels(source, { places: new Map([['INFO.INAM', text]]) }, { rate, frames: 4000 }))!;
  const after = spliced(plan.splice, source);
  return {
    there: {
      path: path.slice(folder.length + 1),
      ...(await expected(path)),
      pieces: piecesOf(plan.splice),
      audio: plan.audio,
    },
    back: await inverted(plan.splice, source),
    after: (await after.read(0, after.size)).slice(),
  };
}
/** All bytes of a file as one literal, so that it is written anew. */
const moved = (request: WriteRequest, bytes: Uint8Array): WriteRequest => {
  const head = Buffer.from([...bytes.subarray(0, 12), ...Buffer.from('JUNK'), 4, 0, 0, 0, 1, 2, 3, 4]);
  head.writeUInt32LE(bytes.length - 8 + 12, 4);
  const { audio } = request;
  return {
    ...request,
    pieces: [{ base64: head.toString('base64') }, { from: 12, length: bytes.length - 12 }],
    audio: { ...audio, before: audio.before, after: audio.before + 12 },
  };
};

test('a file is written into where it lies, or anew where something moves; both are read again, and taken back byte for byte', async () => {
  for (const anew of [false, true]) {
    const path = join(folder, put(`into ${anew}.wav`));
    const inode = statSync(path).ino;
    const { there, after } = await requestFor(path, 'Möwe im Wind');
    const request = anew ? moved(there, good) : there;
    const answer = await ask('write', request);
    expect(answer.status).toBe(200);
    expect(await answer.json()).toEqual(await expected(path));
    const written = bytesIn(path);
    expect(statSync(path).ino === inode).toBe(!anew);
    if (!anew) expect(Buffer.compare(written, after)).toBe(0);
    const file = await readAudioFile(memorySource(written));
    expect([file.warnings, file.format.frames]).toEqual([[], 4000]);
    const splice: Splice = {
      before: good.length,
      pieces: request.pieces.map((p) =>
        'base64' in p ? { bytes: new Uint8Array(Buffer.from(p.base64, 'base64')) } : p,
      ),
    };
    const back = await inverted(splice, memorySource(good));
    const { before, after: to, length } = request.audio;
    const taken = await ask('write', {
      ...there,
      ...(await expected(path)),
      pieces: piecesOf(back),
      audio: { before: to, after: before, length },
    });
    expect(taken.status).toBe(200);
    expect(Buffer.compare(bytesIn(path), good)).toBe(0);
  }
  expect(readdirSync(notes)).toEqual([]);
  expect(readdirSync(folder).filter((n) => n.startsWith('.'))).toEqual([]);
});

test('a file that another program changed meanwhile is left alone, and so is one whose audio would not come out the same', async () => {
  const path = join(folder, put('foreign.wav'));
  const { there } = await requestFor(path, 'x');
  writeFileSync(path, Buffer.concat([good, Buffer.from('more')]));
  const changed = bytesIn(path);
  const answer = await ask('write', there);
  expect([answer.status, ((await answer.json()) as { error: string }).error]).toEqual([
    409,
    expect.stringContaining('changed by another program'),
  ]);
  expect(Buffer.compare(bytesIn(path), changed)).toBe(0);
  for (const anew of [false, true]) {
    put('foreign.wav');
    const fresh = (await requestFor(path, 'y')).there;
    const request = anew ? moved(fresh, good) : fresh;
    const wrong = { ...request, audio: { ...request.audio, before: request.audio.before - 4 } };
    expect((await ask('write', wrong)).status).toBe(409);
    expect(Buffer.compare(bytesIn(path), good)).toBe(0);
  }
  expect(readdirSync(notes)).toEqual([]);
});

test('nothing is written outside of a root, into one that is served for reading, or by what is no such request', async () => {
  writeFileSync(join(top, 'outside.wav'), good);
  symlinkSync(join(top, 'outside.wav'), join(folder, 'leads out.wav'));
  const { there } = await requestFor(join(folder, put('inside.wav')), 'z');
  const outside = { ...there, ...(await expected(join(top, 'outside.wav'))) };
  for (const path of ['../outside.wav', 'leads out.wav', 'a/../../outside.wav', '/etc/passwd', 'none.wav', ''])
    expect([path, (await ask('write', { ...outside, path })).status]).toEqual([path, path === '' ? 400 : 404]);
  expect(Buffer.compare(bytesIn(join(top, 'outside.wav')), good)).toBe(0);
  for (const name of ['../x.wav', 'a/b.wav', '.hidden', 'x\0.wav'])
    expect([
      name,
      (await ask('rename', { ...(await expected(join(folder, 'inside.wav'))), path: 'inside.wav', name })).status,
    ]).toEqual([name, 409]);
  const reading = await served(
    createApp({ pages: top, roots: [{ ...root, writes: false }], writer: new FileWriter(notes) }),
  );
  const at = `http://127.0.0.1:${reading.port}`;
  for (const what of ['write', 'rename']) expect((await ask(what, there, at)).status).toBe(405);
  reading.server.close();
  reading.server.closeAllConnections();
  expect((await ask('write', { ...there, pieces: [{ from: -1, length: 4 }] })).status).toBe(400);
  const far = [{ from: 0, length: 1e12 }];
  expect((await ask('write', { ...there, pieces: far, audio: { before: 0, after: 0, length: 1e12 } })).status).toBe(
    409,
  );
  const stranger = await fetch(`${server.base}/api/roots/${root.id}/write`, {
    method: 'POST',
    headers: { Origin: 'http://evil.test' },
    body: '{}',
  });
  expect(stranger.status).toBe(403);
});

test('a name is changed in its folder, in its case alone too, and never to one that another file has', async () => {
  const path = join(folder, put('old name.wav'));
  put('taken.wav', new Uint8Array([1]));
  const request = async (name: string, from = 'old name.wav') => ({
    ...(await expected(join(folder, from))),
    path: from,
    name,
  });
  expect((await ask('rename', await request('taken.wav'))).status).toBe(409);
  expect(bytesIn(join(folder, 'taken.wav'))).toEqual(new Uint8Array([1]));
  const done = await ask('rename', await request('Möwe 海.wav'));
  expect([done.status, existsSync(path), existsSync(join(folder, 'Möwe 海.wav'))]).toEqual([200, false, true]);
  expect((await ask('rename', await request('MÖWE 海.wav', 'Möwe 海.wav'))).status).toBe(200);
  expect((await ask('rename', await request(`${'x'.repeat(254)}.wav`.slice(0, 255), 'MÖWE 海.wav'))).status).toBe(200);
  linkSync(join(folder, 'taken.wav'), join(folder, 'again.wav'));
  symlinkSync(join(folder, 'taken.wav'), join(folder, 'link.wav'));
  expect((await ask('rename', await request('other.wav', 'link.wav'))).status).toBe(409);
});

const asRoot = process.getuid?.() === 0;
(asRoot ? test.skip : test)(
  'a file that may only be read stays as it is, and says so (root may write everything)',
  async () => {
    const path = join(folder, put('reading.wav'));
    const { there } = await requestFor(path, 'x');
    chmodSync(path, 0o444);
    const answer = await ask('write', there);
    expect([answer.status, ((await answer.json()) as { error: string }).error]).toEqual([
      404,
      expect.stringContaining('for reading only'),
    ]);
  },
);

test('on a full disk a file stays as it was, however it is written, and the next one that fits is written', async () => {
  const disk = join(top, 'small');
  mkdirSync(disk);
  if (spawnSync('mount', ['-t', 'tmpfs', '-o', 'size=600k', 'tmpfs', disk]).status !== 0) {
    console.log('skipped: a small file system may not be mounted here');
    return;
  }
  try {
    const place = join(disk, 'a.wav');
    writeFileSync(place, writeWav([noise(200_000, 0.4, 7)], { rate, bits: 16 }));
    const before = bytesIn(place);
    const writer = new FileWriter(notes);
    const small = { ...rootFor(disk), writes: true };
    const inPlace = async (text: string) => {
      const request = (await requestFor(place, text)).there;
      return { ...request, path: 'a.wav' };
    };
    for (const request of [await inPlace('x'.repeat(300_000)), moved(await inPlace('y'), before)]) {
      await expect(writer.write(small, request)).rejects.toThrow('the disk is full; the file is as it was');
      expect(Buffer.compare(bytesIn(place), before)).toBe(0);
      expect([readdirSync(disk), readdirSync(notes)]).toEqual([['a.wav'], []]);
    }
    await writer.write(small, await inPlace('z'));
    expect((await readAudioFile(memorySource(bytesIn(place)))).labels.get('INFO.INAM')).toBe('z');
  } finally {
    execFileSync('umount', ['-l', disk]);
  }
});

test('what breaking off left is put back by the next start, and by nobody who finds the file changed since, or its writer at work', async () => {
  const place = join(folder, put('torn.wav'));
  const { there, after } = await requestFor(place, 'A torn name '.repeat(9));
  const inBase64 = (bytes: Uint8Array) => Buffer.from(bytes).toString('base64');
  let at = 0;
  const blocks = there.pieces.flatMap((piece) => {
    const offset = at;
    at += 'base64' in piece ? Buffer.from(piece.base64, 'base64').length : piece.length;
    return 'base64' in piece ? [{ offset, old: inBase64(good.subarray(offset, at)), fresh: piece.base64 }] : [];
  });
  const note = {
    pid: process.ppid,
    path: place,
    patched: { size: good.length, modified: there.modified, after: after.length, blocks },
  };
  const kept = join(notes, 'note.json');
  const recovered = async (made: object, bytes: Uint8Array) => {
    writeFileSync(place, bytes);
    writeFileSync(kept, JSON.stringify({ ...note, ...made }));
    const faults = await new FileWriter(notes).recover();
    return { faults: faults.length, there: existsSync(kept), old: Buffer.compare(bytesIn(place), good) === 0 };
  };
  const gone = { born: 'another start of the machine' };
  const torn = after.slice(0, good.length + 9);
  for (const bytes of [good, torn, after])
    expect(await recovered(gone, bytes)).toEqual({ faults: 0, there: false, old: true });
  // Its number is this process's by now.
  expect(await recovered({ pid: process.pid }, after)).toEqual({ faults: 0, there: false, old: true });
  const foreign = after.slice();
  foreign[foreign.length - 3] ^= 0x55;
  expect(await recovered(gone, foreign)).toEqual({ faults: 1, there: false, old: false });
  expect(Buffer.compare(bytesIn(place), foreign)).toBe(0);
  // Whoever wrote the note is at work.
  expect(await recovered({}, after)).toEqual({ faults: 0, there: true, old: false });
  rmSync(kept);
});

const KILLS = Number(process.env.CORMORANT_KILLS ?? 4);
test(`killed ${KILLS} times while it writes, every file is the old one or the new once the next one has started`, async () => {
  const random = new Random(Date.now() % 10_000);
  const state = join(top, 'state');
  const names = Array.from({ length: 6 }, (_, i) =>
    put(`killed ${i}.wav`, writeWav([noise(200_000, 0.4, i + 1)], { rate, bits: 16 })),
  );
  const start = () =>
    new Promise<{ child: ChildProcess; url: string; id: string }>((done, fail) => {
      const child = spawn('node', ['--import', 'tsx', 'src/server/main.ts', '--port', '0', '--write', folder], {
        env: { ...process.env, XDG_STATE_HOME: state },
      });
      child.stdout.on('data', (data) => {
        const url = /http:[^\s]+\d/.exec(String(data))?.[0];
        if (url)
          void fetch(`${url}/api/roots`).then(
            async (r) => done({ child, url, id: ((await r.json()) as { id: string }[])[0].id }),
            fail,
          );
      });
    });
  for (let kill = 0; kill < KILLS; kill++) {
    const { child, url, id } = await start();
    const gone = new Promise((done) => child.on('close', done));
    const olds = names.map((n) => bytesIn(join(folder, n)));
    const requests = await Promise.all(
      names.map(async (name, i) => {
        const { there, after } = await requestFor(join(folder, name), `kill ${kill} `.repeat(2 + i));
        if (i % 2 === 0) return { request: there, after };
        const request = moved(there, olds[i]);
        const head = 'base64' in request.pieces[0] ? Buffer.from(request.pieces[0].base64, 'base64') : Buffer.alloc(0);
        return { request, after: Uint8Array.from([...head, ...olds[i].subarray(12)]) };
      }),
    );
    const writing = requests.map(({ request }) =>
      fetch(`${url}/api/roots/${id}/write`, {
        method: 'POST',
        headers: { 'Content-Type': 'application/json', Origin: url },
        body: JSON.stringify(request),
      }).catch(() => undefined),
    );
    // At an instant of its own: what matters is what is there afterwards, whenever that was.
    await new Promise((done) => setTimeout(done, random.next() * 60));
    child.kill('SIGKILL');
    await gone;
    await Promise.all(writing);
    const next = await start();
    next.child.kill();
    await new Promise((done) => next.child.on('close', done));
    names.forEach((name, i) => {
      const now = bytesIn(join(folder, name));
      const whole = [olds[i], requests[i].after].some((bytes) => Buffer.compare(now, bytes) === 0);
      expect([kill, name, whole]).toEqual([kill, name, true]);
    });
    expect(readdirSync(folder).filter((n) => n.endsWith('.writing'))).toEqual([]);
    expect(readdirSync(join(state, 'cormorant/writing'))).toEqual([]);
  }
}, 120_000);
