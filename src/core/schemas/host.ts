import { closed, colours, count, flag, type Colour } from './parts';

/** A piece of a file on a track of a session host. Samples at the session’s rate. */
export interface HostItem {
  id: number;
  /** The track’s id. */
  track: number;
  at: number;
  length: number;
  /** Frame of its file with which it begins, and how many its file has: an edge can be pulled out as far as these go. */
  from: number;
  frames: number;
  /** SHA-256 of its file. */
  file: string;
  name: string;
  colour?: Colour;
  /** dB */
  gain: number;
  /** Samples. */
  fadeIn: number;
  fadeOut: number;
}

export interface HostTrack {
  id: number;
  name: string;
}

/** Something that was done in a session, and can be taken back. */
export interface HostStep {
  id: number;
  label: string;
  /** Who did it. */
  by: string;
}

/** All there is to know of a session host. */
export interface HostState {
  name: string;
  /** Hz, and bits of its files: 16 or 24. */
  rate: number;
  bits: number;
  /** Name of a frame rate, and the frame from midnight on which it begins. */
  fps: string;
  startFrame: number;
  tracks: HostTrack[];
  items: HostItem[];
  /** The selected track. */
  selected: number;
  /** Where it stands, and what is selected of its time. */
  cursor: number;
  range?: { start: number; end: number };
  /** The last one last; those before it may be gone. */
  steps: HostStep[];
  /** Bytes of files that it holds, and that it may hold. */
  used: number;
  allowed: number;
  /** Why it does nothing now, such as a question that it waits for an answer to; absent where it does. */
  busy?: string;
}

/** Where a session host runs: at `time`, milliseconds of its clock, it was at `at`. */
export interface HostTransport {
  playing: boolean;
  at: number;
  time: number;
}

/** A piece that is to be placed. */
export type HostPiece = Omit<HostItem, 'id' | 'track'> & {
  /** 0 for the track that is told, 1 for the one below it, and so on. */
  lane: number;
};

/** What a session host is asked to do. */
export type HostAction =
  /** @param tracks names of the lanes; those of the selected track and the ones below it when absent. Tracks that it lacks are made. */
  | { do: 'place'; label: string; pieces: HostPiece[]; tracks?: string[] }
  | { do: 'trim'; item: number; at: number; from: number; length: number }
  | { do: 'move'; item: number; at: number; track: number }
  | { do: 'remove'; items: number[] }
  /** @param step the last one when absent */
  | { do: 'undo'; step?: number }
  | { do: 'track'; name: string }
  | { do: 'select'; track: number }
  | { do: 'locate'; at: number }
  | { do: 'range'; range: { start: number; end: number } | null }
  | { do: 'play' }
  | { do: 'stop' }
  | { do: 'busy'; why: string };

/** What comes to a session host. */
export type ToHost =
  | { type: 'hello'; version: number; name: string }
  /** @param id of one's own choice: what comes twice is done once, and answered as before */
  | { type: 'do'; id: string; action: HostAction }
  /** Something of the one who says hello was let go of over a track: that one may send it. */
  | { type: 'want'; track: number; at: number }
  | { type: 'ping'; sent: number };

/** Why something was not done. `busy`: ask again later; `full`: there is no room for the file; `bad`: it cannot be done; `gone`: what it is about is there no more. */
export type HostRefusal = 'busy' | 'full' | 'bad' | 'gone';

/** What a session host says. */
export type FromHost =
  | { type: 'state'; version: 1; state: HostState }
  | { type: 'transport'; transport: HostTransport }
  | { type: 'done'; id: string; step?: number; items?: number[]; said: string }
  | { type: 'refused'; id: string; why: HostRefusal; reason: string }
  | { type: 'want'; track: number; at: number }
  | { type: 'pong'; sent: number; time: number };

const name = { type: 'string', maxLength: 300 };
const sum = { type: 'string', pattern: '^[0-9a-f]{64}$' };
/** A day at 192 kHz is less. */
const sample = { type: 'integer', minimum: 0, maximum: 2 ** 35 };
const id = { type: 'integer', minimum: 0, maximum: 2e9 };
const once = { type: 'string', minLength: 1, maxLength: 64 };
const ids = { type: 'array', maxItems: 10_000, items: id };
const span = closed({ start: sample, end: sample });
const time = { type: 'number' };
const piece = {
  ...{ at: sample, length: { ...sample, minimum: 1 }, from: sample, frames: { ...sample, minimum: 1 }, file: sum },
  ...{ name, colour: { enum: colours }, gain: { type: 'number', minimum: -144, maximum: 48 } },
  ...{ fadeIn: sample, fadeOut: sample },
};
const action = (kind: string, own: Record<string, object>, optional: string[] = []) =>
  closed({ do: { const: kind }, ...own }, optional);
const actions = [
  action(
    'place',
    {
      label: name,
      pieces: { type: 'array', minItems: 1, maxItems: 10_000, items: closed({ ...piece, lane: count }, ['colour']) },
      tracks: { type: 'array', minItems: 1, maxItems: 1000, items: name },
    },
    ['tracks'],
  ),
  action('trim', { item: id, at: sample, from: sample, length: { ...sample, minimum: 1 } }),
  action('move', { item: id, at: sample, track: id }),
  action('remove', { items: ids }),
  action('undo', { step: id }, ['step']),
  action('track', { name }),
  action('select', { track: id }),
  action('locate', { at: sample }),
  action('range', { range: { anyOf: [span, { type: 'null' }] } }),
  action('play', {}),
  action('stop', {}),
  action('busy', { why: name }),
];
const message = (kind: string, own: Record<string, object>, optional: string[] = []) =>
  closed({ type: { const: kind }, ...own }, optional);
const told = (by: string, oneOf: object[]) => ({
  type: 'object',
  required: [by],
  discriminator: { propertyName: by },
  oneOf,
});
const steps = { type: 'array', maxItems: 10_000, items: closed({ id, label: name, by: name }) };

/** Schemas of what goes to and from a session host. */
export const hosts = {
  hostItem: closed({ id, track: id, ...piece }, ['colour']),
  hostState: closed(
    {
      ...{ name, rate: { type: 'integer', minimum: 8000, maximum: 384_000 }, bits: { enum: [16, 24] }, fps: name },
      ...{
        startFrame: count,
        selected: id,
        cursor: sample,
        range: span,
        steps,
        used: count,
        allowed: count,
        busy: name,
      },
      tracks: { type: 'array', minItems: 1, maxItems: 10_000, items: closed({ id, name }) },
      items: { type: 'array', maxItems: 100_000, items: closed({ id, track: id, ...piece }, ['colour']) },
    },
    ['range', 'busy'],
  ),
  toHost: told('type', [
    message('hello', { version: count, name }),
    message('do', { id: once, action: told('do', actions) }),
    message('want', { track: id, at: sample }),
    message('ping', { sent: time }),
  ]),
  fromHost: told('type', [
    message('state', { version: { const: 1 }, state: { type: 'object' } }),
    message('transport', { transport: closed({ playing: flag, at: time, time }) }),
    message('done', { id: once, step: id, items: ids, said: name }, ['step', 'items']),
    message('refused', { id: once, why: { enum: ['busy', 'full', 'bad', 'gone'] }, reason: name }),
    message('want', { track: id, at: sample }),
    message('pong', { sent: time, time }),
  ]),
};
