import { toDb } from '@core/audio';
import type { ParamSpec } from './effect';
import type { Move } from './moved';
import { BLOCK, type Block } from './node';
import { GLIDE, Param } from './param';
import { choice, even, octaves } from './spec';

/** Something that moves values. */
export interface Mover {
  id: number;
  kind: string;
  /** By key of its kind's values; what is not there is as it begins. */
  values: Readonly<Record<string, number>>;
  /** The line whose level it follows. */
  line?: number;
  moves: readonly Move[];
}

/** A key that goes down on a timeline, and up again. Samples */
export interface Strike {
  at: number;
  /** Of MIDI; the C in the middle when absent. */
  key?: number;
  /** 0 to 1; none is known when absent. */
  velocity?: number;
  /** It stays down when absent. */
  lifted?: number;
}

/** A hand turns a mover on a timeline. */
export interface Turn {
  /** Samples */
  at: number;
  mover: number;
  /** 0 to 1 */
  share: number;
}

/** What strikes and hands have a mover do, in its order: the last key that goes up is a lift. */
type Event = { at: number } & (
  { do: 'turn'; share: number } | { do: 'strike'; key: number; velocity?: number } | { do: 'lift' }
);
function eventsOf(strikes: readonly Strike[], turns: readonly Turn[]): Event[] {
  const moves = strikes.flatMap(({ at, key = MIDDLE, velocity, lifted }) => [
    { at: Math.floor(at), by: 1, key, velocity },
    ...(lifted === undefined ? [] : [{ at: Math.floor(lifted), by: -1, key, velocity }]),
  ]);
  moves.sort((a, b) => a.at - b.at || a.by - b.by);
  let down = 0;
  const struck = moves.flatMap(({ at, by, key, velocity }): Event[] => {
    down += by;
    if (by > 0) return [{ at, do: 'strike', key, velocity }];
    return down === 0 ? [{ at, do: 'lift' }] : [];
  });
  const turned = turns.map(({ at, share }): Event => ({ at: Math.floor(at), do: 'turn', share }));
  // Where both are at once, it stands there already as it is struck.
  return [...turned, ...struck].sort((a, b) => a.at - b.at);
}

/** One kind of mover: all that panels and files need to know of it. */
export interface MoverKind {
  kind: string;
  name: string;
  /** What it does, in a sentence. */
  about: string;
  params: readonly ParamSpec[];
  /** Whether it follows the level of a line. */
  follows?: boolean;
}

/** Numbers by which what is no controller of MIDI goes among them. */
export const [PRESSURE, BEND] = [128, 129];

const at = (about: string) => even('at', 'Stands at', '%', [0, 100, 50], about);
const times = ['sine', 'triangle', 'square', 'ramp up', 'ramp down'] as const;

/** The key that is taken where nobody strikes: the C in the middle. */
export const MIDDLE = 60;

/** All kinds of movers. */
export const moverKinds: readonly MoverKind[] = [
  {
    kind: 'controller',
    name: 'Controller',
    about: 'A wheel, a fader or a pedal of an instrument, learned by touching it.',
    params: [
      even(
        'number',
        'Controller',
        '',
        [0, BEND, 1],
        'Its number in MIDI; 1 is the wheel, 128 pressure, 129 pitch bend.',
      ),
      at('Where it stands until it is touched.'),
    ],
  },
  {
    kind: 'key',
    name: 'Key',
    about: 'How high the key is that was struck last.',
    params: [
      even('lowest', 'Lowest', '', [0, 127, 36], 'The key at which it is at its least.'),
      even('highest', 'Highest', '', [0, 127, 84], 'The key at which it is at its most.'),
    ],
  },
  {
    kind: 'velocity',
    name: 'Velocity',
    about: 'How hard the last stroke was.',
    params: [at('How hard a stroke is taken to be that has no velocity.')],
  },
  {
    kind: 'envelope',
    name: 'Envelope',
    about: 'Rises at each stroke, holds, falls to a level, and falls to nothing when the key goes up.',
    params: [
      octaves('attack', 'Attack', 'ms', [0.1, 20_000, 5], 'How long it rises.'),
      even('hold', 'Hold', 'ms', [0, 20_000, 0], 'How long it stays at its most.'),
      octaves('decay', 'Decay', 'ms', [1, 60_000, 600], 'How long it falls to the level at which it stays.'),
      even('level', 'Level', '%', [0, 100, 0], 'Where it stays while the key is down.'),
      octaves('release', 'Release', 'ms', [1, 60_000, 300], 'How long it falls once the key is up.'),
      even(
        'curve',
        'Curve',
        '%',
        [0, 100, 60],
        'How much faster it falls at first than at last; at 0 % along a straight line.',
      ),
    ],
  },
  {
    kind: 'wave',
    name: 'Wave',
    about: 'Goes up and down, again and again.',
    params: [
      choice('shape', 'Shape', times, 'sine', 'How it goes up and down.'),
      octaves('speed', 'Speed', 'Hz', [0.01, 100, 1], 'How many times a second; it counts where no tempo is given.'),
      even('tempo', 'Tempo', 'BPM', [0, 400, 0], 'Beats a minute, of which each is one wave; at 0 the speed counts.'),
      choice('begins', 'Begins', ['anywhere', 'at each stroke'], 'at each stroke', 'Whether it runs on by itself.'),
      even('phase', 'Phase', '%', [0, 100, 0], 'How far into a wave it begins.'),
    ],
  },
  {
    kind: 'drift',
    name: 'Drift',
    about: 'Wanders by chance, always in the same way for the same seed.',
    params: [
      octaves('speed', 'Speed', 'Hz', [0.01, 100, 0.4], 'How many new places a second.'),
      even(
        'smooth',
        'Smoothness',
        '%',
        [0, 100, 100],
        'How much of the way it spends on getting there; at 0 % it jumps.',
      ),
      even('seed', 'Seed', '', [1, 9999, 1], 'Which chance it is.'),
    ],
  },
  {
    kind: 'follower',
    name: 'Follower',
    about: 'Follows how loud a layer is.',
    follows: true,
    params: [
      octaves('rise', 'Rise', 'ms', [0.1, 2000, 5], 'How fast it rises.'),
      octaves('fall', 'Fall', 'ms', [1, 10_000, 150], 'How fast it falls.'),
      even('floor', 'Floor', 'dB', [-90, -6, -48], 'The level at which it is at its least; full scale is its most.'),
    ],
  },
];
export const moverOf = (kind: string): MoverKind | undefined => moverKinds.find((k) => k.kind === kind);

/** All values of a mover: those that were kept, within their bounds, and what its kind begins with for the rest. */
export function moverValues({ kind, values }: Pick<Mover, 'kind' | 'values'>): Record<string, number> {
  return Object.fromEntries(
    (moverOf(kind)?.params ?? []).map(({ key, least, most, initial }) => {
      const kept = Number.isFinite(values[key]) ? values[key] : initial;
      return [key, Math.max(least, Math.min(most, kept))];
    }),
  );
}

/** A number from 0 to 1 that belongs to a place and a seed: an integer hash (T. Wang). */
function chance(place: number, seed: number): number {
  let x = (Math.imul(place, 0x27d4eb2d) ^ Math.imul(seed, 0x165667b1)) | 0;
  x = Math.imul(x ^ 61 ^ (x >>> 16), 9);
  x = Math.imul(x ^ (x >>> 4), 0x27d4eb2d);
  return ((x ^ (x >>> 15)) >>> 0) / 4294967296;
}

/** A wave at a share of its length, 0 up to 1. */
function waveAt(shape: number, phase: number): number {
  switch (times[shape]) {
    case 'triangle':
      return phase < 0.5 ? 2 * phase : 2 - 2 * phase;
    case 'square':
      return phase < 0.5 ? 1 : 0;
    case 'ramp up':
      return phase;
    case 'ramp down':
      return 1 - phase;
    default:
      return 0.5 - 0.5 * Math.cos(2 * Math.PI * phase);
  }
}

/** What falls from 1 to 0 over a share of its time; the more it is curved, the faster at first. */
function fallen(share: number, curve: number): number {
  if (share >= 1) return 0;
  const steep = 6 * curve;
  return steep < 1e-3 ? 1 - share : (Math.exp(-steep * share) - Math.exp(-steep)) / (1 - Math.exp(-steep));
}

/** A mover as it runs. Where it is follows from the sample alone, but for what hands and levels do. */
export class MoverNode {
  /** Where it is in each sample of the block, 0 to 1. */
  readonly line = new Float64Array(BLOCK);
  private values!: Record<string, number>;
  private kind = '';
  /** What is set by hand, by a key or by a velocity, on its way. */
  private readonly hand: Param;
  private struckAt = -Infinity;
  private liftedAt = Infinity;
  /** Where the envelope was when it was struck, and when the key went up. */
  private rose = 0;
  private fell = 0;
  private level = 0;
  /** Highest magnitudes of the last block of the line that it follows. */
  private loud = 0;

  constructor(
    private of: Mover,
    private readonly rate: number,
  ) {
    this.hand = new Param(0, rate);
    this.take(of, false);
  }

  get mover(): Mover {
    return this.of;
  }

  /** Takes over its values. @param live whether it is heard meanwhile */
  take(of: Mover, live: boolean): void {
    const before = this.values;
    this.of = of;
    this.values = moverValues(of);
    const isOther = of.kind !== this.kind;
    this.kind = of.kind;
    if (isOther || before.at !== this.values.at) this.hand.set((this.values.at ?? 0) / 100, live && !isOther);
  }

  /** What somebody turns it to, 0 to 1. @param live whether it is heard meanwhile */
  turn(share: number, live = true): void {
    this.hand.set(share, live);
  }

  /** A key goes down. @param sample of the stroke; @param velocity 0 to 1, undefined where none is known */
  strike(sample: number, key: number, velocity?: number): void {
    if (this.kind === 'key') {
      const { lowest, highest } = this.values;
      this.hand.set(Math.max(0, Math.min(1, (key - lowest) / Math.max(1, highest - lowest))), true);
    } else if (this.kind === 'velocity') this.hand.set(velocity ?? this.values.at / 100, true);
    this.rose = this.kind === 'envelope' ? this.envelope(sample) : 0;
    this.struckAt = sample;
    this.liftedAt = Infinity;
  }

  private events: readonly Event[] = [];
  /** The next of these, and the sample with which the next block begins if nobody jumps. */
  private next = 0;
  private expected: number | undefined;

  /** Is struck and turned on a timeline from now on, in place of by hand; by nothing, by hand again. @param turns of all movers */
  follow(strikes: readonly Strike[], turns: readonly Turn[] = []): void {
    const own = turns.filter((t) => t.mover === this.of.id);
    this.events = eventsOf(strikes, own);
    this.rewind();
  }

  /** As it is before the first strike: as if nothing had been before, and ready for it. */
  private rewind(): void {
    this.expected = undefined;
    this.struckAt = -Infinity;
    this.liftedAt = Infinity;
    this.next = 0;
    const [first] = this.events;
    if (this.events.some((e) => e.do === 'turn')) this.hand.set((this.values.at ?? 0) / 100, false);
    if (first) this.happen(first);
    this.hand.settle();
  }

  /** Goes to another sample: whatever was on its way there has arrived. */
  private jump(to: number): void {
    if (this.expected === undefined || to < this.expected) this.rewind();
    while (this.next < this.events.length && this.events[this.next].at < to) this.happen(this.events[this.next]);
    this.hand.settle();
  }

  private happen(event: Event): void {
    this.next++;
    if (event.do === 'lift') this.lift(event.at);
    else if (event.do === 'turn') this.turn(event.share);
    else this.strike(event.at, event.key, event.velocity);
  }

  /** The last key goes up. */
  lift(sample: number): void {
    if (this.liftedAt !== Infinity) return;
    this.fell = this.kind === 'envelope' ? this.envelope(sample) : 0;
    this.liftedAt = sample;
  }

  private envelope(sample: number): number {
    const { attack, hold, decay, level, release, curve } = this.values;
    const ms = 1000 / this.rate;
    const bow = curve / 100;
    const stays = level / 100;
    if (sample >= this.liftedAt) return this.fell * fallen(((sample - this.liftedAt) * ms) / release, bow);
    const since = (sample - this.struckAt) * ms;
    if (!(since >= 0) || since === Infinity) return 0;
    if (since < attack) return this.rose + (1 - this.rose) * (since / attack);
    if (since < attack + hold) return 1;
    return stays + (1 - stays) * fallen((since - attack - hold) / decay, bow);
  }

  private wave(sample: number): number {
    const { shape, speed, tempo, begins, phase } = this.values;
    const perSecond = tempo > 0 ? tempo / 60 : speed;
    const from = begins > 0.5 && this.struckAt > -Infinity ? this.struckAt : 0;
    const turns = ((sample - from) / this.rate) * perSecond + phase / 100;
    return waveAt(Math.round(shape), turns - Math.floor(turns));
  }

  private drift(sample: number): number {
    const { speed, smooth, seed } = this.values;
    const way = (sample / this.rate) * speed;
    const place = Math.floor(way);
    const own = Math.round(seed);
    const [now, next] = [chance(place, own), chance(place + 1, own)];
    const moving = smooth / 100;
    const share = moving === 0 ? 0 : Math.max(0, (way - place - (1 - moving)) / moving);
    return now + (next - now) * (0.5 - 0.5 * Math.cos(Math.PI * Math.min(1, share)));
  }

  /** Hears the line that it follows, as it was in the block before. */
  hear(block: Block, count: number): void {
    let top = 0;
    for (let c = 0; c < 2; c++) for (let i = 0; i < count; i++) top = Math.max(top, Math.abs(block[c][i]));
    this.loud = top;
  }

  /** Where it is in the samples of a block; see `line`. */
  render(from: number, count: number): void {
    if (this.events.length === 0) return this.run(from, count, 0);
    if (this.expected !== undefined && from !== this.expected) this.jump(from);
    this.expected = from + count;
    for (let at = from; at < from + count;) {
      while (this.next < this.events.length && this.events[this.next].at <= at) this.happen(this.events[this.next]);
      const next = this.next < this.events.length ? this.events[this.next].at : Infinity;
      const until = Math.min(from + count, Math.ceil(next));
      this.run(at, until - at, at - from);
      at = until;
    }
  }

  /** The same for a part of a block in which nothing is struck. @param first of the samples of the line */
  private run(from: number, count: number, first: number): void {
    const { line, kind } = this;
    const end = first + count;
    const zero = from - first;
    if (kind === 'envelope') for (let i = first; i < end; i++) line[i] = this.envelope(zero + i);
    else if (kind === 'wave') for (let i = first; i < end; i++) line[i] = this.wave(zero + i);
    else if (kind === 'drift') for (let i = first; i < end; i++) line[i] = this.drift(zero + i);
    else if (kind === 'follower') {
      const { rise, fall, floor } = this.values;
      const goal = Math.max(0, 1 - toDb(this.loud) / floor);
      const step = 1 - Math.exp(-1000 / (this.rate * (goal > this.level ? rise : fall)));
      for (let i = first; i < end; i++) line[i] = this.level += (goal - this.level) * step;
    } else {
      const moves = this.hand.read(from, count);
      for (let i = first; i < end; i++) line[i] = moves ? this.hand.line[i - first] : this.hand.value;
    }
    // What jumps would click where it moves a gain: it gets there as fast as a hand would.
    if (kind === 'wave' || kind === 'drift') this.soften(first, end);
    this.now = line[end - 1];
  }

  private last = 0;
  private fresh = true;
  private soften(first: number, end: number): void {
    const most = 1 / (GLIDE * this.rate);
    const { line } = this;
    if (this.fresh) this.last = line[first];
    this.fresh = false;
    for (let i = first; i < end; i++) {
      const by = line[i] - this.last;
      this.last = Math.abs(by) > most ? this.last + Math.sign(by) * most : line[i];
      line[i] = this.last;
    }
  }

  /** Where it was in the last sample that was rendered. */
  now = 0;

  /** Forgets what it has heard. */
  reset(): void {
    this.level = this.loud = 0;
    this.hand.settle();
    this.fresh = true;
  }
}
