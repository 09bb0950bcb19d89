import type { TableName } from '@core/library';
import { closed, count, flag, list, path, text } from './parts';
import { recordValidator } from './records';

/** A pull as a file: its sounds by root and path, and by their audio where it was measured; or the folder that it is. */
export interface PullFile {
  format: 'cormorant-pull';
  version: 1;
  name: string;
  shelf?: string;
  live?: { root: string; folder: string };
  sounds: { root: string; path: string; part?: { start: number; end: number }; hash?: string; note?: string }[];
}

/** A file of a delivery. */
export interface DeliveredFile {
  path: string;
  /** What it is, in words. */
  what: string;
  /** A sum of all that it was made from. */
  of: string;
  bytes: number;
  sha256: string;
  /** It is one of an earlier delivery, and no part of the last one. */
  former?: boolean;
}

/** What a delivered scene consists of; it lies beside its files. */
export interface DeliveryManifest {
  format: 'cormorant-delivery';
  version: 1;
  scene: string;
  fps: string;
  /** Timecodes of its first frame, and of the first one behind it. */
  start: string;
  end: string;
  /** When it was delivered, ISO 8601. */
  made: string;
  files: DeliveredFile[];
}

/** A path that stays below the folder that it is told of: no step is empty, up, or the folder itself. */
const below = {
  ...path,
  pattern: '^(?!\\.{1,2}(/|$))[^/\\\\\\u0000-\\u001f]+(/(?!\\.{1,2}(/|$))[^/\\\\\\u0000-\\u001f]+)*$',
};

const record = (table: TableName) => ({ $ref: recordValidator(table) });
const id = { type: 'integer', minimum: 1 } as const;

/** Schemas of files that are shared and delivered. */
export const ownFiles = {
  sceneFile: closed({
    format: { const: 'cormorant-scenes' },
    version: { const: 1 },
    made: text,
    scenes: list(
      closed({
        scene: record('scenes'),
        ...Object.fromEntries(
          (['tracks', 'effects', 'cues', 'markers', 'versions'] as const).map((part) => [part, list(record(part))]),
        ),
      }),
    ),
    roots: list(closed({ id, name: text })),
    sounds: list(closed({ sound: record('sounds'), tags: list(text), media: below }, ['media'])),
    pulls: list(closed({ id, name: text, soundIds: list(id) })),
    pictures: list(closed({ rootId: id, path, size: count, media: below }, ['media'])),
  }),
  pullFile: closed(
    {
      format: { const: 'cormorant-pull' },
      version: { const: 1 },
      name: { ...text, minLength: 1 },
      shelf: text,
      live: closed({ root: text, folder: text }),
      sounds: list(
        closed(
          {
            ...{ root: text, path: text, note: text },
            part: closed({ start: count, end: count }),
            hash: { type: 'string', pattern: '^[0-9a-f]{8,64}$' },
          },
          ['part', 'hash', 'note'],
        ),
      ),
    },
    ['shelf', 'live'],
  ),
  delivery: closed({
    format: { const: 'cormorant-delivery' },
    version: { const: 1 },
    ...{ scene: text, fps: text, start: text, end: text, made: text },
    files: list(
      closed(
        {
          path: below,
          what: text,
          of: text,
          bytes: count,
          sha256: { type: 'string', pattern: '^[0-9a-f]{64}$' },
          former: flag,
        },
        ['former'],
      ),
    ),
  }),
};
