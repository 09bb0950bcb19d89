import { Team } from '@platform/elsewhere/team';
import { FolderPlace } from '@services/team/places';
import { Storage } from '@services/team/storage';
import fc from 'fast-check';
import {
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  symlinkSync,
  utimesSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { text } from 'node:stream/consumers';
import { foldersIn } from '../helpers/folders';
import { sumOf, teamSound, TestTeam } from '../helpers/team';

// Storages of a team: files that lie somewhere already are not sent, not copied, and served only as long as they are what they were.

const top = mkdtempSync(join(tmpdir(), 'cormorant-storage-'));
const teams: TestTeam[] = [];
afterAll(() => {
  for (const team of teams) team.close();
  rmSync(top, { recursive: true, force: true });
});
let count = 0;
const lying = foldersIn(top);
const PASSWORD = 'kelp and copper';

test('a sound whose file lies there is added without a byte sent, and heard by whoever may hear it', async () => {
  const drive = lying({ 'Gates/slam.wav': 'the slam', 'Gates/creak.wav': 'the creak' });
  const own = join(top, 'team');
  mkdirSync(own);
  const team = new TestTeam(own, [new FolderPlace(drive)]);
  teams.push(team);
  expect(await team.storage!.look()).toBe(2);
  const [door, other, third] = [await team.door(), await team.door(), await team.door()];
  const owner = new Team(door.base);
  await owner.join(team.invitation, 'Maren', PASSWORD);
  const library = await owner.make('Yard');
  const slam = teamSound('Gates/slam.wav', 'the slam');
  const file = { sha256: slam.file, size: slam.size };
  expect(await owner.sent(library.id, file)).toBe(slam.size);
  // A sum alone, with another length than that of the file, is nothing.
  expect(await owner.sent(library.id, { ...file, size: 5 })).toBe(0);
  await expect(owner.add(library.id, [{ ...slam, size: 5 }])).rejects.toThrow('was not sent');
  await expect(owner.add(library.id, [teamSound('no.wav', 'not there')])).rejects.toThrow('was not sent');
  const [id] = await owner.add(library.id, [slam]);
  // It takes no room there, nor once the server starts anew.
  const used = async () => (await owner.libraries()).map((l) => [l.sounds, l.used]);
  expect(await used()).toEqual([[1, 0]]);
  expect(team.log.filter((line) => /files\/[0-9a-f]{64}/.test(line))).toEqual([]);
  expect(readdirSync(join(own, 'files'))).toEqual([]);

  const hears = new Team(other.base);
  await hears.join(await owner.invite([{ of: 'library', id: library.id, right: 'hear' }], false), 'Idris', PASSWORD);
  const nobody = new Team(third.base);
  await nobody.join(await owner.invite([], false), 'Ana', PASSWORD);
  const heard = (base: string, range?: string) =>
    fetch(`${base}v1/libraries/${library.id}/audio/${id}`, { headers: range ? { Range: range } : {} });
  const part = await heard(other.base, 'bytes=4-7');
  expect([part.status, await part.text(), part.headers.get('content-disposition')]).toEqual([
    206,
    'slam',
    'attachment',
  ]);
  expect((await heard(other.base)).status).toBe(403);
  expect((await heard(third.base, 'bytes=4-7')).status).toBe(404);
  // Whoever may only hear is not told what lies there.
  await expect(hears.sent(library.id, { sha256: sumOf('the creak'), size: 9 })).rejects.toThrow('may not do that');
  expect(await (await heard(door.base)).text()).toBe('the slam');

  // Changed, it is another sound, and nobody gets that in its place; as it was, it is there again.
  writeFileSync(join(drive, 'Gates/slam.wav'), 'a  slam');
  const gone = await heard(other.base, 'bytes=0-3');
  expect([gone.status, await gone.json()]).toEqual([
    404,
    { error: 'The file of Gates/slam.wav does not lie in its storage any more as it did there.' },
  ]);
  writeFileSync(join(drive, 'Gates/slam.wav'), 'the slam');
  await team.storage!.look();
  expect(await (await heard(other.base, 'bytes=0-2')).text()).toBe('the');
  for (const range of ['bytes=2-1', 'bytes=99-100'])
    expect([200, 416]).toContain((await heard(door.base, range)).status);
  // Gone for good it can be sent, and is heard from then on.
  renameSync(join(drive, 'Gates/slam.wav'), join(top, 'slam.wav'));
  await team.storage!.look();
  expect(await owner.sent(library.id, file)).toBe(0);
  await owner.send(library.id, file, 0, 'the slam');
  expect(await (await heard(other.base, 'bytes=0-2')).text()).toBe('the');
  renameSync(join(top, 'slam.wav'), join(drive, 'Gates/slam.wav'));
  // A server that starts anew knows it without being told.
  team.start();
  await team.storage!.look();
  expect(await used()).toEqual([[1, 0]]);
  expect((await owner.changes(library.id, 0)).changed.map((row) => row.path)).toEqual(['Gates/slam.wav']);
  expect(await (await heard(other.base, 'bytes=0-2')).text()).toBe('the');
});

test('whatever becomes of files, each sum leads to a file of that content, or to none', async () => {
  const contents = ['aa', 'bb', 'cc'];
  const names = ['x.wav', 'y.wav', 'Below/z.wav'];
  type Step = { do: 'write' | 'move' | 'remove' | 'look' | 'start'; a: number; b: number };
  const step: fc.Arbitrary<Step> = fc.record({
    do: fc.constantFrom('write', 'move', 'remove', 'look', 'start'),
    ...{ a: fc.nat(2), b: fc.nat(2) },
  });
  await fc.assert(
    fc.asyncProperty(fc.array(step, { maxLength: 14 }), async (steps) => {
      const folder = lying({ 'Below/first.wav': 'aa' });
      const keptAt = join(top, `${count++}.json`);
      let now = 0;
      let storage = new Storage([new FolderPlace(folder)], keptAt, () => now);
      let time = 1000;
      const at = (n: number) => join(folder, names[n]);
      for (const { do: what, a, b } of steps) {
        if (what === 'write') {
          writeFileSync(at(a), contents[b]);
          // Each at a time of its own, as files of one millisecond are not.
          utimesSync(at(a), time, time++);
        } else if (what === 'remove') rmSync(at(a), { force: true });
        else if (what === 'start') {
          await storage.look();
          storage = new Storage([new FolderPlace(folder)], keptAt, () => now);
        } else if (what === 'look') await storage.look();
        else
          try {
            renameSync(at(a), at(b));
          } catch {
            // There is nothing to move.
          }
        for (const content of contents) {
          const found = await storage.open(sumOf(content));
          if (!found) continue;
          expect([await text(await found.read(0, 1)), found.size]).toEqual([content, 2]);
          await found.close();
        }
      }
      // Once it was gone through, all that lies there is known: the first look may have begun before the last step.
      await storage.look();
      await storage.look();
      now += 1e6;
      for (const name of [...names, 'Below/first.wav']) {
        let content: string;
        try {
          content = readFileSync(join(folder, name), 'utf8');
        } catch {
          continue;
        }
        expect(await storage.sizeOf(sumOf(content))).toBeDefined();
      }
      await storage.look();
    }),
    { numRuns: 60 },
  );
});

test('links lead nowhere, nor does a folder that became one; what is kept of them may be broken', async () => {
  const outside = lying({ 'secret.wav': 'a secret', 'Deep/other.wav': 'deeper' });
  const folder = lying({ 'own.wav': 'my own', 'Sub/there.wav': 'there', '.hidden.wav': 'hidden' });
  symlinkSync(join(outside, 'secret.wav'), join(folder, 'link.wav'));
  symlinkSync(join(outside, 'Deep'), join(folder, 'Deep'));
  const keptAt = join(top, 'broken.json');
  writeFileSync(keptAt, '[{"path":3},null,{"path":"/etc/passwd"}');
  const storage = new Storage([new FolderPlace(folder), new FolderPlace(join(top, 'nowhere'))], keptAt);
  expect(await storage.look()).toBe(2);
  for (const content of ['a secret', 'deeper', 'hidden']) expect(await storage.sizeOf(sumOf(content))).toBeUndefined();
  expect(await storage.sizeOf(sumOf('there'))).toBe(5);
  // The same file, of the same time, by a folder that leads out by now.
  renameSync(join(folder, 'Sub'), join(outside, 'Sub'));
  symlinkSync(join(outside, 'Sub'), join(folder, 'Sub'));
  expect(await storage.sizeOf(sumOf('there'))).toBeUndefined();
  // A file that became a link to the very same file outside of it.
  renameSync(join(folder, 'own.wav'), join(outside, 'own.wav'));
  symlinkSync(join(outside, 'own.wav'), join(folder, 'own.wav'));
  expect(await storage.sizeOf(sumOf('my own'))).toBeUndefined();
  // What somebody wrote into what is kept is held against what lies there.
  writeFileSync(
    keptAt,
    JSON.stringify([
      {
        path: join(outside, 'secret.wav'),
        size: 8,
        mark: String(statSync(join(outside, 'secret.wav')).mtimeMs),
        sum: sumOf('a secret'),
      },
    ]),
  );
  const anew = new Storage([new FolderPlace(folder)], keptAt);
  expect(await anew.look()).toBe(0);
  expect(await anew.sizeOf(sumOf('a secret'))).toBeUndefined();
});
