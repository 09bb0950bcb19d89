import type { ProjectFile, Services } from '@core/schemas';
import type { Express, NextFunction, Request, Response } from 'express';
import express from 'express';
import { join } from 'node:path';
import { backupRoutes, type BackupFolder } from './backups';
import { Changes } from './changes';
import { commonsRouter, type CommonsFolder } from '../services/commons';
import { exchangeRouter, type ExchangeFolder } from '../services/exchange';
import { answerTo, rootFiles } from './files';
import { neverPage, onlyOwnPage, pagePolicy } from './guard';
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
  /** Where backups of the pages' libraries are kept; absent where there is no place. */
  backups?: BackupFolder;
}

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
  log = () => undefined,
}: ServerOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(pagePolicy([commons, exchange].flatMap((s) => (s instanceof URL ? [s.origin] : []))));
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
  const addressOf = (name: string, of: object) => (of instanceof URL ? of.href : `/services/${name}/`);
  const services: Services = {
    ...(commons && { commons: addressOf('commons', commons) }),
    ...(exchange && { exchange: addressOf('exchange', exchange) }),
  };
  app.get('/api/services', (_req, res) => void res.json(services));

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

  function page(res: Response): void {
    res.setHeader('Cache-Control', 'no-cache');
    res.sendFile(join(pages, 'index.html'));
  }
  return app;
}
