import type { PictureRef } from '@core/library';
import { closed, count, key, list } from './parts';

/** A robust fingerprint as a text; see `printText`. */
export interface PrintText {
  words: string;
  under: string;
}

/** What a publisher says of one sound. */
export interface ExchangeEntry {
  /** Of its audio alone; see `ExactHash`. */
  hash: string;
  /** Of the publisher, when it was said. */
  revision: number;
  /** By field, as texts. */
  labels: Record<string, string>;
  artwork?: PictureRef;
}

/** A key that may be shown: what is signed with its other half can be checked by it. ECDSA on P-256 (FIPS 186-5), as RFC 7517 writes it. */
export interface PublicKey {
  kty: 'EC';
  crv: 'P-256';
  x: string;
  y: string;
}

/** What somebody publishes, signed as it is sent. */
export interface PublishAsk {
  publisher: string;
  key: PublicKey;
  /** The revision that it follows; 0 for the first. */
  after: number;
  /** ISO 8601. */
  at: string;
  note: string;
  entries: { hash: string; print: PrintText; labels: Record<string, string>; artwork?: PictureRef }[];
  /** Pictures that entries name, each once, as base64: those that were not sent before. */
  pictures?: { sha256: string; data: string }[];
  /** Hashes of sounds of which nothing is said any more. */
  withdrawn: string[];
}

/** The key of a publisher's name as a file, with its secret half. */
export interface PublisherKeyFile {
  format: 'cormorant-key';
  version: 1;
  publisher: string;
  key: PublicKey & { d: string };
}

/** One change of what a publisher says. */
export interface Publication {
  revision: number;
  at: string;
  note: string;
  added: number;
  changed: number;
  withdrawn: number;
}

/** What is known of a publisher. */
export interface PublisherFacts {
  publisher: string;
  revision: number;
  sounds: number;
  key: PublicKey;
  publications: Publication[];
}

/** Asks what a publisher says of sounds by their exact fingerprints, or since a revision. */
export interface LookupAsk {
  publisher: string;
  hashes: string[];
  since?: number;
}

/** Asks what a publisher says of sounds by their robust fingerprints. */
export interface NearAsk {
  publisher: string;
  prints: PrintText[];
}

/** What a publisher says of sounds that were asked for. */
export interface LookupAnswer {
  publisher: string;
  revision: number;
  entries: ExchangeEntry[];
  /** Of those asked for, what the publisher has withdrawn since. */
  withdrawn: string[];
}

/** The same for robust fingerprints, by their places in what was asked. */
export interface NearAnswer {
  publisher: string;
  revision: number;
  found: { at: number; entry: ExchangeEntry }[];
}

/** What an exchange says of itself. */
export interface ExchangeService {
  service: 'label-exchange';
  version: 1;
  name: string;
  publishers: number;
}

/** Bytes of a picture, and pictures that are published at once, at the most. */
export const MOST_PICTURE = { bytes: 256 << 10, count: 200 } as const;

/** The most sounds of which one may ask at once, by exact and by robust fingerprints. */
export const MOST_ASKED = { hashes: 20_000, prints: 200 } as const;

const hash = { type: 'string', pattern: '^[0-9a-f]{32}$' };
const named = { type: 'string', minLength: 1, maxLength: 200, pattern: '\\S' };
const said = { type: 'string', maxLength: 20_000 };
const labels = { type: 'object', maxProperties: 100, propertyNames: key, additionalProperties: said };
const print = closed({
  words: { type: 'string', maxLength: 20_000, pattern: '^([0-9a-f]{8})*$' },
  under: { type: 'string', maxLength: 5000, pattern: '^([0-9a-f]{2})*$' },
});
const coordinate = { type: 'string', pattern: '^[A-Za-z0-9_-]{43}$' };
const point = { kty: { const: 'EC' }, crv: { const: 'P-256' }, x: coordinate, y: coordinate };
const publicKey = closed(point);
const picture = {
  sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' },
  mime: { enum: ['image/png', 'image/jpeg'] },
  size: { type: 'integer', minimum: 1, maximum: MOST_PICTURE.bytes },
};
/** A picture by its content. */
export const pictureRef = closed(picture);
const entry = closed({ hash, revision: count, labels, artwork: pictureRef }, ['artwork']);
const when = { type: 'string', maxLength: 40, pattern: '^\\d{4}-\\d\\d-\\d\\dT[0-9:.]+Z$' };
const note = { type: 'string', maxLength: 1000 };
const most = (items: object, maxItems: number) => ({ type: 'array', items, maxItems });

const publication = closed({ revision: count, at: when, note, added: count, changed: count, withdrawn: count });

/** Schemas of what an exchange is asked, and of what it answers. */
export const exchange = {
  exchangeService: closed({
    service: { const: 'label-exchange' },
    version: { const: 1 },
    name: named,
    publishers: count,
  }),
  lookupAsk: closed({ publisher: named, hashes: most(hash, MOST_ASKED.hashes), since: count }, ['since']),
  nearAsk: closed({ publisher: named, prints: most(print, MOST_ASKED.prints) }),
  publishAsk: closed(
    {
      ...{ publisher: named, key: publicKey, after: count, at: when, note, withdrawn: list(hash) },
      entries: list(closed({ hash, print, labels, artwork: pictureRef }, ['artwork'])),
      pictures: most(
        closed({ sha256: picture.sha256, data: { type: 'string', maxLength: Math.ceil(MOST_PICTURE.bytes * 1.4) } }),
        MOST_PICTURE.count,
      ),
    },
    ['pictures'],
  ),
  lookupAnswer: closed({ publisher: named, revision: count, entries: list(entry), withdrawn: list(hash) }),
  nearAnswer: closed({ publisher: named, revision: count, found: list(closed({ at: count, entry })) }),
  publication,
  publisherKeyFile: closed({
    ...{ format: { const: 'cormorant-key' }, version: { const: 1 }, publisher: named },
    key: closed({ ...point, d: coordinate }),
  }),
  publisherFacts: closed({
    ...{ publisher: named, revision: count, sounds: count, key: publicKey },
    publications: list(publication),
  }),
};
