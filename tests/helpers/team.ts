import type { TeamSound } from '@core/schemas';
import { Team, TeamFolder } from '@services/team';
import type { Place } from '@services/team/places';
import express, { type NextFunction, type Request, type Response } from 'express';
import { createHash } from 'node:crypto';
import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { soundOf } from './catalogue';

export const sumOf = (bytes: string) => createHash('sha256').update(bytes).digest('hex');

/** A sound of a team’s library whose file holds some text. */
export function teamSound(path: string, content: string, own: Partial<TeamSound> = {}): TeamSound {
  const { format } = soundOf(1, {});
  return {
    ...{ path, file: sumOf(content), size: content.length, format, fields: { fxName: path }, anchor: 0 },
    ...{ contour: '', like: '', hash: '' },
    ...own,
  };
}

/** A team's server for tests, with a door for each person that shows who they are, as their browser would. */
export class TestTeam {
  private readonly servers: Server[] = [];
  private team!: Team;
  invitation = '';
  /** Requests that were answered, by method and path. */
  readonly log: string[] = [];

  /** @param storages in which files lie already */
  constructor(
    private readonly folder: string,
    private readonly storages: readonly Place[] = [],
  ) {
    this.start();
  }

  /** Where files lie already. */
  storage: TeamFolder['storage'];

  /** Begins anew from its folder, as after a kill. */
  start(): void {
    const folder = new TeamFolder(this.folder, this.storages);
    this.storage = folder.storage;
    this.team = new Team(folder, { invite: (token) => (this.invitation = token) });
  }

  /** A door: what passes it carries the cookie of whoever came in by it. */
  async door(): Promise<{ base: string; close: () => Promise<void> }> {
    let cookie = '';
    const app = express();
    app.use((req: Request, res: Response, next: NextFunction) => {
      if (cookie) req.headers.cookie = cookie;
      const set = res.setHeader.bind(res);
      res.setHeader = (name, value) => {
        if (name.toLowerCase() === 'set-cookie') cookie = String(value).split(';')[0];
        return set(name, value);
      };
      res.on('finish', () => this.log.push(`${req.method} ${req.originalUrl}`));
      next();
    });
    app.use('/team', (req: Request, res: Response, next: NextFunction) => this.team.router(req, res, next));
    const server = await new Promise<Server>((done) => {
      const made = app.listen(0, '127.0.0.1', () => done(made));
    });
    this.servers.push(server);
    const { port } = server.address() as AddressInfo;
    const close = () =>
      new Promise<void>((done) => {
        server.close(() => done());
        server.closeAllConnections();
      });
    return { base: `http://127.0.0.1:${port}/team/`, close };
  }

  close(): void {
    for (const server of this.servers) {
      server.close();
      server.closeAllConnections();
    }
  }
}
