import { validators } from '@core/schemas';
import type { ProjectFile } from '@core/schemas';
import type { Express, NextFunction, Request, Response } from 'express';
import express from 'express';
import helmet from 'helmet';
import send from 'send';
import { open } from 'node:fs/promises';
import { join } from 'node:path';
import type { Root } from './roots';
import { fileBelow, listRoot, RootGone } from './roots';
import { RootWatcher } from './watch';

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
  // Edges are asked for with a list too long for an address; nothing is taken by it, and only our page may send it.
  const asks = req.method === 'POST' && origin !== undefined && /^\/api\/roots\/[a-z0-9]+\/edges$/.test(req.path);
  if (req.method !== 'GET' && req.method !== 'HEAD' && !asks) {
    res.status(405).json({ error: 'This server only gives, it takes nothing.' });
    return;
  }
  next();
}

/** Bytes of a file's beginning and end that label readers are given ahead. */
const EDGE = 12 << 10;

/** Head and tail of a file, each behind its length; lengths of -1 for a file that is not there. */
async function edgesOf(root: Root, path: string): Promise<Buffer[]> {
  const lengths = Buffer.alloc(8);
  const none = [Buffer.from([255, 255, 255, 255, 255, 255, 255, 255])];
  const real = await fileBelow(root, path.split('/'));
  const file = real === undefined ? undefined : await open(real).catch(() => undefined);
  if (!file) return none;
  try {
    const { size } = await file.stat();
    const head = Buffer.allocUnsafe(Math.min(EDGE, size));
    const tail = Buffer.allocUnsafe(Math.min(EDGE, size - head.length));
    const read = await Promise.all([
      file.read(head, 0, head.length, 0),
      file.read(tail, 0, tail.length, size - tail.length),
    ]);
    if (read[0].bytesRead < head.length || read[1].bytesRead < tail.length) return none;
    lengths.writeInt32LE(head.length, 0);
    lengths.writeInt32LE(tail.length, 4);
    return [lengths, head, tail];
  } catch {
    return none;
  } finally {
    await file.close();
  }
}

/** Resolves when a response takes more, or is gone. */
function drained(res: Response): Promise<void> {
  return new Promise((done) => {
    res.once('drain', done);
    res.once('close', done);
  });
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
    const list = listRoot(root);
    const first = await list.next();
    res.type('application/x-ndjson');
    // One line for each part of a folder: the page reads the first files while the last are being found.
    try {
      for (let part = first; !part.done && !res.destroyed; part = await list.next())
        if (part.value.length > 0 && !res.write(`${JSON.stringify(part.value)}\n`)) await drained(res);
      res.end();
    } catch (error) {
      // A list that merely ended would mean that the rest of the files is gone.
      log(`${req.path}: ${(error as Error).message}`);
      res.destroy();
    }
  });
  app.post('/api/roots/:id/edges', express.json({ limit: '512kb' }), async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    if (!validators.paths(req.body)) {
      res.status(400).json({ error: 'A list of paths below the root was expected.' });
      return;
    }
    const parts = await Promise.all((req.body as string[]).map((path) => edgesOf(root, path)));
    res.type('application/octet-stream').send(Buffer.concat(parts.flat()));
  });
  app.get('/api/changes', (req, res) => {
    res.writeHead(200, { 'Content-Type': 'text/event-stream', 'Cache-Control': 'no-cache', Connection: 'keep-alive' });
    res.write(': watching\n\n');
    const watchers = roots.map(
      (root) => new RootWatcher(root, () => res.write(`data: ${JSON.stringify({ id: root.id })}\n\n`)),
    );
    for (const watcher of watchers) void watcher.start().then(() => res.write(': begun\n\n'));
    req.on('close', () => watchers.forEach((w) => w.stop()));
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
  app.use((error: Error & { status?: number }, req: Request, res: Response, _next: NextFunction) => {
    log(`${req.method} ${req.path}: ${error.message}`);
    if (error instanceof URIError) res.status(400).json({ error: 'The address is not written correctly.' });
    else if (error instanceof RootGone) res.status(410).json({ error: error.message });
    else if (error.status === 400 || error.status === 413)
      res.status(error.status).json({ error: 'The request is not what was expected, or too large.' });
    else res.status(500).json({ error: 'The server could not do this; its log says why.' });
  });

  function page(res: Response): void {
    res.setHeader('Cache-Control', 'no-cache');
    res.sendFile(join(pages, 'index.html'));
  }
  return app;
}
