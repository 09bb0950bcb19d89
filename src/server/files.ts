import { validators, type MakeRequest, type RemoveRequest, type RenameRequest, type WriteRequest } from '@core/schemas';
import express, { Router, type Request, type Response } from 'express';
import { lookup } from 'mime-types';
import parseRange from 'range-parser';
import { pipeline } from 'node:stream/promises';
import { FileRefused, folderBelow, listRoot, openBelow, RootGone, segmentsOf, type OpenFile, type Root } from './roots';
import { DiskFull, WriteRefused, type FileWriter } from './writing';

/** Bytes of a file's beginning and end that label readers are given ahead. */
const EDGE = 12 << 10;

/** Head and tail of a file, each behind its length; lengths of -1 for a file that is not there. */
async function edgesOf(root: Root, path: string): Promise<Buffer[]> {
  const none = [Buffer.from([255, 255, 255, 255, 255, 255, 255, 255])];
  let file: OpenFile | undefined;
  try {
    file = await openBelow(root, segmentsOf(path));
    if (!file) return none;
    const { handle, size } = file;
    const lengths = Buffer.alloc(8);
    const head = Buffer.allocUnsafe(Math.min(EDGE, size));
    const tail = Buffer.allocUnsafe(Math.min(EDGE, size - head.length));
    const read = await Promise.all([
      handle.read(head, 0, head.length, 0),
      handle.read(tail, 0, tail.length, size - tail.length),
    ]);
    if (read[0].bytesRead < head.length || read[1].bytesRead < tail.length) return none;
    lengths.writeInt32LE(head.length, 0);
    lengths.writeInt32LE(tail.length, 4);
    return [lengths, head, tail];
  } catch (error) {
    // One file that cannot be read keeps no other one out; asked for by itself, it says why.
    if (error instanceof RootGone) throw error;
    return none;
  } finally {
    await file?.handle.close();
  }
}

/** What may be shown as it is: sound, video, and pictures that hold nothing that runs. */
const SHOWN = /^(audio\/|video\/|image\/(png|jpeg|gif|webp|avif|bmp)$)/;

/** Sends a file, or the part of it that was asked for. */
async function sendFile(req: Request, res: Response, { handle, size, modified }: OpenFile): Promise<void> {
  const name = req.path.slice(req.path.lastIndexOf('/') + 1);
  const type = lookup(name) || '';
  const shown = SHOWN.test(type);
  res.setHeader('Content-Type', shown ? type : 'application/octet-stream');
  if (!shown) res.setHeader('Content-Disposition', 'attachment');
  res.setHeader('Accept-Ranges', 'bytes');
  res.setHeader('Last-Modified', new Date(modified).toUTCString());
  res.setHeader('ETag', `W/"${size.toString(16)}-${Math.floor(modified).toString(16)}"`);
  if (req.fresh) {
    res.status(304).end();
    return;
  }
  let [start, end] = [0, size - 1];
  const asked = req.headers.range === undefined ? undefined : parseRange(size, req.headers.range);
  if (asked === -1) {
    res.setHeader('Content-Range', `bytes */${size}`);
    res.status(416).json({ error: 'The file does not reach to that place.' });
    return;
  }
  // Several parts at once, or what is no range: all of it, as the standard (RFC 9110) allows.
  if (Array.isArray(asked) && asked.length === 1 && asked.type === 'bytes') {
    [{ start, end }] = asked;
    res.status(206).setHeader('Content-Range', `bytes ${start}-${end}/${size}`);
  }
  const length = end - start + 1;
  res.setHeader('Content-Length', length);
  if (req.method === 'HEAD' || length === 0) {
    res.end();
    return;
  }
  await pipeline(handle.createReadStream({ start, end, autoClose: false }), res);
}

/** Resolves when a response takes more, or is gone. */
function drained(res: Response): Promise<void> {
  return new Promise((done) => {
    res.once('drain', done);
    res.once('close', done);
  });
}

/**
 * Lists and files of roots.
 * @param log told what went wrong
 * @param show opens a folder in the desktop's file manager; absent where there is none
 * @param writer writes into roots that allow it; absent where none does
 */
export function rootFiles(
  roots: readonly Root[],
  log: (line: string) => void,
  show: ((folder: string) => Promise<void>) | undefined,
  writer: FileWriter | undefined,
): Router {
  const router = Router();
  const rootOf = (req: Request, res: Response): Root | undefined => {
    const found = validators.rootRequest({ id: req.params.id }) ? roots.find((r) => r.id === req.params.id) : undefined;
    if (!found) res.status(404).json({ error: 'There is no such root.' });
    return found;
  };
  router.get('/api/roots', (_req, res) => {
    res.json(
      roots.map(({ id, name, folder, writes }) => ({
        id,
        name,
        place: folder,
        ...(writer && writes ? { writes } : {}),
      })),
    );
  });
  router.get('/api/roots/:id/files', async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    const list = listRoot(root);
    const first = await list.next();
    res.type('application/x-ndjson');
    // One line for each part of a folder: the page reads the first files while the last are being found.
    try {
      for (let part = first; !part.done && !res.destroyed; part = await list.next()) {
        const { files, problems } = part.value;
        if (files.length + problems.length > 0 && !res.write(`${JSON.stringify(part.value)}\n`)) await drained(res);
      }
      res.end();
    } catch (error) {
      // A list that merely ended would mean that the rest of the files is gone.
      log(`${req.path}: ${(error as Error).message}`);
      res.destroy();
    }
  });
  router.post('/api/roots/:id/edges', express.json({ limit: '512kb' }), async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    if (!validators.paths(req.body)) {
      res.status(400).json({ error: 'A list of paths below the root was expected.' });
      return;
    }
    const parts = await Promise.all((req.body as string[]).map((path) => edgesOf(root, path)));
    res.type('application/octet-stream').send(Buffer.concat(parts.flat()));
  });
  router.post('/api/roots/:id/open', express.json({ limit: '128kb' }), async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    const [path = ''] = validators.openRequest(req.body) ? (req.body as string[]) : [];
    const folder = await folderBelow(root, path.split('/').slice(0, -1));
    if (!show) res.status(409).json({ error: 'the server runs where no desktop is.' });
    else if (folder === undefined) res.status(404).json({ error: 'There is no such folder in this root.' });
    else {
      await show(folder);
      res.status(204).end();
    }
  });
  /** The root of a request that writes there. */
  const writtenRoot = (req: Request, res: Response): Root | undefined => {
    const root = rootOf(req, res);
    if (!root || (writer && root.writes)) return root;
    res.status(405).json({ error: 'This folder is served for reading. Start with --write to have files written.' });
    return undefined;
  };
  const unexpected = { error: 'The request is not what was expected.' };
  /** What is being written, also for those who have gone meanwhile. */
  const inHand = new Set<Promise<unknown>>();
  const during = <T>(work: Promise<T>): Promise<T> => {
    const ended = work.catch(() => undefined).finally(() => inHand.delete(ended));
    inHand.add(ended);
    return work;
  };
  // Who comes back asks this before looking at what was on its way.
  router.post('/api/roots/:id/rest', async (req, res) => {
    if (!rootOf(req, res)) return;
    await Promise.all(inHand);
    res.json({});
  });
  /** Answers a request that writes. */
  const writing = <T>(validator: (data: unknown) => boolean, task: (root: Root, request: T) => Promise<unknown>) =>
    [
      express.json({ limit: '64mb' }),
      async (req: Request, res: Response) => {
        const root = writtenRoot(req, res);
        if (!root) return;
        if (!validator(req.body)) res.status(400).json(unexpected);
        else res.json((await during(task(root, req.body as T))) ?? {});
      },
    ] as const;
  router.post(
    '/api/roots/:id/write',
    ...writing<WriteRequest>(validators.writeRequest, (root, request) => writer!.write(root, request)),
  );
  router.post(
    '/api/roots/:id/rename',
    ...writing<RenameRequest>(validators.renameRequest, (root, request) => writer!.rename(root, request)),
  );
  router.post(
    '/api/roots/:id/remove',
    ...writing<RemoveRequest>(validators.removeRequest, (root, request) => writer!.remove(root, request)),
  );
  // The bytes of a new file are no JSON: they come as they are, and go to the disk as they come.
  router.post('/api/roots/:id/make', async (req, res) => {
    const root = writtenRoot(req, res);
    if (!root) return;
    const asked: Record<string, unknown> = { path: req.query.path, size: Number(req.headers['content-length']) };
    if (req.query.instead !== undefined) {
      const [size, modified, hash] = String(req.query.instead).split(',');
      asked.instead = { size: Number(size), modified: Number(modified), hash };
    }
    if (!req.is('application/octet-stream') || !validators.makeRequest(asked)) res.status(400).json(unexpected);
    else res.json(await during(writer!.make(root, asked as unknown as MakeRequest, req)));
  });
  router.get('/roots/:id/*path', async (req, res) => {
    const root = rootOf(req, res);
    if (!root) return;
    const file = await openBelow(root, req.params.path as unknown as string[]);
    if (!file) {
      res.status(404).json({ error: 'There is no such file in this root.' });
      return;
    }
    try {
      await sendFile(req, res, file);
    } catch (error) {
      if (res.destroyed || res.headersSent) res.destroy();
      else throw error;
    } finally {
      await file.handle.close();
    }
  });
  return router;
}

/** The status and words for what went wrong with a request. */
export function answerTo(error: Error & { status?: number }): { status: number; error: string } {
  if (error instanceof URIError) return { status: 400, error: 'The address is not written correctly.' };
  if (error instanceof RootGone) return { status: 410, error: error.message };
  if (error instanceof WriteRefused) return { status: 409, error: error.message };
  if (error instanceof DiskFull) return { status: 507, error: error.message };
  if (error instanceof FileRefused) return { status: 404, error: error.message };
  const { status } = error;
  if (status === 415) return { status, error: 'The request is written in a way that is not understood here.' };
  if (status !== undefined && status >= 400 && status < 500)
    return { status, error: 'The request is not what was expected, or too large.' };
  return { status: 500, error: 'The server could not do this; its log says why.' };
}
