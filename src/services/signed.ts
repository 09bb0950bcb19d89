import { createHash, createHmac, timingSafeEqual } from 'node:crypto';

/** What whoever asks a storage for objects shows that they may. */
export interface Keys {
  id: string;
  secret: string;
}

const ALGORITHM = 'AWS4-HMAC-SHA256';

/** Percent-encoded but for unreserved characters (RFC 3986, section 2.3). */
const encoded = (text: string): string =>
  encodeURIComponent(text).replace(/[!'()*]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase()}`);

/** The path of an object in an address. @param parts of the path, not encoded */
export const objectPath = (parts: readonly string[]): string => `/${parts.map(encoded).join('/')}`;

const hmac = (key: string | Buffer, text: string): Buffer => createHmac('sha256', key).update(text).digest();

/** What the signature of a link is made of. */
interface Signing {
  method: string;
  host: string;
  /** As `objectPath` gives it. */
  path: string;
  query: readonly (readonly [string, string])[];
  /** `yyyymmddThhmmssZ` */
  at: string;
  region: string;
}

/** The signature of a link: AWS Signature Version 4 with query parameters, of which the host alone is signed beside. */
function signature({ method, host, path, query, at, region }: Signing, { secret }: Keys): string {
  const pairs = query.map(([name, value]) => `${encoded(name)}=${encoded(value)}`).sort((a, b) => (a < b ? -1 : 1));
  const asked = [method, path, pairs.join('&'), `host:${host}`, '', 'host', 'UNSIGNED-PAYLOAD'].join('\n');
  const day = at.slice(0, 8);
  const sum = createHash('sha256').update(asked).digest('hex');
  const signed = [ALGORITHM, at, `${day}/${region}/s3/aws4_request`, sum].join('\n');
  const key = [region, 's3', 'aws4_request'].reduce(hmac, hmac(`AWS4${secret}`, day));
  return hmac(key, signed).toString('hex');
}

/**
 * A link by which whoever has it may do one thing with one object, for a time.
 * @param base of the storage; @param path as `objectPath` gives it; @param seconds for which it is good
 */
export function signedLink(
  base: URL,
  path: string,
  keys: Keys,
  more: {
    method?: 'GET' | 'HEAD';
    query?: Record<string, string>;
    at?: number;
    seconds?: number;
    region?: string;
  } = {},
): string {
  const { method = 'GET', query = {}, at: now = Date.now(), seconds = 60, region = 'us-east-1' } = more;
  const at = new Date(now).toISOString().replace(/[-:]|\.\d+/g, '');
  const all: [string, string][] = [
    ...Object.entries(query),
    ['X-Amz-Algorithm', ALGORITHM],
    ['X-Amz-Credential', `${keys.id}/${at.slice(0, 8)}/${region}/s3/aws4_request`],
    ['X-Amz-Date', at],
    ['X-Amz-Expires', String(seconds)],
    ['X-Amz-SignedHeaders', 'host'],
  ];
  const own = signature({ method, host: base.host, path, query: all, at, region }, keys);
  all.push(['X-Amz-Signature', own]);
  return `${base.origin}${path}?${all.map(([name, value]) => `${encoded(name)}=${encoded(value)}`).join('&')}`;
}

/** Whether a link was signed with these keys, for this method and object, and is good still. @param query all of it, each name once */
export function isSigned(
  asked: { method: string; host: string; path: string; query: ReadonlyMap<string, string> },
  keys: Keys,
  now = Date.now(),
): boolean {
  const query = new Map(asked.query);
  const [at, seconds] = [query.get('X-Amz-Date') ?? '', Number(query.get('X-Amz-Expires'))];
  const [, day, region] = (query.get('X-Amz-Credential') ?? '').split('/');
  const time = /^(\d{4})(\d\d)(\d\d)T(\d\d)(\d\d)(\d\d)Z$/.exec(at);
  if (!time || !region || query.get('X-Amz-Algorithm') !== ALGORITHM || query.get('X-Amz-SignedHeaders') !== 'host')
    return false;
  if (query.get('X-Amz-Credential') !== `${keys.id}/${day}/${region}/s3/aws4_request` || day !== at.slice(0, 8))
    return false;
  const from = Date.UTC(+time[1], +time[2] - 1, +time[3], +time[4], +time[5], +time[6]);
  // Seven days are the most; clocks may be a minute apart.
  if (!(seconds >= 1 && seconds <= 604_800) || now > from + seconds * 1000 || now < from - 60_000) return false;
  const shown = query.get('X-Amz-Signature') ?? '';
  query.delete('X-Amz-Signature');
  const own = signature({ ...asked, query: [...query], at, region }, keys);
  return /^[0-9a-f]{64}$/.test(shown) && timingSafeEqual(Buffer.from(shown), Buffer.from(own));
}

/** Keys as they stand in the environment, `ID:SECRET`. */
export function keysIn(text: string | undefined): Keys | undefined {
  const found = /^([\w.-]{3,128}):(\S{8,256})$/.exec(text ?? '');
  return found ? { id: found[1], secret: found[2] } : undefined;
}
