import {
  validators,
  type TeamChanges,
  type TeamConflict,
  type TeamDeed,
  type TeamEdit,
  type TeamGrant,
  type TeamLibrary,
  type TeamList,
  type TeamListEdit,
  type TeamMe,
  type TeamMeasured,
  type TeamMember,
  type TeamNoteConflict,
  type TeamRight,
  type TeamRow,
  type TeamService,
  type TeamSound,
} from '@core/schemas';
import { Elsewhere, posted, Service } from './service';

/** A library or a list. */
export type TeamPlace = Pick<TeamGrant, 'of' | 'id'>;

/** Libraries that several people share, whichever server has them. */
export interface SharedLibraries {
  about(): Promise<TeamService>;
  /** Who one is there; undefined where one has to sign in. @throws Elsewhere where it does not answer */
  me(): Promise<TeamMe | undefined>;
  enter(name: string, password: string): Promise<TeamMe>;
  join(invitation: string, name: string, password: string): Promise<TeamMe>;
  leave(): Promise<void>;
  /** Another password ends all other sessions. */
  password(old: string, fresh: string): Promise<TeamMe>;
  invite(grants: readonly TeamGrant[], owner: boolean): Promise<string>;
  libraries(): Promise<TeamLibrary[]>;
  make(name: string): Promise<TeamLibrary>;
  /** Who may do what with a library or a list. */
  people(of: TeamPlace): Promise<TeamMember[]>;
  /** @param right null for none */
  grant(of: TeamPlace, person: string, right: TeamRight | null): Promise<TeamMember[]>;
  deeds(library: number): Promise<TeamDeed[]>;
  /** What changed in a library after a revision; more than one page where `more` says so. */
  changes(library: number, since: number): Promise<TeamChanges>;
  edit(library: number, edits: readonly TeamEdit[]): Promise<{ conflicts: TeamConflict[]; gone: number[] }>;
  remove(library: number, sounds: readonly number[]): Promise<void>;
  /** What was measured of sounds, by their ids there. @param list by which one may hear them, where it is not by their library */
  measured(library: number, sounds: readonly number[], list?: number): Promise<Map<number, TeamMeasured>>;
  tellMeasured(library: number, facts: readonly { file: string; measured: TeamMeasured }[]): Promise<void>;
  /** How many bytes of a file are there already. */
  sent(library: number, file: { sha256: string; size: number }): Promise<number>;
  /** Sends the next bytes of a file. @returns how many are there then */
  send(library: number, file: { sha256: string; size: number }, at: number, part: BodyInit): Promise<number>;
  /** Adds sounds whose files are there. @returns their ids, in the same order */
  add(library: number, sounds: readonly TeamSound[]): Promise<number[]>;
  lists(): Promise<TeamList[]>;
  makeList(name: string): Promise<TeamList>;
  /** @returns the list as it is then, and notes that somebody else changed meanwhile, which stay theirs */
  editList(list: number, edit: TeamListEdit): Promise<{ list: TeamList; conflicts: TeamNoteConflict[] }>;
  /** The sounds of a list, also of those libraries that one does not see. */
  listSounds(list: number): Promise<{ library: number; row: TeamRow }[]>;
  /** The address below which files of a library lie, by their paths. @param list the list by which one may hear them */
  filesOf(library: number, list?: number): string;
  /** The address that tells of changes as they come. */
  readonly events: string;
}

const peopleAt = ({ of, id }: TeamPlace): string => `${of === 'library' ? 'libraries' : 'lists'}/${id}/people`;

/** Most edits that are told at once. */
const EDITS = 2000;

/** A team by its protocol, see docs/services.md. */
export class Team implements SharedLibraries {
  private readonly service: Service;

  /** See {@link Service}. */
  constructor(
    private readonly base: string,
    pause?: (seconds: number) => Promise<void>,
  ) {
    this.service = new Service(base, 'the team’s server', undefined, pause);
  }

  private ask<T>(path: string, validator: unknown, body?: unknown): Promise<T> {
    const init = body === undefined ? {} : posted(JSON.stringify(body));
    return this.service.answer<T>(`v1/${path}`, validator, { ...init, credentials: 'include' });
  }
  private async does(path: string, body: unknown = {}): Promise<void> {
    await this.service.ask(`v1/${path}`, { ...posted(JSON.stringify(body)), credentials: 'include' });
  }

  about = (): Promise<TeamService> => this.ask('about', validators.teamAbout);

  async me(): Promise<TeamMe | undefined> {
    try {
      return await this.ask<TeamMe>('me', validators.teamMe);
    } catch (error) {
      if (error instanceof Elsewhere && error.status === 401) return undefined;
      throw error;
    }
  }

  enter = (name: string, password: string): Promise<TeamMe> => this.ask('enter', validators.teamMe, { name, password });
  join = (invitation: string, name: string, password: string): Promise<TeamMe> =>
    this.ask('join', validators.teamMe, { invitation, name, password });
  leave = (): Promise<void> => this.does('leave');
  password = (old: string, fresh: string): Promise<TeamMe> => this.ask('password', validators.teamMe, { old, fresh });

  async invite(grants: readonly TeamGrant[], owner: boolean): Promise<string> {
    const { invitation } = await this.ask<{ invitation: string }>('invitations', validators.teamInvitation, {
      ...{ grants, owner },
    });
    return invitation;
  }

  libraries = (): Promise<TeamLibrary[]> => this.ask('libraries', validators.teamLibraries);
  make = (name: string): Promise<TeamLibrary> => this.ask('libraries', validators.teamLibrary, { name });
  people = (of: TeamPlace): Promise<TeamMember[]> => this.ask(peopleAt(of), validators.teamMembers);
  grant = (of: TeamPlace, person: string, right: TeamRight | null): Promise<TeamMember[]> =>
    this.ask(peopleAt(of), validators.teamMembers, { person, right });
  deeds = (library: number): Promise<TeamDeed[]> => this.ask(`libraries/${library}/deeds`, validators.teamDeeds);
  changes = (library: number, since: number): Promise<TeamChanges> =>
    this.ask(`libraries/${library}/changes?since=${since}`, validators.teamChanges);

  async edit(library: number, edits: readonly TeamEdit[]): Promise<{ conflicts: TeamConflict[]; gone: number[] }> {
    const conflicts: TeamConflict[] = [];
    const gone: number[] = [];
    for (let at = 0; at < edits.length; at += EDITS) {
      const told = await this.ask<{ conflicts: TeamConflict[]; gone: number[] }>(
        `libraries/${library}/edits`,
        validators.teamEdited,
        { edits: edits.slice(at, at + EDITS) },
      );
      conflicts.push(...told.conflicts);
      gone.push(...told.gone);
    }
    return { conflicts, gone };
  }

  remove = (library: number, sounds: readonly number[]): Promise<void> =>
    this.does(`libraries/${library}/remove`, { sounds });

  async measured(library: number, sounds: readonly number[], list?: number): Promise<Map<number, TeamMeasured>> {
    const { measured } = await this.ask<{ measured: { id: number; measured: TeamMeasured }[] }>(
      list === undefined ? `libraries/${library}/measured` : `lists/${list}/measured`,
      validators.teamMeasured,
      list === undefined ? { sounds } : { library, sounds },
    );
    return new Map(measured.filter((m) => sounds.includes(m.id)).map((m) => [m.id, m.measured]));
  }
  tellMeasured = (library: number, facts: readonly { file: string; measured: TeamMeasured }[]): Promise<void> =>
    this.does(`libraries/${library}/facts`, { facts });

  async sent(library: number, file: { sha256: string; size: number }): Promise<number> {
    return (await this.ask<{ at: number }>(`libraries/${library}/files`, validators.teamAt, file)).at;
  }

  async send(
    library: number,
    { sha256, size }: { sha256: string; size: number },
    at: number,
    body: BodyInit,
  ): Promise<number> {
    const path = `v1/libraries/${library}/files/${sha256}?at=${at}&size=${size}`;
    const headers = { 'Content-Type': 'application/octet-stream' };
    const told = await this.service.answer<{ at: number }>(path, validators.teamAt, {
      ...{ method: 'POST', body, headers, credentials: 'include' },
    });
    return told.at;
  }

  async add(library: number, sounds: readonly TeamSound[]): Promise<number[]> {
    const { ids } = await this.ask<{ ids: number[] }>(`libraries/${library}/sounds`, validators.teamAdded, { sounds });
    if (ids.length !== sounds.length) throw new Elsewhere('The team’s server did not say what became of each sound.');
    return ids;
  }

  lists = (): Promise<TeamList[]> => this.ask('lists', validators.teamLists);
  makeList = (name: string): Promise<TeamList> => this.ask('lists', validators.teamList, { name });
  editList = (list: number, edit: TeamListEdit): Promise<{ list: TeamList; conflicts: TeamNoteConflict[] }> =>
    this.ask(`lists/${list}`, validators.teamListed, edit);
  listSounds = (list: number): Promise<{ library: number; row: TeamRow }[]> =>
    this.ask(`lists/${list}/sounds`, validators.teamListSounds);

  filesOf = (library: number, list?: number): string =>
    list === undefined ? `${this.base}v1/libraries/${library}/at/` : `${this.base}v1/lists/${list}/at/${library}/`;

  get events(): string {
    return `${this.base}v1/events`;
  }
}
