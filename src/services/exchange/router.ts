import {
  checked,
  validators,
  type ExchangeService,
  type LookupAsk,
  type NearAsk,
  type PublicKey,
  type PublishAsk,
} from '@core/schemas';
import express, { Router, type NextFunction, type Request, type Response } from 'express';
import { isShowable } from '@core/files';
import { createHash, webcrypto } from 'node:crypto';
import { Exchange, Refused } from './model';
import type { ExchangeFolder } from './store';

const NAME = 'The Slipway Exchange';
/** Bytes of an ask, and of what somebody publishes at once. */
const [ASKED, PUBLISHED] = [8_000_000, 100_000_000];

const signing = { name: 'ECDSA', hash: 'SHA-256' } as const;

/** Whether bytes were signed by a key, as base64url of the 64 bytes that WebCrypto makes. */
async function isSigned(bytes: Buffer, signature: string, key: PublicKey): Promise<boolean> {
  if (!/^[A-Za-z0-9_-]{86}$/.test(signature)) return false;
  try {
    const known = await webcrypto.subtle.importKey('jwk', { ...key }, { name: 'ECDSA', namedCurve: 'P-256' }, false, [
      'verify',
    ]);
    return await webcrypto.subtle.verify(signing, known, Buffer.from(signature, 'base64url'), bytes);
  } catch {
    // A point that lies on no curve.
    return false;
  }
}

/**
 * Pictures that entries tell of, by their sums: sent with them, or kept before.
 * @throws Refused for one that is not there, or not what is told of it
 */
async function picturesOf(
  { entries, pictures = [] }: PublishAsk,
  folder: ExchangeFolder,
): Promise<Map<string, Buffer>> {
  const known = new Map<string, Buffer>();
  for (const { sha256, data } of pictures) {
    const bytes = Buffer.from(data, 'base64');
    if (createHash('sha256').update(bytes).digest('hex') !== sha256)
      throw new Refused('A picture is another one than is told.', 400);
    known.set(sha256, bytes);
  }
  for (const { artwork } of entries) {
    if (!artwork) continue;
    const bytes = known.get(artwork.sha256) ?? (await folder.picture(artwork.sha256));
    if (!bytes) throw new Refused('A picture that is told of was not sent.', 400);
    known.set(artwork.sha256, bytes);
    const mime = bytes[0] === 0x89 ? 'image/png' : 'image/jpeg';
    if (bytes.length !== artwork.size || mime !== artwork.mime || !isShowable(bytes))
      throw new Refused('A picture is no PNG or JPEG, or not what is told of it.', 400);
  }
  return known;
}

/** What was sent, as it has to be. @throws Refused */
function read<T>(bytes: Buffer, validator: (value: unknown) => boolean): T {
  try {
    return checked<T>(JSON.parse(bytes.toString('utf8')), validator as never, 'What was sent');
  } catch (error) {
    throw new Refused((error as Error).message, 400);
  }
}

/** An exchange over HTTP; its protocol stands in docs/services.md. */
export function exchangeRouter(folder: ExchangeFolder): Router {
  const exchange = new Exchange(folder.kept);
  const router = Router();
  const body = (limit: number) => express.raw({ type: 'application/json', limit });
  const bytesOf = (req: Request): Buffer => (Buffer.isBuffer(req.body) ? req.body : Buffer.alloc(0));

  router.use((_req: Request, res: Response, next: NextFunction) => {
    res.setHeader('X-Content-Type-Options', 'nosniff');
    next();
  });
  router.get('/v1/about', (_req, res) => {
    const about: ExchangeService = { service: 'label-exchange', version: 1, name: NAME, publishers: exchange.size };
    res.json(about);
  });
  router.get('/v1/publishers/:name', (req, res) => void res.json(exchange.facts(req.params.name)));
  router.post('/v1/lookup', body(ASKED), (req, res) => {
    res.json(exchange.lookUp(read<LookupAsk>(bytesOf(req), validators.lookupAsk)));
  });
  router.post('/v1/near', body(ASKED), (req, res) => {
    res.json(exchange.lookNear(read<NearAsk>(bytesOf(req), validators.nearAsk)));
  });

  // One after another: of two that follow the same revision, one comes too late.
  let turn: Promise<unknown> = Promise.resolve();
  router.post('/v1/publish', body(PUBLISHED), async (req, res) => {
    const bytes = bytesOf(req);
    const ask = read<PublishAsk>(bytes, validators.publishAsk);
    // What is signed is what was sent, to the byte.
    if (!(await isSigned(bytes, String(req.headers['x-signature'] ?? ''), ask.key)))
      throw new Refused('It is not signed by the key that it names.', 403);
    const pictures = await picturesOf(ask, folder);
    const mine = turn.then(async () => {
      const { kept, publication } = exchange.publish(ask);
      for (const { artwork } of ask.entries) {
        const bytes = artwork && pictures.get(artwork.sha256);
        if (bytes && !(await folder.hasPicture(artwork.sha256))) await folder.keepPicture(artwork.sha256, bytes);
      }
      await folder.keep(kept);
      exchange.take(kept);
      return publication;
    });
    turn = mine.catch(() => undefined);
    res.json(await mine);
  });

  router.get('/v1/pictures/:sum', async (req, res) => {
    // What was taken back is not shown any more.
    const bytes = exchange.tells(req.params.sum) ? await folder.picture(req.params.sum) : undefined;
    if (!bytes) throw new Refused('There is no such picture.', 404);
    res.setHeader('Content-Disposition', 'attachment');
    res.type(bytes[0] === 0x89 ? 'image/png' : 'image/jpeg').send(bytes);
  });

  router.use((_req: Request, res: Response) => void res.status(404).json({ error: 'There is nothing here.' }));
  router.use((error: Error & { status?: number }, _req: Request, res: Response, next: NextFunction) => {
    if (error instanceof Refused) return void res.status(error.status).json({ error: error.message });
    if (error.status === 413) return void res.status(413).json({ error: 'That is too much at once.' });
    next(error);
  });
  return router;
}
