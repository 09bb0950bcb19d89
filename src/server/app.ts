import type { ProjectFile, Services } from '@core/schemas';
import type { Express, NextFunction, Request, Response } from 'express';
import express from 'express';
import type { IncomingMessage } from 'node:http';
import { join } from 'node:path';
import type { Duplex } from 'node:stream';
import { backupRoutes, type BackupFolder } from './backups';
import { Changes } from './changes';
import { commonsRouter, type CommonsFolder } from '../services/commons';
import { exchangeRouter, type ExchangeFolder } from '../services/exchange';
import { SessionHost, type HostFolder } from '../services/host';
import type { Team } from '../services/team';
import { answerTo, rootFiles } from './files';
import { isOwnSocket, neverPage, onlyOwnPage, pagePolicy } from './guard';
import type { Root } from './roots';
import type { FileWriter } from './writing';

/** What a server serves. */
export interface ServerOptions {
  /** The built pages. */
  pages: string;
  roots: Root[];
  /** A project to open at the first start. */
  project?: ProjectFile;
  log?: (line: string) => void;
  /** Opens a folder in the desktop's file manager; absent where there is no desktop. */
  show?: (folder: string) => Promise<void>;
  /** Writes into roots that allow it; absent where none does. */
  writer?: FileWriter;
  /** A commons to serve beside it, or the address of one that runs by itself. */
  commons?: CommonsFolder | URL;
  /** The same for an exchange of labels. */
  exchange?: ExchangeFolder | URL;
  /** The same for a session host. */
  host?: HostFolder | URL;
  /** The same for a team. */
  team?: Team | URL;
  /** Where backups of the pages' libraries are kept; absent where there is no place. */
  backups?: BackupFolder;
}

/** Takes connections that ask to become WebSockets. */
export type Upgrade = (req: IncomingMessage, socket: Duplex, head: Buffer) => void;

/** The application's server: built pages, roots over HTTP ranges, and the lists of what is in them. */
export function createApp({
  pages,
  roots,
  project,
  show,
  writer,
  backups,
  commons,
  exchange,
  host,
  team,
  log = () => undefined,
}: ServerOptions): Express & { upgrade: Upgrade } {
  const app = express();
  app.disable('x-powered-by');
  const addresses = [commons, exchange, host, team].flatMap((s) => (s instanceof URL ? s.origin : []));
  const sockets = host instanceof URL ? [host.origin.replace(/^http/, 'ws')] : [];
  const policy = pagePolicy([...addresses, ...sockets]);
  app.use(policy);
  app.use(onlyOwnPage);
  // An answer about the disk is true only now; browsers would keep even "gone".
  app.use(['/api', '/roots', '/services'], neverPage, (_req: Request, res: Response, next: NextFunction) => {
    res.setHeader('Cache-Control', 'no-cache');
    next();
  });
  const changes = new Changes(roots);
  app.get('/api/changes', (req, res) => changes.listen(req, res));
  app.get('/api/project', (_req, res) => void (project ? res.json(project) : res.status(204).end()));
  app.use(rootFiles(roots, log, show, writer));
  if (backups) app.use(backupRoutes(backups));
  if (commons && !(commons instanceof URL)) app.use('/services/commons', commonsRouter(commons));
  if (exchange && !(exchange instanceof URL)) app.use('/services/exchange', exchangeRouter(exchange));
  const session = host && !(host instanceof URL) ? sessionOf(host) : undefined;
  if (session)
    app.use('/services/host', (req, res, next) => (req.path === '/' ? policy(req, res, next) : next()), session.router);
  if (team && !(team instanceof URL)) app.use('/services/team', team.router);
  const addressOf = (name: string, of: object) => (of instanceof URL ? of.href : `/services/${name}/`);
  const services: Services = {
    ...(commons && { commons: addressOf('commons', commons) }),
    ...(exchange && { exchange: addressOf('exchange', exchange) }),
    ...(host && { host: addressOf('host', host) }),
    ...(team && { team: addressOf('team', team) }),
  };
  app.get('/api/services', (_req, res) => void res.json(services));

  // The page of the host lies below its service, and nowhere else.
  app.get(
    '/host.html',
    (_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }),
  );
  app.use(express.static(pages, { index: false, immutable: true, maxAge: '1y' }));
  app.use(
    ['/api', '/roots', '/services'],
    (_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }),
  );
  app.get('/*path', (req, res, next) => (/\.\w+$/.test(req.path) ? next() : page(res)));
  app.get('/', (_req, res) => page(res));
  app.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
  app.use((error: Error & { status?: number }, req: Request, res: Response, _next: NextFunction) => {
    log(`${req.method} ${req.path}: ${error.message}`);
    const answer = answerTo(error);
    res.removeHeader('Content-Disposition');
    res.status(answer.status).json({ error: answer.error });
  });

  function page(res: Response, name = 'index.html'): void {
    res.setHeader('Cache-Control', 'no-cache');
    res.sendFile(join(pages, name));
  }
  function sessionOf(folder: HostFolder): SessionHost {
    return new SessionHost(folder, { page: (res) => page(res, 'host.html') });
  }
  const upgrade: Upgrade = (req, socket, head) => {
    if (session && req.url === '/services/host/v1/session' && isOwnSocket(req)) session.upgrade(req, socket, head);
    else socket.end('HTTP/1.1 404 Not Found\r\nConnection: close\r\n\r\n');
  };
  return Object.assign(app, { upgrade });
}
