import { allows } from '@core/elsewhere';
import {
  validators,
  type TeamEdit,
  type TeamGrant,
  type TeamLibrary,
  type TeamList,
  type TeamListEdit,
  type TeamMeasured,
  type TeamRight,
  type TeamRow,
  type TeamSound,
} from '@core/schemas';
import type { Request, Response } from 'express';
import { sendOpen } from '../send-open';
import { cookieOf, Door } from './door';
import { editedList, type Entry, type KeptList, type Library } from './library';
import { nothing, People, TeamRefused, type Person } from './people';
import type { TeamFolder } from './store';

/** Bytes that a library may hold at the beginning. */
const ALLOWED = 50e9;
/** Whole files an hour that one may fetch who may not fetch many. */
const FEW = 20;
const HOUR = 3_600_000;
/** Bytes that may be asked for at once by one who may only hear. */
const HEARD = 4 << 20;

/** A path below a library, as it stands in an address. */
const pathIn = (req: Request): string => ([] as string[]).concat(req.params.path).join('/');

const write = (res: Response, told: { of: TeamGrant['of']; id: number; revision: number }): void =>
  void res.write(`data: ${JSON.stringify(told)}\n\n`);

/** A storage that does not answer now may another time. */
const away = (error: Error): never => {
  throw new TeamRefused(error.message, 503);
};

/** Somebody who hears of changes as they come. */
interface Listener {
  token: string;
  res: Response;
}

/** What a team's server may be told at the start. */
export interface TeamOptions {
  name?: string;
  clock?: () => number;
  /** Told the invitation of the first one, while there is nobody yet. */
  invite?: (token: string) => void;
}

/** A team over HTTP: its people, libraries and lists. Its protocol stands in docs/services.md. */
export class Team extends Door {
  private readonly listeners = new Set<Listener>();
  private readonly fetched = new Map<number, number[]>();
  private readonly clock: () => number;

  constructor(folder: TeamFolder, { name = 'The Net Loft', clock = Date.now, invite }: TeamOptions = {}) {
    super(folder, new People(folder.people, clock), name);
    this.clock = clock;
    if (this.people.isEmpty) {
      const token = this.people.first();
      void this.inTurn(() => folder.keepPeople(this.people.whole));
      invite?.(token);
    }
    this.ofLibraries();
    this.ofFiles();
    this.ofLists();
    this.ends();
  }

  /** What one may do something with; all else is not there. @throws TeamRefused */
  private library(req: Request, res: Response, needed: TeamRight): Library {
    const library = this.folder.libraries.get(Number(req.params.library));
    const right = library && this.people.rightOf(this.me(res), 'library', library.facts.id);
    if (!library || !right) throw nothing();
    if (!allows(right, needed))
      throw new TeamRefused(`You may not do that with ${library.facts.name}. Ask who administers it.`, 403);
    return library;
  }
  private list(req: Request, res: Response, needed: TeamRight): KeptList {
    const list = this.folder.lists.get(Number(req.params.list));
    const right = list && this.people.rightOf(this.me(res), 'list', list.id);
    if (!list || !right) throw nothing();
    if (!allows(right, needed))
      throw new TeamRefused(`You may not do that with ${list.name}. Ask who administers it.`, 403);
    return list;
  }

  private async append(library: Library, entry: Entry | undefined): Promise<void> {
    if (!entry) return;
    await this.folder.append(library, entry);
    this.tell('library', library.facts.id, library.revision);
  }

  private rightsOf(of: TeamGrant['of'], path: string, known: (req: Request, res: Response) => number): void {
    this.router.get(`${path}/people`, (req, res) => void res.json(this.people.of(of, known(req, res))));
    this.takes<{ person: string; right: TeamRight | null }>(
      `${path}/people`,
      validators.teamGrant,
      ({ person, right }, req, res) =>
        this.inTurn(async () => {
          const id = known(req, res);
          const whose = this.people.grant(of, id, person, right);
          await this.folder.keepPeople(this.people.whole);
          // Whoever may do something else with it from now on hears of that, even where it is nothing any more.
          for (const { token, res } of this.listeners)
            if (this.people.by(token)?.id === whose.id) write(res, { of, id, revision: 0 });
          return this.people.of(of, id);
        }),
    );
  }

  private ofLibraries(): void {
    const { router } = this;
    const seen = (person: Person): TeamLibrary[] =>
      [...this.folder.libraries.values()].flatMap(({ facts, revision, sounds, used }) => {
        const right = this.people.rightOf(person, 'library', facts.id);
        return right ? { id: facts.id, name: facts.name, right, revision, sounds, used, allowed: facts.allowed } : [];
      });
    router.get('/v1/libraries', (_req, res) => void res.json(seen(this.me(res))));
    this.takes<{ name: string }>('/v1/libraries', validators.teamNew, ({ name }, _req, res) =>
      this.inTurn(async () => {
        const person = this.me(res);
        if (!person.owner) throw new TeamRefused('Whoever owns the server makes libraries. Ask them.', 403);
        const id = Math.max(0, ...this.folder.libraries.keys()) + 1;
        await this.folder.keepLibrary({ id, name, allowed: ALLOWED });
        this.people.own(person, 'library', id);
        await this.folder.keepPeople(this.people.whole);
        return seen(person).find((l) => l.id === id);
      }),
    );
    this.rightsOf('library', '/v1/libraries/:library', (req, res) => this.library(req, res, 'administer').facts.id);
    router.get('/v1/libraries/:library/changes', (req, res) => {
      const since = Number(req.query.since ?? 0);
      if (!Number.isSafeInteger(since) || since < 0) throw new TeamRefused('A revision is a whole number.', 400);
      res.json(this.library(req, res, 'hear').changes(since));
    });
    router.get('/v1/libraries/:library/deeds', (req, res) => void res.json(this.library(req, res, 'hear').deeds(200)));
    this.takes<{ sounds: TeamSound[] }>('/v1/libraries/:library/sounds', validators.teamAdd, ({ sounds }, req, res) =>
      this.inTurn(async () => {
        const library = this.library(req, res, 'add');
        const person = this.me(res);
        const sent: string[] = [];
        const lying = new Set<string>();
        for (const { file, size, path } of sounds) {
          const own = await this.folder.sent(person.id, file);
          if (own.done) sent.push(file);
          const at = own.done ? own.at : await this.hereSize(person, file);
          if (at !== size) throw new TeamRefused(`The file of ${path} was not sent. Send it first.`, 409);
          if (!own.done && !(await this.folder.isHere(file))) lying.add(file);
        }
        const { entry, ids } = library.adding(sounds, person.name, this.clock(), lying);
        await this.append(library, entry);
        await this.folder.settle(person.id, sent);
        return { ids, revision: library.revision };
      }),
    );
    this.takes<{ edits: TeamEdit[] }>('/v1/libraries/:library/edits', validators.teamEdits, ({ edits }, req, res) =>
      this.inTurn(async () => {
        const library = this.library(req, res, 'add');
        const { entry, conflicts, gone } = library.editing(edits, this.me(res).name, this.clock());
        await this.append(library, entry);
        return { revision: library.revision, conflicts, gone };
      }),
    );
    this.takes<{ sounds: number[] }>('/v1/libraries/:library/remove', validators.teamRemove, ({ sounds }, req, res) =>
      this.inTurn(async () => {
        const library = this.library(req, res, 'administer');
        await this.append(library, library.removing(sounds, this.me(res).name, this.clock()));
        return { revision: library.revision };
      }),
    );
  }

  /** Length of a file that somebody may hear already: only then may they be told that it is here. */
  private heardSize(person: Person, file: string): number | undefined {
    for (const library of this.folder.libraries.values()) {
      const size = library.sizeOf(file);
      if (size !== undefined && this.people.rightOf(person, 'library', library.facts.id)) return size;
    }
    return undefined;
  }

  /** Length of a file that need not be sent: one that they may hear already, as long as it is there, or that lies in a storage. */
  private async hereSize(person: Person, file: string): Promise<number | undefined> {
    const heard = this.heardSize(person, file);
    if (heard !== undefined && (await this.folder.isHere(file))) return heard;
    return this.folder.storage?.sizeOf(file);
  }

  /** What was measured of sounds, as far as somebody told it. */
  private async measured(rows: readonly (TeamRow | undefined)[]): Promise<{ id: number; measured: TeamMeasured }[]> {
    const all = [];
    for (const row of rows) {
      const measured = row && (await this.folder.measured(row.file));
      if (measured) all.push({ id: row.id, measured });
    }
    return all;
  }

  private ofFiles(): void {
    const { router } = this;
    this.takes<{ sha256: string; size: number }>(
      '/v1/libraries/:library/files',
      validators.teamFile,
      async ({ sha256, size }, req, res) => {
        const library = this.library(req, res, 'add');
        const person = this.me(res);
        if ((await this.hereSize(person, sha256)) === size) return { at: size };
        library.room(size);
        return { at: (await this.folder.sent(person.id, sha256)).at };
      },
    );
    router.post('/v1/libraries/:library/files/:sum', (req, res) =>
      this.inTurnOf(`${this.me(res).id} ${req.params.sum}`, async () => {
        const library = this.library(req, res, 'add');
        const { sum } = req.params as { sum: string };
        const [at, size] = [Number(req.query.at), Number(req.query.size)];
        if (!/^[0-9a-f]{64}$/.test(sum) || !Number.isSafeInteger(at) || !Number.isSafeInteger(size) || size <= 0)
          throw new TeamRefused(
            'A file is sent under its SHA-256, and says how long it is and from where it goes on.',
            400,
          );
        const person = this.me(res);
        const before = await this.folder.sent(person.id, sum);
        if (!before.done && before.at !== at) throw new TeamRefused(`It goes on from byte ${before.at}.`, 409);
        library.room(size);
        const now = before.done
          ? before
          : await this.folder.take(person.id, sum, size, req as AsyncIterable<Uint8Array>);
        res.json({ at: now.at });
      }),
    );
    const send = async (row: TeamRow | undefined, right: TeamRight, req: Request, res: Response): Promise<void> => {
      if (!row) throw nothing();
      const range = /^bytes=(\d+)-(\d+)$/.exec(req.headers.range ?? '');
      const isPart = range !== null && Number(range[2]) - Number(range[1]) < HEARD;
      const counts = () => {
        if (!isPart && req.method !== 'HEAD') this.fetching(this.me(res), right);
      };
      res.type('application/octet-stream');
      res.setHeader('Content-Disposition', 'attachment');
      if (await this.folder.isHere(row.file)) {
        counts();
        return res.sendFile(this.folder.pathOf(row.file), { dotfiles: 'allow', cacheControl: false });
      }
      const lying = await this.folder.storage?.open(row.file).catch(away);
      if (!lying)
        throw new TeamRefused(`The file of ${row.path} does not lie in its storage any more as it did there.`, 404);
      try {
        counts();
        await sendOpen(req, res, lying.size, async (start, end) => lying.read(start, end)).catch(away);
      } finally {
        await lying.close();
      }
    };
    router.get('/v1/libraries/:library/audio/:sound', (req, res) => {
      const library = this.library(req, res, 'hear');
      const right = this.people.rightOf(this.me(res), 'library', library.facts.id)!;
      return send(library.row(Number(req.params.sound)), right, req, res);
    });
    // The same by its path, as a root is read.
    router.get('/v1/libraries/:library/at/*path', (req, res) => {
      const library = this.library(req, res, 'hear');
      const right = this.people.rightOf(this.me(res), 'library', library.facts.id)!;
      return send(library.at(pathIn(req)), right, req, res);
    });
    this.takes<{ facts: { file: string; measured: TeamMeasured }[] }>(
      '/v1/libraries/:library/facts',
      validators.teamMeasure,
      async ({ facts }, req, res) => {
        const library = this.library(req, res, 'add');
        for (const { file, measured } of facts) {
          if (library.sizeOf(file) === undefined) throw nothing();
          // What was told first stays: nobody changes what others compare by.
          const there = await this.folder.measured(file);
          if (!there || there.version < measured.version) await this.folder.keepMeasured(file, measured);
        }
      },
    );
    this.takes<{ sounds: number[] }>(
      '/v1/libraries/:library/measured',
      validators.teamAskMeasured,
      async ({ sounds }, req, res) => {
        const library = this.library(req, res, 'hear');
        return { measured: await this.measured(sounds.map((id) => library.row(id))) };
      },
    );
    // The same of members of a list.
    this.takes<{ library: number; sounds: number[] }>(
      '/v1/lists/:list/measured',
      validators.teamAskMembers,
      async ({ library, sounds }, req, res) => {
        const list = this.list(req, res, 'hear');
        const members = new Set(list.members.flatMap((m) => (m.library === library ? m.sound : [])));
        const row = (id: number) => (members.has(id) ? this.folder.libraries.get(library)?.row(id) : undefined);
        return { measured: await this.measured(sounds.map(row)) };
      },
    );
    const sendMember = (found: (library: Library) => TeamRow | undefined, req: Request, res: Response) => {
      const list = this.list(req, res, 'hear');
      const library = this.folder.libraries.get(Number(req.params.library));
      const row = library && found(library);
      const isMember = list.members.some((m) => m.library === library?.facts.id && m.sound === row?.id);
      const right = this.people.rightOf(this.me(res), 'list', list.id)!;
      return send(isMember ? row : undefined, right, req, res);
    };
    router.get('/v1/lists/:list/audio/:library/:sound', (req, res) =>
      sendMember((library) => library.row(Number(req.params.sound)), req, res),
    );
    router.get('/v1/lists/:list/at/:library/*path', (req, res) =>
      sendMember((library) => library.at(pathIn(req)), req, res),
    );
  }

  private readonly turns = new Map<string, Promise<unknown>>();
  /** One after another for each key. */
  private inTurnOf<T>(key: string, task: () => Promise<T>): Promise<T> {
    const mine = (this.turns.get(key) ?? Promise.resolve()).catch(() => undefined).then(task);
    this.turns.set(key, mine);
    const done = () => void (this.turns.get(key) === mine && this.turns.delete(key));
    mine.then(done, done);
    return mine;
  }

  /** Counts a whole file. @throws TeamRefused where one may not fetch it, or not so many */
  private fetching(person: Person, right: TeamRight): void {
    if (!allows(right, 'fetch'))
      throw new TeamRefused('You may hear it, and not fetch it. Ask who administers it.', 403);
    if (allows(right, 'fetch many')) return;
    const now = this.clock();
    const lately = (this.fetched.get(person.id) ?? []).filter((t) => t > now - HOUR);
    if (lately.length >= FEW) {
      const wait = Math.ceil((lately[0] + HOUR - now) / 1000);
      throw new TeamRefused(
        `You may fetch ${FEW} files an hour. Ask for the right to fetch many, or go on later.`,
        429,
        wait,
      );
    }
    this.fetched.set(person.id, [...lately, now]);
  }

  private ofLists(): void {
    const { router } = this;
    const told = (list: KeptList, person: Person): TeamList | undefined => {
      const right = this.people.rightOf(person, 'list', list.id);
      return right && { ...list, right };
    };
    router.get(
      '/v1/lists',
      (_req, res) => void res.json([...this.folder.lists.values()].flatMap((l) => told(l, this.me(res)) ?? [])),
    );
    this.takes<{ name: string }>('/v1/lists', validators.teamNew, ({ name }, _req, res) =>
      this.inTurn(async () => {
        const id = Math.max(0, ...this.folder.lists.keys()) + 1;
        const list = { id, name, revision: 1, members: [] };
        await this.folder.keepList(list);
        this.people.own(this.me(res), 'list', id);
        await this.folder.keepPeople(this.people.whole);
        return told(list, this.me(res));
      }),
    );
    this.rightsOf('list', '/v1/lists/:list', (req, res) => this.list(req, res, 'administer').id);
    router.get('/v1/lists/:list/sounds', (req, res) => {
      const list = this.list(req, res, 'hear');
      const rows = list.members.flatMap(({ library, sound }) => {
        const row = this.folder.libraries.get(library)?.row(sound);
        return row ? { library, row } : [];
      });
      res.json(rows);
    });
    this.takes<TeamListEdit>('/v1/lists/:list', validators.teamListEdit, (edit, req, res) =>
      this.inTurn(async () => {
        const before = this.list(req, res, 'add');
        // Nobody shares what they may not hear themselves.
        for (const { library, sound } of edit.add ?? [])
          if (!this.people.rightOf(this.me(res), 'library', library) || !this.folder.libraries.get(library)?.row(sound))
            throw nothing();
        const { list, conflicts } = editedList(before, edit);
        await this.folder.keepList(list);
        this.tell('list', list.id, list.revision);
        return { list: told(list, this.me(res)), conflicts };
      }),
    );
    router.get('/v1/events', (req, res) => {
      res.writeHead(200, { 'Content-Type': 'text/event-stream', Connection: 'keep-alive' });
      res.write(': here\n\n');
      const listener = { token: cookieOf(req)!, res };
      this.listeners.add(listener);
      req.on('close', () => this.listeners.delete(listener));
    });
  }

  /** Tells those who see something that it changed. */
  private tell(of: TeamGrant['of'], id: number, revision: number): void {
    for (const { token, res } of this.listeners) {
      const person = this.people.by(token);
      if (!person) res.end();
      else if (this.people.rightOf(person, of, id)) write(res, { of, id, revision });
    }
  }
}
