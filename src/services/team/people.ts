import { allows, greaterOf } from '@core/elsewhere';
import type { TeamGrant, TeamRight } from '@core/schemas';
import { createHash, randomBytes, scrypt, timingSafeEqual } from 'node:crypto';

/** Something is not done; says why, and with which status of HTTP. */
export class TeamRefused extends Error {
  override name = 'TeamRefused';

  /** @param wait seconds after which it may be asked again */
  constructor(
    message: string,
    readonly status: 400 | 401 | 403 | 404 | 409 | 410 | 429 | 507 | 503,
    readonly wait?: number,
  ) {
    super(message);
  }
}

/** What is said of all that is not there, and of all that one may not see. */
export const nothing = () => new TeamRefused('There is nothing here.', 404);

export interface Person {
  id: number;
  name: string;
  salt: string;
  hash: string;
  /** May invite, and make libraries. */
  owner: boolean;
}

/** People, as they are kept. Of tokens only their sums are: whoever reads them cannot use them. */
export interface KeptPeople {
  version: 1;
  next: number;
  people: Person[];
  invitations: { token: string; grants: TeamGrant[]; owner: boolean; until: number }[];
  rights: (TeamGrant & { person: number })[];
  sessions: { token: string; person: number; until: number }[];
}

const DAY = 86_400_000;
/** For how long an invitation is good, and how long one stays signed in. */
const [INVITED, SIGNED_IN] = [14 * DAY, 30 * DAY];
/** Cost of scrypt (RFC 7914): 32 MB and a tenth of a second for each guess; and how many may be worked out at the same time. */
const [COST, AT_ONCE] = [{ N: 1 << 15, r: 8, p: 1, maxmem: 64 << 20 }, 4];
/** Wrong passwords that cost nothing, and the longest wait then, seconds. */
const [FREE, LONGEST] = [5, 900];

const sumOf = (token: string) => createHash('sha256').update(token).digest('hex');
const newToken = () => randomBytes(24).toString('base64url');
/** Names are the same without case and without space around and within. */
const keyOf = (name: string) => name.normalize('NFKC').toLowerCase().replace(/\s+/g, '');

/** Who is of the team, who is signed in, and what each may do. It knows neither HTTP nor disk. */
export class People {
  private readonly kept: KeptPeople;
  private readonly failures = new Map<string, { count: number; until: number }>();
  private busy = 0;

  constructor(
    kept?: KeptPeople,
    private readonly clock: () => number = Date.now,
  ) {
    this.kept = kept ?? { version: 1, next: 1, people: [], invitations: [], rights: [], sessions: [] };
  }

  get whole(): KeptPeople {
    return this.kept;
  }

  get isEmpty(): boolean {
    return this.kept.people.length === 0;
  }

  /** The invitation of the first one, who owns the server. Those of before are good no more. */
  first(): string {
    this.kept.invitations = [];
    return this.invitation([], true);
  }

  private invitation(grants: TeamGrant[], owner: boolean): string {
    const token = newToken();
    this.kept.invitations.push({ token: sumOf(token), grants, owner, until: this.clock() + INVITED });
    return token;
  }

  /** Invites somebody. @throws TeamRefused where that would give away what one does not administer */
  invite(by: Person, grants: TeamGrant[], owner: boolean): string {
    if (owner && !by.owner) throw nothing();
    for (const { of, id } of grants) if (!allows(this.rightOf(by, of, id), 'administer')) throw nothing();
    if (!by.owner && grants.length === 0) throw nothing();
    const now = this.clock();
    this.kept.invitations = this.kept.invitations.filter((i) => i.until > now);
    return this.invitation(grants, owner);
  }

  private async hashOf(password: string, salt: string): Promise<string> {
    if (this.busy >= AT_ONCE) throw new TeamRefused('Too many sign in at once. Try again in a moment.', 429, 1);
    this.busy++;
    try {
      const key = await new Promise<Buffer>((done, fail) =>
        scrypt(password.normalize('NFKC'), salt, 32, COST, (error, made) => (error ? fail(error) : done(made))),
      );
      return key.toString('hex');
    } finally {
      this.busy--;
    }
  }

  /** Makes an account of an invitation, which is used up by that. @throws TeamRefused */
  async join(token: string, name: string, password: string): Promise<Person> {
    const salt = randomBytes(16).toString('hex');
    const hash = await this.hashOf(password, salt);
    const sum = sumOf(token);
    const invitation = this.kept.invitations.find((i) => i.token === sum && i.until > this.clock());
    if (!invitation) throw new TeamRefused('This invitation is used up, too old, or none. Ask for another one.', 410);
    if (keyOf(name) === '' || this.kept.people.some((p) => keyOf(p.name) === keyOf(name)))
      throw new TeamRefused('Somebody has this name already. Take another one.', 409);
    const person = { id: this.kept.next++, name: name.trim(), salt, hash, owner: invitation.owner };
    this.kept.people.push(person);
    this.kept.invitations = this.kept.invitations.filter((i) => i !== invitation);
    for (const { of, id, right } of invitation.grants) this.kept.rights.push({ of, id, right, person: person.id });
    return person;
  }

  /** Knows somebody by name and password. Each wrong one after a few costs a longer wait. @throws TeamRefused */
  async enter(name: string, password: string): Promise<Person> {
    const key = keyOf(name);
    const now = this.clock();
    const failed = this.failures.get(key);
    if (failed && failed.until > now) {
      const wait = Math.ceil((failed.until - now) / 1000);
      throw new TeamRefused(`Too many wrong passwords. Try again in ${wait} s.`, 429, wait);
    }
    const person = this.kept.people.find((p) => keyOf(p.name) === key);
    // One who is not there takes as long as one who is.
    const hash = await this.hashOf(password, person?.salt ?? '0'.repeat(32));
    const isRight = timingSafeEqual(Buffer.from(hash), Buffer.from(person?.hash ?? '0'.repeat(64)));
    if (person && isRight) {
      this.failures.delete(key);
      return person;
    }
    const count = (this.failures.get(key)?.count ?? 0) + 1;
    const wait = count < FREE ? 0 : Math.min(LONGEST, 2 ** (count - FREE));
    // Of names without end, the oldest are forgotten.
    if (this.failures.size >= 10_000) this.failures.delete(this.failures.keys().next().value!);
    this.failures.set(key, { count, until: now + wait * 1000 });
    throw new TeamRefused('Name or password is wrong.', 401);
  }

  /** Gives somebody another password; whoever was signed in as them is so no more. @throws TeamRefused */
  async change(person: Person, old: string, fresh: string): Promise<void> {
    await this.enter(person.name, old);
    const salt = randomBytes(16).toString('hex');
    Object.assign(person, { hash: await this.hashOf(fresh, salt), salt });
    this.kept.sessions = this.kept.sessions.filter((s) => s.person !== person.id);
  }

  /** Signs somebody in. @returns what they show from then on */
  open(person: Person): string {
    const token = newToken();
    const now = this.clock();
    this.kept.sessions = this.kept.sessions.filter((s) => s.until > now);
    this.kept.sessions.push({ token: sumOf(token), person: person.id, until: now + SIGNED_IN });
    return token;
  }

  /** Who shows this; undefined for nobody. */
  by(token: string | undefined): Person | undefined {
    if (!token) return undefined;
    const sum = sumOf(token);
    const session = this.kept.sessions.find((s) => s.token === sum && s.until > this.clock());
    return session && this.kept.people.find((p) => p.id === session.person);
  }

  close(token: string): void {
    const sum = sumOf(token);
    this.kept.sessions = this.kept.sessions.filter((s) => s.token !== sum);
  }

  // Rights
  rightOf(person: Pick<Person, 'id'>, of: TeamGrant['of'], id: number): TeamRight | undefined {
    return this.kept.rights
      .filter((r) => r.person === person.id && r.of === of && r.id === id)
      .reduce<TeamRight | undefined>((best, { right }) => greaterOf(right, best), undefined);
  }

  /** Who may do what with something. */
  of(of: TeamGrant['of'], id: number): { name: string; right: TeamRight }[] {
    return this.kept.people.flatMap((p) => {
      const right = this.rightOf(p, of, id);
      return right ? { name: p.name, right } : [];
    });
  }

  /**
   * Gives or takes a right.
   * @param right null for none
   * @returns whose right it is
   * @throws TeamRefused where nobody could administer it any more, or there is nobody of this name
   */
  grant(of: TeamGrant['of'], id: number, name: string, right: TeamRight | null): Person {
    const person = this.kept.people.find((p) => keyOf(p.name) === keyOf(name));
    if (!person) throw new TeamRefused('There is nobody of this name. Invite them.', 404);
    const others = this.of(of, id).filter((r) => r.name !== person.name && r.right === 'administer');
    if (right !== 'administer' && others.length === 0 && this.rightOf(person, of, id) === 'administer')
      throw new TeamRefused('Somebody has to administer it: give that to another one first.', 409);
    this.kept.rights = this.kept.rights.filter((r) => !(r.person === person.id && r.of === of && r.id === id));
    if (right) this.kept.rights.push({ of, id, right, person: person.id });
    return person;
  }

  /** Whoever makes something administers it. */
  own(person: Person, of: TeamGrant['of'], id: number): void {
    this.kept.rights.push({ of, id, right: 'administer', person: person.id });
  }
}
