import { createHash } from 'node:crypto';
import { createReadStream, mkdirSync, readdirSync, readFileSync, rmSync, truncateSync } from 'node:fs';
import { open, readFile, rename, rm, stat } from 'node:fs/promises';
import { join } from 'node:path';
import type { TeamMeasured } from '@core/schemas';
import { Library, type Entry, type KeptList, type LibraryFacts } from './library';
import { TeamRefused, type KeptPeople } from './people';
import type { Place } from './places';
import { Storage } from './storage';
import { keepWhole } from '../whole';

/** A library's log: a line for each ask, flushed before it is answered. The last line of a server that was killed may be half a line, which counts as none. */
function readLog(path: string, library: Library): void {
  const bytes = readFileSync(path);
  const end = bytes.lastIndexOf(10) + 1;
  if (end < bytes.length) truncateSync(path, end);
  for (const line of bytes.subarray(0, end).toString('utf8').split('\n'))
    if (line) library.take(JSON.parse(line) as Entry);
}

/** A team as a folder: people and lists as files that are written whole, libraries as logs, sounds by the sums of their content. */
export class TeamFolder {
  readonly people: KeptPeople | undefined;
  readonly libraries = new Map<number, Library>();
  readonly lists = new Map<number, KeptList>();

  /** Where files lie already. */
  readonly storage: Storage | undefined;

  /** @param places in which files lie already that libraries may have sounds of */
  constructor(
    private readonly folder: string,
    places: readonly Place[] = [],
  ) {
    if (places.length > 0) this.storage = new Storage(places, join(folder, 'storage.json'));
    for (const below of ['libraries', 'lists', 'files', 'uploads', 'measured'])
      mkdirSync(join(folder, below), { recursive: true });
    for (const below of ['.', 'libraries', 'lists', 'measured'])
      for (const name of readdirSync(join(folder, below)).filter((n) => n.endsWith('.new')))
        rmSync(join(folder, below, name));
    const read = <T>(...path: string[]) => JSON.parse(readFileSync(join(folder, ...path), 'utf8')) as T;
    if (readdirSync(folder).includes('people.json')) this.people = read<KeptPeople>('people.json');
    const names = readdirSync(join(folder, 'libraries'));
    for (const name of names.filter((n) => n.endsWith('.json'))) {
      const library = new Library(read<LibraryFacts>('libraries', name));
      if (names.includes(`${library.facts.id}.log`))
        readLog(join(folder, 'libraries', `${library.facts.id}.log`), library);
      this.libraries.set(library.facts.id, library);
    }
    for (const name of readdirSync(join(folder, 'lists')).filter((n) => n.endsWith('.json'))) {
      const list = read<KeptList>('lists', name);
      this.lists.set(list.id, list);
    }
  }

  keepPeople = (people: KeptPeople): Promise<void> => keepWhole(join(this.folder, 'people.json'), people);

  async keepLibrary(facts: LibraryFacts): Promise<void> {
    await keepWhole(join(this.folder, 'libraries', `${facts.id}.json`), facts);
    this.libraries.set(facts.id, new Library(facts));
  }

  /** Keeps an entry of a library, and takes it over then. */
  async append(library: Library, entry: Entry): Promise<void> {
    const path = join(this.folder, 'libraries', `${library.facts.id}.log`);
    const file = await open(path, 'a');
    const { size } = await file.stat();
    try {
      await file.writeFile(`${JSON.stringify(entry)}\n`);
      await file.sync();
    } catch {
      // Half a line is none.
      await file.truncate(size).catch(() => undefined);
      throw new TeamRefused(
        'It could not be kept: the disk of the server is full or out of reach. Nothing was changed.',
        507,
      );
    } finally {
      await file.close();
    }
    library.take(entry);
  }

  async keepList(list: KeptList): Promise<void> {
    await keepWhole(join(this.folder, 'lists', `${list.id}.json`), list);
    this.lists.set(list.id, list);
  }

  // Files
  /** Where a file that was sent lies. */
  pathOf = (sum: string): string => join(this.folder, 'files', sum);
  /** Whether a file was sent, whole. */
  isHere = async (sum: string): Promise<boolean> => (await this.sizeOf(this.pathOf(sum))) > 0;

  private partOf = (person: number, sum: string) => join(this.folder, 'uploads', `${person}-${sum}.part`);
  private doneOf = (person: number, sum: string) => join(this.folder, 'uploads', `${person}-${sum}.done`);
  private sizeOf = async (path: string): Promise<number> => (await stat(path).catch(() => undefined))?.size ?? 0;

  /** How much of a file somebody sent already. */
  async sent(person: number, sum: string): Promise<{ at: number; done: boolean }> {
    const done = await this.sizeOf(this.doneOf(person, sum));
    return done > 0
      ? { at: await this.sizeOf(this.pathOf(sum)), done: true }
      : { at: await this.sizeOf(this.partOf(person, sum)), done: false };
  }

  /**
   * Takes the next part of a file; once it is whole it is held against its sum.
   * @throws TeamRefused where that is another one, or more comes in than was said: then it begins anew
   */
  async take(
    person: number,
    sum: string,
    size: number,
    body: AsyncIterable<Uint8Array>,
  ): Promise<{ at: number; done: boolean }> {
    const path = this.partOf(person, sum);
    const file = await open(path, 'a');
    let at = (await file.stat()).size;
    try {
      for await (const part of body) {
        if (at + part.length > size) throw new TeamRefused('More comes in than was said. Begin anew.', 400);
        await file.write(part);
        at += part.length;
      }
      await file.sync();
    } catch (error) {
      await file.close();
      // What broke off is gone on with; what lies is not.
      if (error instanceof TeamRefused) await rm(path, { force: true });
      throw error;
    }
    await file.close();
    if (at < size) return { at, done: false };
    const hash = createHash('sha256');
    for await (const part of createReadStream(path)) hash.update(part as Buffer);
    if (hash.digest('hex') !== sum) {
      await rm(path, { force: true });
      throw new TeamRefused('What came in is not what its sum says. Begin anew.', 400);
    }
    await rename(path, this.pathOf(sum));
    await keepWhole(this.doneOf(person, sum), { size });
    return { at, done: true };
  }

  // What was measured of files
  private measuredOf = (sum: string) => join(this.folder, 'measured', `${sum}.json`);
  keepMeasured = (sum: string, measured: TeamMeasured): Promise<void> => keepWhole(this.measuredOf(sum), measured);

  /** What was measured of a file; undefined where nobody has told it. */
  async measured(sum: string): Promise<TeamMeasured | undefined> {
    try {
      return JSON.parse(await readFile(this.measuredOf(sum), 'utf8')) as TeamMeasured;
    } catch {
      return undefined;
    }
  }

  /** What somebody sent is in a library now. */
  async settle(person: number, sums: Iterable<string>): Promise<void> {
    for (const sum of sums) await rm(this.doneOf(person, sum), { force: true });
  }
}
