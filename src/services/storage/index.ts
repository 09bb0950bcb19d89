import { XMLBuilder } from 'fast-xml-parser';
import express, { type Request, type Response, type Router } from 'express';
import { createHash } from 'node:crypto';
import { constants } from 'node:fs';
import { lstat, open, readdir } from 'node:fs/promises';
import { join } from 'node:path';
import { sendOpen } from '../send-open';
import { isSigned, objectPath, type Keys } from '../signed';

/** Objects that are told at once. */
const PAGE = 1000;
/** The one bucket that there is. */
export const BUCKET = 'sounds';

const xml = new XMLBuilder({ format: false });
const say = (res: Response, status: number, code: string, message: string) =>
  void res
    .status(status)
    .type('application/xml')
    .send(`<?xml version="1.0" encoding="UTF-8"?>${xml.build({ Error: { Code: code, Message: message } })}`);

const tagOf = (size: number, modified: number) =>
  `"${createHash('sha256').update(`${size} ${modified}`).digest('hex').slice(0, 32)}"`;

/** Paths of files below a folder, in the order of their names as bytes; links and what begins with a dot are none. */
async function keysBelow(folder: string, before = ''): Promise<string[]> {
  const entries = await readdir(join(folder, before), { withFileTypes: true }).catch(() => []);
  const found = await Promise.all(
    entries
      .filter((e) => !e.name.startsWith('.'))
      .map((e) => {
        const key = `${before}${e.name}`;
        return e.isDirectory() ? keysBelow(folder, `${key}/`) : e.isFile() ? [key] : [];
      }),
  );
  return found.flat().sort((a, b) => Buffer.compare(Buffer.from(a), Buffer.from(b)));
}

/**
 * A stand-in for a storage of objects: the files of a folder as one bucket, told page by page and sent whole or by ranges, each by a signed link
 * alone. Nothing is ever written.
 */
export function storageRouter(folder: string, keys: Keys, { clock = Date.now, page = PAGE } = {}): Router {
  const router = express.Router();

  async function list(res: Response, query: ReadonlyMap<string, string>): Promise<void> {
    const after = query.get('continuation-token') ?? '';
    const all = (await keysBelow(folder)).filter((key) => Buffer.compare(Buffer.from(key), Buffer.from(after)) > 0);
    const told = all.slice(0, page);
    const rows = await Promise.all(
      told.map(async (key) => {
        const { size, mtimeMs, mtime } = await lstat(join(folder, key));
        const written = { Key: encodeURIComponent(key).replaceAll('%2F', '/'), LastModified: mtime.toISOString() };
        return { ...written, ETag: tagOf(size, mtimeMs), Size: size };
      }),
    );
    const more = all.length > told.length;
    const said = {
      ...{ Name: BUCKET, EncodingType: 'url', KeyCount: told.length, IsTruncated: more },
      ...(more ? { NextContinuationToken: told[told.length - 1] } : {}),
      Contents: rows,
    };
    res.type('application/xml').send(`<?xml version="1.0" encoding="UTF-8"?>${xml.build({ ListBucketResult: said })}`);
  }

  async function send(req: Request, res: Response, parts: readonly string[]): Promise<void> {
    // No part leads elsewhere: each is a name.
    const isName = (part: string) => part !== '' && !part.startsWith('.') && !/[/\\\0]/.test(part);
    const lost = () => say(res, 404, 'NoSuchKey', 'There is no such object.');
    if (!parts.every(isName)) return lost();
    const way = parts.map((_, i) => join(folder, ...parts.slice(0, i + 1)));
    for (const step of way) if ((await lstat(step).catch(() => undefined))?.isSymbolicLink() !== false) return lost();
    const handle = await open(
      way[way.length - 1],
      constants.O_RDONLY | constants.O_NOFOLLOW | constants.O_NONBLOCK,
    ).catch(() => undefined);
    if (!handle) return lost();
    try {
      const file = await handle.stat();
      if (!file.isFile()) return lost();
      const tag = tagOf(file.size, file.mtimeMs);
      res.setHeader('ETag', tag);
      const wanted = req.headers['if-match'];
      if (wanted !== undefined && wanted !== tag)
        return say(res, 412, 'PreconditionFailed', 'It is another one by now.');
      res.type('application/octet-stream');
      res.setHeader('Content-Disposition', 'attachment');
      await sendOpen(req, res, file.size, (start, end) => handle.createReadStream({ start, end, autoClose: false }));
    } finally {
      await handle.close();
    }
  }

  router.get([`/${BUCKET}`, `/${BUCKET}/*key`], async (req, res) => {
    const parts = ([] as string[]).concat((req.params as { key?: string[] }).key ?? []);
    const names = Object.entries(req.query);
    const query = new Map(names.filter((pair): pair is [string, string] => typeof pair[1] === 'string'));
    const path = objectPath([...req.baseUrl.split('/').filter(Boolean), BUCKET, ...parts]);
    const asked = { method: req.method, host: req.headers.host ?? '', path, query };
    if (query.size !== names.length || !isSigned(asked, keys, clock()))
      return say(res, 403, 'AccessDenied', 'The link is not signed, or good no more.');
    if (parts.length > 0) return send(req, res, parts);
    if (query.get('list-type') !== '2') return say(res, 400, 'InvalidRequest', 'Objects are listed by list-type 2.');
    return list(res, query);
  });
  return router;
}
