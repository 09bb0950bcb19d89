import { closed, count, list, text } from './parts';

/** A file that a service offers. */
export interface OfferedFile {
  /** Below the address of the service. */
  href: string;
  size: number;
  sha256: string;
  /** What it is called where it is kept. */
  name: string;
}

/** A sound that others share openly. */
export interface OpenSound {
  id: string;
  title: string;
  author: string;
  description: string;
  tags: string[];
  /** Such as `CC BY 4.0`. */
  licence: string;
  /** The page on which its author shares it. */
  page: string;
  /** When it was shared, ISO 8601. */
  shared: string;
  seconds: number;
  /** Of the original: Hz, bits and channels. */
  rate: number;
  bits: number;
  channels: number;
  /** Frame of the original that lands on the picture event, where the service knows one. */
  anchor: number;
  /** Lowest and highest samples of equal spans of it, as in `Peaks`: two digits each, see `contourCode`. */
  contour: string;
  /** What it is compared by: see `likeCode`. */
  like: string;
  original: OfferedFile;
  /** The same, lossily coded. */
  preview: OfferedFile;
}

/** One page of what a service of open sounds found. */
export interface OpenPage {
  /** Sounds that were found, on all pages. */
  total: number;
  /** This one, from 1 on, and how many there are. */
  page: number;
  pages: number;
  sounds: OpenSound[];
  /** How many of all that were found have each licence, and each author. */
  licences: Record<string, number>;
  authors: Record<string, number>;
}

/** What a service of open sounds says of itself. */
export interface OpenService {
  service: 'open-sounds';
  version: 1;
  name: string;
  sounds: number;
  /** All licences that its sounds have. */
  licences: string[];
}

/** Services that a server knows of, by their addresses; each is absent where there is none. */
export interface Services {
  commons?: string;
  exchange?: string;
  host?: string;
  team?: string;
}

const sum = { type: 'string', pattern: '^[0-9a-f]{64}$' };
/** A path below the address of the service: no scheme, no host, no way up. */
const href = { type: 'string', maxLength: 500, pattern: '^(?!.*\\.\\.)[A-Za-z0-9][A-Za-z0-9._/-]*$' };
const short = { type: 'string', minLength: 1, maxLength: 300 };
const file = closed({ href, size: count, sha256: sum, name: short });
const counts = { type: 'object', maxProperties: 1000, additionalProperties: count };
const address = { type: 'string', maxLength: 500 };
const web = { type: 'string', maxLength: 1000, pattern: '^https?://' };

/** Schemas of what services answer. */
export const services = {
  services: closed({ commons: address, exchange: address, host: address, team: address }, [
    ...['commons', 'exchange', 'host', 'team'],
  ]),
  openService: closed({
    service: { const: 'open-sounds' },
    version: { const: 1 },
    name: short,
    sounds: count,
    licences: { type: 'array', maxItems: 1000, items: { type: 'string', maxLength: 100 } },
  }),
  openPage: closed({
    ...{ total: count, page: { ...count, minimum: 1 }, pages: count, licences: counts, authors: counts },
    sounds: {
      ...list(
        closed({
          ...{ id: { type: 'string', pattern: '^[A-Za-z0-9-]{1,60}$' }, title: short, author: short },
          ...{ description: text, licence: { type: 'string', maxLength: 100 }, page: web, shared: short },
          tags: { type: 'array', maxItems: 200, items: short },
          seconds: { type: 'number', exclusiveMinimum: 0, maximum: 86_400 },
          rate: { type: 'integer', minimum: 1000, maximum: 1_000_000 },
          bits: { type: 'integer', minimum: 0, maximum: 64 },
          channels: { type: 'integer', minimum: 1, maximum: 128 },
          anchor: count,
          contour: { type: 'string', maxLength: 16_384, pattern: '^([0-9a-f]{4})*$' },
          like: { type: 'string', maxLength: 1000 },
          ...{ original: file, preview: file },
        }),
      ),
      maxItems: 200,
    },
  }),
};
