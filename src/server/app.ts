import { validators } from '@core/schemas';
import type { ProjectFile } from '@core/schemas';
import type { Express, NextFunction, Request, Response } from 'express';
import express from 'express';
import helmet from 'helmet';
import send from 'send';
import { join } from 'node:path';
import type { Root } from './roots';
import { fileBelow, listRoot, RootGone } from './roots';

/** What a server serves. */
export interface ServerOptions {
  /** The built pages. */
  pages: string;
  roots: Root[];
  /** A project to open at the first start. */
  project?: ProjectFile;
  log?: (line: string) => void;
}

const policy = {
  useDefaults: false,
  directives: {
    'default-src': ["'none'"],
    'script-src': ["'self'", "'wasm-unsafe-eval'"],
    // The control library writes its style sheets at run time; scripts stay strict.
    'style-src': ["'self'", "'unsafe-inline'"],
    'img-src': ["'self'", 'data:', 'blob:'],
    'media-src': ["'self'", 'blob:'],
    'font-src': ["'self'"],
    'connect-src': ["'self'", 'blob:'],
    'worker-src': ["'self'"],
    'manifest-src': ["'self'"],
    'base-uri': ["'none'"],
    'form-action': ["'none'"],
    'frame-ancestors': ["'none'"],
  },
};

/** Only our own page may ask: a foreign Host means a rebound name, a foreign Origin another site. */
function onlyOwnPage(req: Request, res: Response, next: NextFunction): void {
  const host = req.headers.host ?? '';
  const own = /^(127\.0\.0\.1|localhost|\[::1\])(:\d+)?$/.test(host);
  const { origin } = req.headers;
  if (!own || (origin !== undefined && origin !== `http://${host}`)) {
    res.status(403).json({ error: 'This server answers its own page only.' });
    return;
  }
  if (req.method !== 'GET' && req.method !== 'HEAD') {
    res.status(405).json({ error: 'This server only gives, it takes nothing.' });
    return;
  }
  next();
}

/** The application's server: built pages, roots over HTTP ranges, and the lists of what is in them. */
export function createApp({ pages, roots, project, log = () => undefined }: ServerOptions): Express {
  const app = express();
  app.disable('x-powered-by');
  app.use(
    helmet({
      contentSecurityPolicy: policy,
      crossOriginOpenerPolicy: { policy: 'same-origin' },
      crossOriginEmbedderPolicy: { policy: 'require-corp' },
      crossOriginResourcePolicy: { policy: 'same-origin' },
      strictTransportSecurity: false,
    }),
  );
  app.use(onlyOwnPage);

  const rootOf = (req: Request, res: Response): Root | undefined => {
    const found = validators.rootRequest({ id: req.params.id }) ? roots.find((r) => r.id === req.params.id) : undefined;
    if (!found) res.status(404).json({ error: 'There is no such root.' });
    return found;
  };

  // An answer about the disk is true only now; browsers would keep even "gone".
  app.use(['/api', '/roots'], (_req: Request, res: Response, next: NextFunction) => {
    res.setHeader('Cache-Control', 'no-cache');
    next();
  });
  app.get('/api/roots', (_req, res) => void res.json(roots.map(({ id, name }) => ({ id, name }))));
  app.get('/api/project', (_req, res) => void (project ? res.json(project) : res.status(204).end()));
  app.get('/api/roots/:id/files', async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    const files = [];
    for await (const file of listRoot(root)) files.push(file);
    files.sort((a, b) => (a.path < b.path ? -1 : 1));
    res.json(files);
  });
  app.get('/roots/:id/*path', async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    const file = await fileBelow(root, req.params.path as unknown as string[]);
    if (!file) {
      res.status(404).json({ error: 'There is no such file in this root.' });
      return;
    }
    // Already resolved and checked; `send` answers ranges and conditional requests.
    const stream = send(req, encodeURI(file).replace(/[?#]/g, encodeURIComponent), {
      dotfiles: 'allow',
      cacheControl: false,
    });
    stream.on('error', (error: Error & { status?: number }) => {
      res.status(error.status ?? 404).json({ error: 'The file cannot be read, or not at that place.' });
    });
    stream.pipe(res);
  });

  app.use(express.static(pages, { index: false, immutable: true, maxAge: '1y' }));
  app.use(
    ['/api', '/roots'],
    (_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }),
  );
  app.get('/*path', (req, res, next) => (/\.\w+$/.test(req.path) ? next() : page(res)));
  app.get('/', (_req, res) => page(res));
  app.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
  app.use((error: Error, req: Request, res: Response, _next: NextFunction) => {
    log(`${req.method} ${req.path}: ${error.message}`);
    if (error instanceof URIError) res.status(400).json({ error: 'The address is not written correctly.' });
    else if (error instanceof RootGone) res.status(410).json({ error: error.message });
    else res.status(500).json({ error: 'The server could not do this; its log says why.' });
  });

  function page(res: Response): void {
    res.setHeader('Cache-Control', 'no-cache');
    res.sendFile(join(pages, 'index.html'));
  }
  return app;
}
