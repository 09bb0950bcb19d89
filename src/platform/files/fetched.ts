/**
 * Files of a team that were fetched, so that they are heard without it: each content once, under its sum, and which content lies at an
 * address. The browser's cache keeps them, which is there in workers, and takes blobs of any size without holding them in memory.
 */
const NAME = 'cormorant-team-files';
const contentAt = (sum: string) => `/team-files/${sum}`;

const opened = async (): Promise<Cache | undefined> =>
  typeof caches === 'undefined' ? undefined : caches.open(NAME).catch(() => undefined);

/** The file that was fetched from an address; undefined where none was. */
export async function fetchedFile(url: string): Promise<Blob | undefined> {
  const cache = await opened();
  const sum = await (await cache?.match(url))?.text();
  return sum === undefined ? undefined : (await cache!.match(contentAt(sum)))?.blob();
}

/** Whether a content is here already, from whichever address. */
export async function hasContent(sum: string): Promise<boolean> {
  return (await (await opened())?.match(contentAt(sum))) !== undefined;
}

/** A content that is here. */
export const contentOf = async (sum: string): Promise<Blob | undefined> =>
  (await (await opened())?.match(contentAt(sum)))?.blob();

/** Keeps what was fetched. @param content absent where it is here already */
export async function keepFetched(url: string, sum: string, content?: Blob): Promise<void> {
  const cache = await opened();
  if (!cache) throw new Error('This browser keeps no files of a team.');
  if (content) await cache.put(contentAt(sum), new Response(content));
  await cache.put(url, new Response(sum));
}

/** Lets go of what was fetched from below an address, and of contents that nothing else needs. @returns how many files */
export async function dropFetched(base: string): Promise<number> {
  const cache = await opened();
  if (!cache) return 0;
  const begin = new URL(base, location.href).href;
  const contents = new URL(contentAt(''), location.href).href;
  const all = await cache.keys();
  const own = all.filter((r) => r.url.startsWith(begin));
  for (const request of own) await cache.delete(request);
  const needed = new Set<string>();
  for (const request of all)
    if (!request.url.startsWith(begin) && !request.url.startsWith(contents))
      needed.add((await (await cache.match(request))?.text()) ?? '');
  for (const { url } of all)
    if (url.startsWith(contents) && !needed.has(url.slice(contents.length))) await cache.delete(url);
  return own.length;
}
