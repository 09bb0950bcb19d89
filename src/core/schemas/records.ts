import { fields, type FieldType, type TableName } from '@core/library';
import { pictureRef } from './exchange';
import { closed, colours, count, flag, key, text } from './parts';

/**
 * The shape of every record of every table: what comes in from a backup, what an edit makes of a record, and what the store gives
 * back is held against these. Ids stay far below 2^32, which is as far as the index counts.
 */
const id = { type: 'integer', minimum: 1, maximum: 2_000_000_000 } as const;
const time = { type: 'number', minimum: -8.64e15, maximum: 8.64e15 } as const;
const number = { type: 'number' } as const;
const name = { type: 'string', minLength: 1, maxLength: 4096 } as const;
const long = { type: 'string', maxLength: 2_000_000 } as const;
const frame = { type: 'integer', minimum: 0, maximum: Number.MAX_SAFE_INTEGER } as const;
const ids = { type: 'array', items: id, maxItems: 5_000_000 } as const;
const words = { type: 'array', items: long, maxItems: 100_000 } as const;
const map = (values: object) => ({ type: 'object', additionalProperties: values, maxProperties: 1_000_000 });
const span = closed({ start: frame, end: frame });

/** Values of fields, each compiled once. */
const valueSchemas: Record<FieldType, object> = {
  text: long,
  longtext: long,
  choice: long,
  list: words,
  tags: ids,
  number,
  stars: { type: 'integer', minimum: 0, maximum: 5 },
  date: time,
};
const value = (type: FieldType) => ({ $ref: `${type}Value` });
/** Values of fields by key; of fields that the registry does not know, such as those in other languages, whatever a field may hold. */
const fieldValues = {
  type: 'object',
  properties: Object.fromEntries(fields.map((f) => [f.key, value(f.type)])),
  additionalProperties: { anyOf: [value('text'), number, value('list'), { type: 'array', items: number }] },
};

export const format = closed(
  {
    container: { enum: ['WAV', 'RF64', 'RIFX', 'AIFF', 'AIFF-C', 'FLAC', 'Ogg', 'MP3', 'MP4'] },
    encoding: { enum: ['pcm', 'float', 'alaw', 'mulaw', 'coded'] },
    unsigned: flag,
    littleEndian: flag,
    rate: { type: 'number', exclusiveMinimum: 0, maximum: 10_000_000 },
    channels: { type: 'integer', minimum: 1, maximum: 1024 },
    bits: { type: 'integer', minimum: 0, maximum: 64 },
    blockAlign: { type: 'integer', minimum: 0, maximum: 65_536 },
    frames: frame,
    dataOffset: frame,
    skip: frame,
    lead: frame,
    whole: flag,
  },
  ['skip', 'lead', 'whole'],
);
const shape = {
  type: 'object',
  properties: {
    gain: number,
    speed: { type: 'number', exclusiveMinimum: 0 },
    length: { type: 'number', exclusiveMinimum: 0 },
    pitch: number,
    texture: text,
    direction: text,
    fadeIn: { type: 'number', minimum: 0 },
    fadeOut: { type: 'number', minimum: 0 },
    fade: text,
    channels: { anyOf: [text, { type: 'integer', minimum: 0, maximum: 1024 }] },
  },
  additionalProperties: false,
};
const marks = closed(
  {
    anchor: { type: 'number', minimum: -1, maximum: Number.MAX_SAFE_INTEGER },
    region: span,
    regions: { type: 'array', items: closed({ name: long, start: frame, end: frame }), maxItems: 100_000 },
    loop: span,
    shape,
  },
  ['region', 'regions', 'loop', 'shape'],
);
const sound = closed(
  {
    id,
    rootId: id,
    path: { type: 'string', minLength: 1, maxLength: 65_536 },
    size: frame,
    modified: time,
    intakeId: { type: 'integer', minimum: 0, maximum: 2_000_000_000 },
    format,
    excerpt: span,
    fields: { $ref: 'fieldValues' },
    from: map(text),
    marks,
    warnings: words,
    quickHash: { type: 'string', maxLength: 128 },
    hash: { type: 'string', maxLength: 128 },
    artwork: closed({ mime: text, offset: frame, length: frame }),
    hidden: { enum: ['aside', 'retired'] },
    built: closed({ of: ids, build: id, version: id }, ['build', 'version']),
    made: closed({ family: text, seed: { type: 'integer', minimum: 0, maximum: 0xffffffff }, values: map(number) }),
    told: closed({ publisher: text, hash: text, revision: count, labels: map(long), artwork: pictureRef }, ['artwork']),
    picture: pictureRef,
    team: closed({ id, file: text, was: map({ anyOf: [long, number, words] }), conflicts: words }, ['conflicts']),
  },
  ['excerpt', 'quickHash', 'hash', 'artwork', 'hidden', 'built', 'made', 'told', 'picture', 'team'],
);
const folder = closed({ rootId: id, folder: { type: 'string', maxLength: 65_536 } });
const binnedRecord = { type: 'object', properties: { id }, required: ['id'] };
const sharedList = closed({
  name,
  members: { type: 'array', maxItems: 100_000, items: closed({ library: id, sound: id, note: long }) },
});
const pull = closed(
  {
    ...{ id, name, soundIds: ids, created: time, shelf: text, live: folder, notes: map(long) },
    team: closed({ list: id, was: sharedList }),
  },
  ['shelf', 'live', 'notes', 'team'],
);
const root = closed(
  {
    id,
    name,
    kind: { enum: ['server', 'picked', 'copied', 'team'] },
    serverId: { type: 'string', maxLength: 128 },
    base: { type: 'string', maxLength: 4096 },
    team: closed(
      {
        ...{ library: id, list: id, revision: count, right: text, person: text },
        waiting: { type: 'array', maxItems: 1000, items: closed({ person: text, sounds: ids }) },
      },
      ['list', 'right', 'person', 'waiting'],
    ),
    place: { type: 'string', maxLength: 65_536 },
    handles: { type: 'array', maxItems: 100_000 },
    added: time,
    halt: { enum: ['paused', 'cancelled'] },
    removed: { enum: ['kept', 'hidden', 'retired'] },
  },
  ['serverId', 'base', 'team', 'place', 'handles', 'halt', 'removed'],
);
const intake = closed({ id, rootId: id, started: time, added: count, changed: count, moved: count, gone: count }, [
  'changed',
  'moved',
  'gone',
]);
const problem = closed(
  {
    id,
    rootId: id,
    path: { type: 'string', maxLength: 65_536 },
    reason: long,
    at: time,
    size: number,
    modified: time,
    again: flag,
    folder: flag,
  },
  ['size', 'modified', 'again', 'folder'],
);
const colour = { enum: colours } as const;
const side = { type: 'number', minimum: -1, maximum: 1 } as const;
const share = { type: 'number', minimum: 0, maximum: 1 } as const;
const points = {
  type: 'object',
  maxProperties: 200,
  additionalProperties: { type: 'array', maxItems: 1_000_000, items: closed({ at: number, value: number }) },
};
const track = closed(
  {
    ...{ id, sceneId: id, order: number, name: text, gain: number, mute: flag, solo: flag },
    ...{ place: side, behind: share, locked: flag, colour, group: text, bus: flag, into: id, points },
    struck: closed({ on: { const: 'up' }, voices: { type: 'integer', minimum: 1, maximum: 64 } }, ['on', 'voices']),
  },
  ['place', 'behind', 'locked', 'colour', 'group', 'bus', 'into', 'points', 'struck'],
);
const effect = closed(
  {
    ...{
      id,
      sceneId: id,
      lineId: { ...id, minimum: 0 },
      order: number,
      kind: { type: 'string', minLength: 1, maxLength: 40 },
      on: flag,
    },
    ...{ line: id, sound: closed({ id, rate: { type: 'number', exclusiveMinimum: 0, maximum: 10_000_000 } }) },
    ...{ values: { type: 'object', maxProperties: 200, additionalProperties: number }, points },
  },
  ['line', 'sound', 'points'],
);
const main = closed({ gain: number, place: side, points }, ['place', 'points']);
const move = closed({
  ...{ of: { enum: ['line', 'effect'] }, id: { ...id, minimum: 0 }, key: { type: 'string', maxLength: 40 } },
  ...{ from: number, to: number, bend: { enum: ['straight', 'late', 'early'] } },
});
const movers = {
  type: 'array',
  maxItems: 200,
  items: closed(
    {
      ...{ id, kind: { type: 'string', minLength: 1, maxLength: 40 } },
      values: { type: 'object', maxProperties: 200, additionalProperties: number },
      line: id,
      moves: { type: 'array', items: move, maxItems: 1000 },
    },
    ['line'],
  ),
};
const ranges = {
  type: 'array',
  maxItems: 1000,
  items: closed({
    ...{ of: { enum: ['layer', 'effect'] }, id, key: { type: 'string', maxLength: 40 }, least: number, most: number },
  }),
};
const loop = closed({ start: { type: 'number', minimum: 0 }, end: { type: 'number', minimum: 0 } });
const cue = closed(
  {
    ...{ id, sceneId: id, trackId: id, soundId: id, name: text },
    ...{ at: number, anchor: number, start: number, end: number },
    rate: { type: 'number', exclusiveMinimum: 0, maximum: 10_000_000 },
    ...{ gain: number, mute: flag, fadeIn: { type: 'number', minimum: 0 }, fadeOut: { type: 'number', minimum: 0 } },
    ...{ shape, locked: flag, colour, place: side, tried: ids, made: time, take: id },
  },
  ['shape', 'locked', 'colour', 'place', 'tried', 'made', 'take'],
);
const bounds = closed({ least: number, most: number });
const pad = closed(
  {
    slot: { type: 'integer', minimum: 0, maximum: 7 },
    source: {
      oneOf: [
        closed({ by: { const: 'hand' }, soundIds: ids }),
        closed({ by: { const: 'pull' }, pullId: id }),
        closed({ by: { const: 'query' }, text }),
      ],
    },
    ...{ trackId: id, gain: bounds, force: bounds, ends: { enum: ['lasting', 'all', 'none'] } },
  },
  ['trackId', 'force'],
);
const taken = closed({ id, name, at: time, aside: { type: 'array', items: cue, maxItems: 1_000_000 } }, ['aside']);
/** A part of a whole. */
const scene = closed(
  {
    id,
    name,
    fps: { type: 'string', minLength: 1, maxLength: 16 },
    startFrame: { type: 'integer' },
    sampleRate: { type: 'number', exclusiveMinimum: 0, maximum: 10_000_000 },
    picture: closed(
      {
        ...{ rootId: id, path: { type: 'string', maxLength: 65_536 }, name: text, frames: count },
        offset: { type: 'integer', minimum: -10_000_000, maximum: 10_000_000 },
        variable: closed({ least: number, most: number }),
        guide: closed({ gain: number, mute: flag }),
      },
      ['offset', 'variable', 'guide'],
    ),
    length: { type: 'number', minimum: 0 },
    loop,
    main,
    movers,
    ranges,
    cuts: closed(
      {
        of: { type: 'string', maxLength: 70_000 },
        found: {
          type: 'array',
          maxItems: 1_000_000,
          items: closed({
            frame: count,
            kind: { enum: ['cut', 'dissolve'] },
            strength: share,
          }),
        },
        motion: closed({
          events: {
            type: 'array',
            maxItems: 1_000_000,
            items: closed({ frame: count, kind: { enum: ['peak', 'stop'] }, strength: share, x: share, y: share }),
          },
          curve: { type: 'string', maxLength: 40_000, pattern: '^[A-Za-z0-9+/]*={0,2}$' },
          step: { type: 'integer', minimum: 1, maximum: 10_000_000 },
        }),
      },
      ['motion'],
    ),
    listed: {
      type: 'array',
      maxItems: 100_000,
      items: closed({ at: number, kind: { enum: ['cut', 'dissolve'] }, name: text }),
    },
    allowed: { type: 'array', maxItems: 100_000, items: closed({ soundId: id, note: text }) },
    pads: { type: 'array', items: pad, maxItems: 8 },
    takes: { type: 'array', items: taken, maxItems: 10_000 },
    build: closed(
      {
        anchor: count,
        played: closed(
          {
            voices: { type: 'integer', minimum: 1, maximum: 64 },
            gives: { enum: ['first', 'quietest'] },
            keyUp: { enum: ['ends', 'plays on'] },
            keys: { enum: ['pitch', 'sounds'] },
          },
          ['keys'],
        ),
      },
      ['played'],
    ),
  },
  ['picture', 'loop', 'main', 'movers', 'ranges', 'cuts', 'listed', 'allowed', 'pads', 'takes', 'build'],
);
const marker = closed({ id, sceneId: id, at: number, name: text, colour }, ['colour']);
const version = closed(
  {
    ...{ id, sceneId: id, name, at: time, loop },
    tracks: { type: 'array', items: track, maxItems: 10_000 },
    cues: { type: 'array', items: cue, maxItems: 1_000_000 },
    markers: { type: 'array', items: marker, maxItems: 1_000_000 },
    effects: { type: 'array', items: effect, maxItems: 100_000 },
    main,
    movers,
    ranges,
  },
  ['loop', 'effects', 'main', 'movers', 'ranges'],
);
const stamp = closed(
  { id, name, values: { $ref: 'fieldValues' }, key: { type: 'integer', minimum: 0, maximum: 9 }, rootIds: ids },
  ['key', 'rootIds'],
);
const category = closed({
  ...{ id, own: flag, catId: key, category: text, subCategory: text, catShort: text, explanation: long },
  synonyms: { type: 'array', items: text, maxItems: 10_000 },
});
const tables: Record<TableName, object> = {
  roots: root,
  intakes: intake,
  sounds: sound,
  tags: closed({ id, name }),
  pulls: pull,
  scenes: scene,
  tracks: track,
  effects: effect,
  cues: cue,
  markers: marker,
  versions: version,
  problems: problem,
  stamps: stamp,
  recipes: closed({ id, name, steps: { $ref: 'steps' } }),
  shortNames: closed({ id, kind: { enum: ['creator', 'publisher', 'library'] }, name: text, short: text }),
  categories: category,
  searches: closed({ id, name, view: { type: 'string', maxLength: 65_536 }, created: time }),
  alikes: closed({ id, words: { type: 'array', items: text, maxItems: 1000 } }),
  bin: closed(
    {
      ...{ id, at: time, table: text, soundIds: ids },
      record: binnedRecord,
      rows: { type: 'array', maxItems: 1_000_000, items: closed({ table: text, record: binnedRecord }) },
    },
    ['soundIds', 'rows'],
  ),
};

/** The name of a table's validator. */
export const recordValidator = (table: TableName): string => `${table}Record`;

export const recordSchemas: Record<string, object> = {
  fieldValues,
  ...Object.fromEntries(Object.entries(valueSchemas).map(([type, schema]) => [`${type}Value`, schema])),
  ...Object.fromEntries(Object.entries(tables).map(([table, schema]) => [recordValidator(table as TableName), schema])),
};
