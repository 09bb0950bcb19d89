import type { TableName } from '@core/library';
import { soundOf } from './catalogue';

/** A good record of each table, with every property that it may have. */
export const examples: Record<TableName, { id: number }> = {
  roots: {
    id: 2,
    name: 'Tapes',
    kind: 'server',
    serverId: 'abc',
    place: '/srv/tapes',
    added: 1,
    halt: 'paused',
    base: 'http://127.0.0.1:4750/team/v1/libraries/1/at/',
    team: {
      ...{ library: 1, list: 2, revision: 3, right: 'add', person: 'Maren' },
      waiting: [{ person: 'Idris', sounds: [1, 2] }],
    },
  } as never,
  intakes: { id: 3, rootId: 2, started: 5, added: 1, changed: 2, moved: 3, gone: 4 } as never,
  sounds: {
    ...soundOf(7, { tags: [4], keywords: ['rope'], stars: 3, 'description@de': 'Tau', loudness: -20.5 }),
    excerpt: { start: 10, end: 90 },
    from: { keywords: 'typed', loudness: 'measured' },
    marks: {
      anchor: 12,
      region: { start: 1, end: 9 },
      regions: [{ name: 'hit', start: 2, end: 4 }],
      loop: { start: 0, end: 8 },
      shape: { gain: -3, speed: 2, direction: 'backward', fadeIn: 0.1, channels: 'mono' },
    },
    warnings: ['cut off'],
    quickHash: 'aa',
    hash: 'bb',
    artwork: { mime: 'image/png', offset: 5, length: 9 },
    hidden: 'aside',
    built: { of: [7], build: 6, version: 19 },
    made: { family: 'riser', seed: 7, values: { length: 3.5 } },
    picture: { sha256: 'a'.repeat(64), mime: 'image/png', size: 900 },
    team: { id: 3, file: 'ab', was: { fxName: 'Rope', stars: 3, tags: ['rusty'] }, conflicts: ['fxName'] },
  } as never,
  tags: { id: 4, name: 'rusty' } as never,
  pulls: {
    ...{ id: 5, name: 'Reel 1', soundIds: [7], created: 5, shelf: 'A/B', notes: { 7: 'loud' } },
    live: { rootId: 2, folder: 'a' },
    team: { list: 2, was: { name: 'Reel 1', members: [{ library: 1, sound: 3, note: 'loud' }] } },
  } as never,
  scenes: {
    ...{ id: 6, name: 'Ferry', fps: '24', startFrame: 86_400, sampleRate: 48_000, length: 48_000 },
    picture: {
      ...{ rootId: 2, path: 'a.webm', name: 'a', frames: 9, offset: 3 },
      ...{ variable: { least: 18, most: 30 }, guide: { gain: -6, mute: true } },
    },
    loop: { start: 1, end: 2 },
    main: { gain: -1, place: 0.1, points: { gain: [{ at: 0, value: -3 }] } },
    cuts: {
      of: '2/a.webm/9',
      found: [{ frame: 4, kind: 'cut', strength: 0.5 }],
      motion: { events: [{ frame: 6, kind: 'stop', strength: 0.7, x: 0.2, y: 0.9 }], curve: 'AAH/', step: 3 },
    },
    listed: [{ at: 2000, kind: 'dissolve', name: 'Pier' }],
    allowed: [{ soundId: 7, note: 'asked its author' }],
    pads: [
      {
        ...{ slot: 1, source: { by: 'hand', soundIds: [7] }, trackId: 17, gain: { least: -9, most: 0 } },
        ...{ force: { least: 20, most: 90 }, ends: 'all' },
      },
    ],
    takes: [{ id: 1, name: 'Take 1', at: 5, aside: [] }],
    movers: [
      {
        ...{ id: 1, kind: 'follower', values: { rise: 5 }, line: 17 },
        moves: [{ of: 'effect', id: 20, key: 'gain', from: -24, to: 0, bend: 'late' }],
      },
    ],
    ranges: [{ of: 'layer', id: 17, key: 'pitch', least: -2, most: 2 }],
    build: { anchor: 9, played: { voices: 8, gives: 'first', keyUp: 'plays on', keys: 'sounds' } },
  } as never,
  tracks: {
    ...{
      id: 17,
      sceneId: 6,
      order: 0,
      name: 'Steps',
      gain: 0,
      mute: false,
      solo: true,
      place: -0.5,
      behind: 0.4,
      locked: true,
    },
    ...{ colour: 'sky', group: 'Feet', bus: false, into: 17, points: { gain: [{ at: 0, value: -3 }] } },
    struck: { on: 'up', voices: 2 },
  } as never,
  effects: {
    ...{ id: 20, sceneId: 6, lineId: 17, order: 0, kind: 'send', on: true, line: 17, values: { gain: -6 } },
    sound: { id: 7, rate: 48_000 },
    points: { gain: [{ at: 5, value: -12 }] },
  } as never,
  cues: {
    ...{ id: 8, sceneId: 6, trackId: 17, soundId: 7, name: 'step', at: 100, anchor: 3, start: 0, end: 900 },
    ...{
      rate: 48_000,
      gain: -2,
      mute: false,
      fadeIn: 0,
      fadeOut: 0.1,
      shape: { speed: 2, channels: 'mono' },
      locked: true,
    },
    ...{ colour: 'plum', place: 0.5, tried: [7], made: 5, take: 1 },
  } as never,
  markers: { id: 18, sceneId: 6, at: 12, name: 'Rope', colour: 'moss' } as never,
  versions: {
    ...{ id: 19, sceneId: 6, name: 'Second', at: 5, loop: { start: 0, end: 9 } },
    tracks: [{ id: 17, sceneId: 6, order: 0, name: 'Steps', gain: 0, mute: false, solo: true }],
    cues: [
      {
        ...{ id: 8, sceneId: 6, trackId: 17, soundId: 7, name: 'step', at: 100, anchor: 3, start: 0, end: 900 },
        ...{ rate: 48_000, gain: -2, mute: false, fadeIn: 0, fadeOut: 0.1 },
      },
    ],
    markers: [{ id: 18, sceneId: 6, at: 12, name: 'Rope' }],
  } as never,
  problems: { id: 9, rootId: 2, path: 'b.wav', reason: 'empty', at: 4, size: 0, modified: 3, again: true } as never,
  stamps: { id: 10, name: 'Yard', values: { library: 'Yard', tags: [4] }, key: 3, rootIds: [2] } as never,
  recipes: { id: 11, name: 'Upper', steps: [{ kind: 'case', on: true, to: 'notes', form: 'upper' }] } as never,
  shortNames: { id: 12, kind: 'creator', name: 'Ada Moor', short: 'AM' } as never,
  categories: {
    ...{ id: 13, own: true, catId: 'BOATMech', category: 'BOATS', subCategory: 'MECHANICAL', catShort: 'BOAT' },
    ...{ explanation: 'Winches', synonyms: ['winch'] },
  } as never,
  searches: { id: 14, name: 'Ropes', view: 'q=rope', created: 4 } as never,
  alikes: { id: 15, words: ['rope', 'tau'] } as never,
  bin: {
    ...{ id: 16, at: 4, table: 'tags', record: { id: 4, name: 'rusty' }, soundIds: [7] },
    rows: [{ table: 'tags', record: { id: 5, name: 'wet' } }],
  } as never,
};

/** Every place in a record: paths of its properties and of members of its lists. */
export function placesIn(value: unknown, path: readonly (string | number)[] = []): (readonly (string | number)[])[] {
  if (typeof value !== 'object' || value === null) return [path];
  const inner = Object.keys(value).flatMap((key) =>
    placesIn((value as Record<string, unknown>)[key], [...path, Array.isArray(value) ? Number(key) : key]),
  );
  return path.length === 0 ? inner : [path, ...inner];
}

/** A record with something else in one place; without it when `value` is undefined. */
export function brokenAt<T extends object>(record: T, path: readonly (string | number)[], value: unknown): T {
  const copy = structuredClone(record);
  let at = copy as Record<string | number, unknown>;
  for (const key of path.slice(0, -1)) at = at[key] as typeof at;
  const last = path[path.length - 1];
  if (value === undefined && !Array.isArray(at)) delete at[last];
  else at[last] = value;
  return copy;
}
