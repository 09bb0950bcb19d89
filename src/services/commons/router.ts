import type { OpenAsk } from '@core/elsewhere';
import type { OpenService } from '@core/schemas';
import { Router, type NextFunction, type Request, type Response } from 'express';
import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import mime from 'mime-types';
import parseRange from 'range-parser';
import { Commons } from './model';
import { Turnstile, type Pace } from './turnstile';
import type { CommonsFolder } from './store';

const NAME = 'The Foreshore Commons';
/** Asks that one may make at once, and how many more come free in a second. Files are not counted. */
const PACE: Pace = { atOnce: 40, perSecond: 8 };

/** Values of a parameter that may stand in an address more than once. */
function several(value: unknown): string[] {
  const all = value === undefined ? [] : Array.isArray(value) ? (value as unknown[]) : [value];
  return all.filter((v): v is string => typeof v === 'string' && v.length <= 300).slice(0, 50);
}

class Unasked extends Error {
  readonly status = 400;
}

/** A number of an address. @throws Unasked where it is none, or out of bounds */
function number(value: unknown, name: string, least: number, most: number): number | undefined {
  if (value === undefined) return undefined;
  const given = Number(value);
  if (typeof value !== 'string' || !(given >= least && given <= most))
    throw new Unasked(`“${name}” has to be a number from ${least} to ${most}.`);
  return given;
}

const ORDERS = ['fit', 'newest', 'longest', 'shortest'] as const;
/** Seconds. */
const LONGEST = 86_400;

function askIn({ query }: Request): Partial<OpenAsk> {
  const order = ORDERS.find((o) => o === (query.order ?? 'fit'));
  if (!order) throw new Unasked(`“order” has to be one of ${ORDERS.join(', ')}.`);
  const like = several(query.like)[0];
  return {
    ...{ words: several(query.word), without: several(query.without), any: query.any === '1', order },
    ...{ licences: several(query.licence), authors: several(query.author), by: several(query.by) },
    shortest: number(query.shortest, 'shortest', 0, LONGEST),
    longest: number(query.longest, 'longest', 0, LONGEST),
    ...(like === undefined ? {} : { like }),
  };
}

/** A commons over HTTP; its protocol stands in docs/services.md. */
export function commonsRouter(folder: CommonsFolder, pace: Pace = PACE): Router {
  const commons = new Commons(folder.sounds);
  const turnstile = new Turnstile(pace);
  const router = Router();

  router.use((_req: Request, res: Response, next: NextFunction) => {
    res.setHeader('X-Content-Type-Options', 'nosniff');
    next();
  });
  router.get('/v1/about', (_req, res) => {
    const { size: sounds, licences } = commons;
    const about: OpenService = { service: 'open-sounds', version: 1, name: NAME, sounds, licences };
    res.json(about);
  });
  router.get('/v1/sounds', (req, res) => {
    const wait = turnstile.wait(req.ip ?? '');
    if (wait > 0) {
      res.setHeader('Retry-After', String(Math.ceil(wait)));
      res.status(429).json({ error: 'Too many asks at once; ask again a little later.' });
      return;
    }
    try {
      const page = number(req.query.page, 'page', 1, 1_000_000) ?? 1;
      const size = number(req.query.size, 'size', 1, 50);
      res.json(commons.find(askIn(req), Math.floor(page), size));
    } catch (error) {
      if (!(error instanceof Unasked)) throw error;
      res.status(error.status).json({ error: error.message });
    }
  });
  router.get('/v1/files/:name', async (req, res) => {
    const file = folder.fileAt(`v1/files/${req.params.name}`);
    const size = file && (await stat(file.path).catch(() => undefined))?.size;
    if (!file || size === undefined) {
      res.status(404).json({ error: 'This sound is not shared any more.' });
      return;
    }
    res.setHeader('Content-Type', mime.lookup(file.name) || 'application/octet-stream');
    res.setHeader('Content-Security-Policy', "sandbox; default-src 'none'");
    res.setHeader('Accept-Ranges', 'bytes');
    const ranges = req.headers.range ? parseRange(size, req.headers.range) : undefined;
    if (ranges === -1 || ranges === -2) {
      res.setHeader('Content-Range', `bytes */${size}`);
      res.status(416).json({ error: 'There is nothing there of this file.' });
      return;
    }
    const { start, end } = ranges?.length === 1 ? ranges[0] : { start: 0, end: size - 1 };
    if (ranges?.length === 1) res.status(206).setHeader('Content-Range', `bytes ${start}-${end}/${size}`);
    res.setHeader('Content-Length', String(end - start + 1));
    createReadStream(file.path, { start, end })
      .on('error', () => res.destroy())
      .pipe(res);
  });
  router.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
  return router;
}
