import { audioEndings } from '@core/files';
import { XMLParser } from 'fast-xml-parser';
import { constants, createReadStream, statSync } from 'node:fs';
import { lstat, open, readdir, realpath, stat } from 'node:fs/promises';
import { join, resolve, sep } from 'node:path';
import { Readable } from 'node:stream';
import { objectPath, signedLink, type Keys } from '../signed';

/** A file as it lies somewhere. */
export interface Found {
  /** Where: its path, or its address without a signature. */
  path: string;
  size: number;
  /** Another one, once it is another file. */
  mark: string;
}

/** A file that can be read. */
export interface Opened {
  size: number;
  /** @param end the last byte */
  read(start: number, end: number): Readable | Promise<Readable>;
  close(): Promise<void>;
}

/** Where files lie already. They are only ever read. */
export interface Place {
  /** @throws Unreachable */
  files(): AsyncIterable<Found>;
  /** Whether a path is one of its. */
  holds(path: string): boolean;
  /** All of a file. */
  whole(file: Found): Promise<AsyncIterable<Uint8Array>>;
  /** Undefined where it is not what it was found as. @throws Unreachable */
  open(file: Found): Promise<Opened | undefined>;
}

/** A storage that does not answer, or not as one does. */
export class Unreachable extends Error {
  override name = 'Unreachable';
}

/** A folder of this machine. */
export class FolderPlace implements Place {
  private readonly folder: string;

  constructor(folder: string) {
    this.folder = resolve(folder);
  }

  holds(path: string): boolean {
    return path.startsWith(this.folder + sep);
  }

  async *files(): AsyncIterable<Found> {
    for await (const path of filesBelow(this.folder)) {
      // What cannot be read now may be another time.
      const file = await lstat(path).catch(() => undefined);
      if (file) yield { path, size: file.size, mark: String(file.mtimeMs) };
    }
  }

  whole = ({ path }: Found): Promise<AsyncIterable<Uint8Array>> => Promise.resolve(createReadStream(path));

  /** Opened first and looked at then: whatever is put in its place meanwhile, this is what is read. */
  async open({ path, size, mark }: Found): Promise<Opened | undefined> {
    // A pipe would be waited for.
    const flags = constants.O_RDONLY | constants.O_NONBLOCK | constants.O_NOFOLLOW;
    const handle = await open(path, flags).catch(() => undefined);
    if (!handle) return undefined;
    try {
      const [own, real] = [await handle.stat(), await realpath(path)];
      const [there, top] = [await stat(real), await realpath(this.folder)];
      const isSame = there.ino === own.ino && there.dev === own.dev;
      const asBefore = own.isFile() && own.size === size && String(own.mtimeMs) === mark;
      if (asBefore && isSame && real.startsWith(top + sep))
        return {
          size,
          read: (start, end) => handle.createReadStream({ start, end, autoClose: false }),
          close: () => handle.close(),
        };
    } catch {
      // It went meanwhile.
    }
    await handle.close();
    return undefined;
  }
}

/** Sounds of a folder and those below; what begins with a dot is passed over, and so are links. */
async function* filesBelow(folder: string): AsyncGenerator<string> {
  const entries = await readdir(folder, { withFileTypes: true }).catch(() => []);
  for (const entry of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    if (entry.name.startsWith('.')) continue;
    const path = join(folder, entry.name);
    if (entry.isDirectory()) yield* filesBelow(path);
    else if (entry.isFile() && audioEndings.test(entry.name)) yield path;
  }
}

/** What is waited for an answer to begin. Milliseconds */
const WAITS = 20_000;
/** Characters of a page of a list, and pages, at the most. */
const [LONGEST, PAGES] = [8e6, 100_000];

interface Listed {
  Contents?: { Key?: string; Size?: string; ETag?: string }[];
  IsTruncated?: string;
  NextContinuationToken?: string;
}
const reader = new XMLParser({ parseTagValue: false, isArray: (name) => name === 'Contents' });

/** A bucket of a storage of objects that understands the S3 protocol; each question is a link that is signed for it alone. */
export class BucketPlace implements Place {
  private readonly base: URL;
  private readonly way: string[];

  /** @param address of the bucket, its name last */
  constructor(
    address: string,
    private readonly keys: Keys,
  ) {
    this.base = new URL(address);
    this.way = this.base.pathname.split('/').filter(Boolean).map(decodeURIComponent);
  }

  private get top(): string {
    return `${this.base.origin}${objectPath(this.way)}/`;
  }

  holds(path: string): boolean {
    return path.startsWith(this.top);
  }

  private async ask(
    parts: readonly string[],
    { headers, ...more }: { method?: 'GET' | 'HEAD'; query?: Record<string, string>; headers?: Record<string, string> },
  ): Promise<Response> {
    const link = signedLink(this.base, objectPath([...this.way, ...parts]), this.keys, more);
    const late = new AbortController();
    const timer = setTimeout(() => late.abort(), WAITS);
    try {
      return await fetch(link, { method: more.method, headers, redirect: 'error', signal: late.signal });
    } catch (error) {
      throw new Unreachable(`The storage at ${this.base.origin} does not answer.`, { cause: error });
    } finally {
      clearTimeout(timer);
    }
  }

  private refused = (status: number): Unreachable =>
    new Unreachable(
      status === 403
        ? `The storage at ${this.base.origin} does not take the keys that are given for it.`
        : `The storage at ${this.base.origin} failed (${status}).`,
    );

  async *files(): AsyncIterable<Found> {
    const seen = new Set<string>();
    let token: string | undefined;
    for (let n = 0; n < PAGES; n++) {
      const more: Record<string, string> = token === undefined ? {} : { 'continuation-token': token };
      const answer = await this.ask([], { query: { 'list-type': '2', 'encoding-type': 'url', ...more } });
      if (!answer.ok) throw this.refused(answer.status);
      const { ListBucketResult: list } = reader.parse(await textOf(answer)) as { ListBucketResult?: Listed };
      if (!list) throw new Unreachable(`What is at ${this.base.origin} is no storage of objects.`);
      for (const { Key = '', Size, ETag = '' } of list.Contents ?? []) {
        const parts = partsOf(Key);
        const size = Number(Size);
        if (!parts || !audioEndings.test(Key) || !Number.isSafeInteger(size) || size < 0 || !ETag) continue;
        yield { path: `${this.base.origin}${objectPath([...this.way, ...parts])}`, size, mark: ETag };
      }
      token = list.IsTruncated === 'true' ? list.NextContinuationToken : undefined;
      // One that turns in circles has told all that it will.
      if (token === undefined || seen.has(token)) return;
      seen.add(token);
    }
  }

  private partsAt = ({ path }: Found): string[] => path.slice(this.top.length).split('/').map(decodeURIComponent);

  /** Its bytes, as long as it is the very file that was found. */
  private async bytes(file: Found, range?: string): Promise<Readable> {
    const headers: Record<string, string> = { 'If-Match': file.mark, ...(range === undefined ? {} : { Range: range }) };
    const answer = await this.ask(this.partsAt(file), { headers });
    if (answer.status !== (range === undefined ? 200 : 206) || !answer.body) {
      await answer.body?.cancel();
      throw this.refused(answer.status);
    }
    return Readable.fromWeb(answer.body as Parameters<typeof Readable.fromWeb>[0]);
  }

  whole = (file: Found): Promise<AsyncIterable<Uint8Array>> => this.bytes(file);

  async open(file: Found): Promise<Opened | undefined> {
    const answer = await this.ask(this.partsAt(file), { method: 'HEAD' });
    if (answer.status === 404) return undefined;
    if (!answer.ok) throw this.refused(answer.status);
    if (answer.headers.get('etag') !== file.mark || Number(answer.headers.get('content-length')) !== file.size)
      return undefined;
    return {
      size: file.size,
      read: (start, end) => this.bytes(file, `bytes=${start}-${end}`),
      close: () => Promise.resolve(),
    };
  }
}

/** The parts of a key, decoded; undefined of one that no address can name. */
function partsOf(key: string): string[] | undefined {
  try {
    const parts = key.replaceAll('+', ' ').split('/').map(decodeURIComponent);
    return parts.every((part) => part !== '' && part !== '.' && part !== '..' && !part.includes('/'))
      ? parts
      : undefined;
  } catch {
    return undefined;
  }
}

/** A text that is not endless. @throws Unreachable */
async function textOf(answer: Response): Promise<string> {
  const decoder = new TextDecoder();
  let text = '';
  for await (const part of answer.body as unknown as AsyncIterable<Uint8Array>) {
    text += decoder.decode(part, { stream: true });
    if (text.length > LONGEST) throw new Unreachable('A storage answered with a list that does not end.');
  }
  return text;
}

/**
 * A place by what stands on the command line: a folder, or the address of a bucket.
 * @throws Error in words for whoever starts the server
 */
export function placeOf(named: string, keys: Keys | undefined): Place {
  if (/^https?:\/\//i.test(named)) {
    if (!keys) throw new Error(`${named} asks for keys: give them as CORMORANT_STORAGE_KEYS=ID:SECRET.`);
    const loopback = /^(127\.0\.0\.1|localhost|\[::1\])$/;
    const { protocol, hostname, pathname } = new URL(named);
    if (protocol === 'http:' && !loopback.test(hostname))
      throw new Error(`${named} is asked over https, as it is on another machine.`);
    if (pathname.length < 2) throw new Error(`${named} names no bucket: it is the last part of the address.`);
    return new BucketPlace(named, keys);
  }
  if (!statSync(named, { throwIfNoEntry: false })?.isDirectory())
    throw new Error(`${named}, where files of the team are to lie, is no folder.`);
  return new FolderPlace(named);
}
