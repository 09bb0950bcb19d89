import { checked, validators, type TeamGrant } from '@core/schemas';
import express, { Router, type NextFunction, type Request, type Response } from 'express';
import { nothing, type People, TeamRefused, type Person } from './people';
import type { TeamFolder } from './store';

const COOKIE = 'cormorant-team';
/** Bytes of an ask. */
const ASKED = 40_000_000;
const DAY = 86_400_000;

export const cookieOf = ({ headers }: Request): string | undefined =>
  headers.cookie
    ?.split(';')
    .map((c) => c.trim().split('='))
    .find(([name]) => name === COOKIE)?.[1];

/** The door of a team: who is signed in, and what comes in as it has to be. */
export abstract class Door {
  readonly router = Router();
  /** One after another: what is answered is kept. */
  private turn: Promise<unknown> = Promise.resolve();

  constructor(
    protected readonly folder: TeamFolder,
    protected readonly people: People,
    name: string,
  ) {
    const { router } = this;
    router.use((_req: Request, res: Response, next: NextFunction) => {
      res.setHeader('X-Content-Type-Options', 'nosniff');
      res.setHeader('Cache-Control', 'no-store');
      next();
    });
    router.get('/v1/about', (_req, res) => void res.json({ service: 'team', version: 1, name }));
    this.doors();
    // All that follows is for those who are signed in.
    router.use('/v1', (req, res, next) => {
      const person = this.people.by(cookieOf(req));
      if (!person) throw new TeamRefused('Sign in first.', 401);
      (res.locals as { person: Person }).person = person;
      next();
    });
    this.ofPeople();
  }

  /** What is said of all that has no other answer; after all routes. */
  protected ends(): void {
    const { router } = this;
    router.use((_req: Request, res: Response) => void res.status(404).json({ error: nothing().message }));
    router.use((error: Error & { status?: number }, _req: Request, res: Response, next: NextFunction) => {
      if (res.headersSent) return next(error);
      if (error instanceof TeamRefused) {
        if (error.wait !== undefined) res.setHeader('Retry-After', error.wait);
        return void res.status(error.status).json({ error: error.message });
      }
      if (error.status === 413) return void res.status(413).json({ error: 'That is too much at once.' });
      if (error.status === 400) return void res.status(400).json({ error: 'What was sent cannot be read.' });
      next(error);
    });
  }

  protected inTurn<T>(task: () => Promise<T>): Promise<T> {
    const mine = this.turn.then(task);
    this.turn = mine.catch(() => undefined);
    return mine;
  }
  protected me = (res: Response): Person => (res.locals as { person: Person }).person;

  /** A route that takes something in, as it has to be. */
  protected takes<T>(
    path: string,
    validator: unknown,
    task: (body: T, req: Request, res: Response) => Promise<unknown>,
  ): void {
    this.router.post(
      path,
      express.raw({ type: 'application/json', limit: ASKED }),
      async (req: Request, res: Response) => {
        let body: T;
        try {
          const text = Buffer.isBuffer(req.body) ? req.body.toString('utf8') : '';
          body = checked<T>(JSON.parse(text), validator as never, 'What was sent');
        } catch (error) {
          throw new TeamRefused((error as Error).message, 400);
        }
        res.json((await task(body, req, res)) ?? {});
      },
    );
  }

  private enterAs(person: Person, req: Request, res: Response): { name: string; owner: boolean } {
    const token = this.people.open(person);
    res.cookie(COOKIE, token, {
      httpOnly: true,
      sameSite: 'strict',
      path: req.baseUrl || '/',
      maxAge: 30 * DAY,
      secure: req.secure,
    });
    return { name: person.name, owner: person.owner };
  }

  protected doors(): void {
    const keep = () => this.folder.keepPeople(this.people.whole);
    this.takes<{ invitation: string; name: string; password: string }>(
      '/v1/join',
      validators.teamJoin,
      ({ invitation, name, password }, req, res) =>
        this.inTurn(async () => {
          const person = await this.people.join(invitation, name, password);
          const told = this.enterAs(person, req, res);
          await keep();
          return told;
        }),
    );
    this.takes<{ name: string; password: string }>(
      '/v1/enter',
      validators.teamEnter,
      async ({ name, password }, req, res) => {
        const person = await this.people.enter(name, password);
        const told = this.enterAs(person, req, res);
        await this.inTurn(keep);
        return told;
      },
    );
  }

  protected ofPeople(): void {
    const keep = () => this.folder.keepPeople(this.people.whole);
    this.router.get('/v1/me', (_req, res) => {
      const { name, owner } = this.me(res);
      res.json({ name, owner });
    });
    this.router.post('/v1/leave', async (req, res) => {
      this.people.close(cookieOf(req)!);
      res.clearCookie(COOKIE, { path: req.baseUrl || '/' });
      await this.inTurn(keep);
      res.json({});
    });
    this.takes<{ old: string; fresh: string }>(
      '/v1/password',
      validators.teamPassword,
      async ({ old, fresh }, req, res) => {
        const person = this.me(res);
        await this.people.change(person, old, fresh);
        const told = this.enterAs(person, req, res);
        await this.inTurn(keep);
        return told;
      },
    );
    this.takes<{ grants: TeamGrant[]; owner: boolean }>(
      '/v1/invitations',
      validators.teamInvite,
      ({ grants, owner }, _req, res) =>
        this.inTurn(async () => {
          const invitation = this.people.invite(this.me(res), grants, owner);
          await keep();
          return { invitation };
        }),
    );
  }
}
