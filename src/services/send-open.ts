import type { Request, Response } from 'express';
import type { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';

/** Sends a file that is open, or the one part of it that is asked for (RFC 9110). @param read its bytes from `start` to `end`, both among them */
export async function sendOpen(
  req: Request,
  res: Response,
  size: number,
  read: (start: number, end: number) => Readable | Promise<Readable>,
): Promise<void> {
  const ranges = req.range(size);
  res.setHeader('Accept-Ranges', 'bytes');
  if (ranges === -1) return void res.status(416).setHeader('Content-Range', `bytes */${size}`).end();
  const part = Array.isArray(ranges) && ranges.type === 'bytes' && ranges.length === 1 ? ranges[0] : undefined;
  const { start, end } = part ?? { start: 0, end: size - 1 };
  const isHead = req.method === 'HEAD' || size === 0;
  // What cannot be read is answered as such, before anything is sent.
  const bytes = isHead ? undefined : await read(start, end);
  if (part) res.status(206).setHeader('Content-Range', `bytes ${start}-${end}/${size}`);
  res.setHeader('Content-Length', end - start + 1);
  if (!bytes) return void res.end();
  // Whoever leaves in the middle is nobody’s fault.
  await pipeline(bytes, res).catch(() => undefined);
}
