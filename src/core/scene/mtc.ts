import { frameRates, fromTimecode, toTimecode, type FrameRate } from './timecode';

/**
 * MIDI Time Code (MIDI 1.0 Detailed Specification, RP-004 and RP-008) and MIDI Machine Control (RP-013), as bytes and back. Positions are frames of a
 * rate of MIDI Time Code, counted from midnight; each quarter frame says one eighth of a timecode that holds for the instant of the first of the eight.
 */

/** Rates in the order of their codes. */
const rates: readonly FrameRate[] = ['24', '25', '29.97 drop', '30'].map((name) =>
  frameRates.find((r) => r.name === name)!,
);

/** The rate by which a scene is told, and how many of its frames are one of that. Pulled-down rates count as the rate that they are pulled down from. */
export function mtcRateOf(scene: FrameRate): { rate: FrameRate; each: number } {
  const each = scene.nominal > 30 ? 2 : 1;
  const rate = rates.find((r) => r.nominal === scene.nominal / each && r.drop === scene.drop)!;
  return { rate, each };
}

/** A timecode as its four numbers. */
interface Timecode {
  hours: number;
  minutes: number;
  seconds: number;
  frames: number;
}

const DAY = 24 * 3600;
/** Frames of a day, as a rate counts them. */
const dayOf = (rate: FrameRate): number => (rate.drop ? fromTimecode('23:59:59;29', rate) + 1 : DAY * rate.nominal);

function timecodeAt(frame: number, rate: FrameRate): Timecode {
  const day = dayOf(rate);
  const [hours, minutes, seconds, frames] = toTimecode(((frame % day) + day) % day, rate)
    .split(/[:;]/)
    .map(Number);
  return { hours, minutes, seconds, frames };
}

const pad = (n: number) => String(n).padStart(2, '0');

/** The frame of a timecode; undefined for one that the rate has not. */
function frameOf({ hours, minutes, seconds, frames }: Timecode, rate: FrameRate): number | undefined {
  try {
    return fromTimecode(`${pad(hours)}:${pad(minutes)}:${pad(seconds)}:${pad(frames)}`, rate);
  } catch {
    return undefined;
  }
}

/** The piece of a timecode that a quarter frame says: frames, seconds, minutes and hours, the lower four bits of each first. */
function pieceOf(of: Timecode, piece: number, code: number): number {
  const value = [of.frames, of.seconds, of.minutes, of.hours | (code << 5)][piece >> 1];
  return piece % 2 === 0 ? value & 15 : value >> 4;
}

/** The quarter frame of a number: the nth since midnight, four to a frame. */
export function quarterFrame(n: number, rate: FrameRate): number[] {
  const piece = ((n % 8) + 8) % 8;
  const of = timecodeAt((n - piece) / 4, rate);
  return [0xf1, (piece << 4) | pieceOf(of, piece, rates.indexOf(rate))];
}

/** The message that says where something stands. @param frame of the rate, from midnight */
export function fullFrame(frame: number, rate: FrameRate): number[] {
  const { hours, minutes, seconds, frames } = timecodeAt(Math.floor(frame), rate);
  return [0xf0, 0x7f, 0x7f, 0x01, 0x01, hours | (rates.indexOf(rate) << 5), minutes, seconds, frames, 0xf7];
}

/** Numbers of the quarter frames that fall between two positions, in the order in which they are passed. The first position is one of them, the last is not. */
export function quartersBetween(from: number, to: number): number[] {
  const numbers: number[] = [];
  if (to >= from) for (let n = Math.ceil(from * 4); n < to * 4; n++) numbers.push(n);
  else for (let n = Math.floor(from * 4); n > to * 4; n--) numbers.push(n);
  return numbers;
}

/** What another machine is asked to do, or asks. */
export type MachineCommand =
  { type: 'play' } | { type: 'stop' } | { type: 'pause' } | { type: 'locate'; frame: number; rate: FrameRate };

const COMMANDS = { stop: [1], play: [2, 3], pause: [9] } as const;

/** A command to all machines. */
export function machineCommand(command: MachineCommand): number[] {
  const head = [0xf0, 0x7f, 0x7f, 0x06];
  if (command.type !== 'locate') return [...head, COMMANDS[command.type][0], 0xf7];
  const { hours, minutes, seconds, frames } = timecodeAt(Math.floor(command.frame), command.rate);
  const code = rates.indexOf(command.rate);
  return [...head, 0x44, 6, 1, hours | (code << 5), minutes, seconds, frames, 0, 0xf7];
}

/** What a message says of where another machine is, or what it asks. */
export type MachineMessage =
  | { type: 'quarter'; piece: number; value: number }
  | { type: 'full'; frame: number; rate: FrameRate }
  | { type: 'command'; command: MachineCommand };

/** Reads a message; undefined for all that is none of these, and for broken ones. */
export function readMachine(bytes: ArrayLike<number>): MachineMessage | undefined {
  if (bytes[0] === 0xf1) {
    return bytes.length >= 2 && bytes[1] < 128
      ? { type: 'quarter', piece: bytes[1] >> 4, value: bytes[1] & 15 }
      : undefined;
  }
  if (bytes[0] !== 0xf0 || bytes[1] !== 0x7f || bytes[bytes.length - 1] !== 0xf7) return undefined;
  if (bytes[3] === 1 && bytes[4] === 1 && bytes.length === 10) {
    const told = told4(bytes, 5);
    return told && { type: 'full', ...told };
  }
  if (bytes[3] !== 6) return undefined;
  if (bytes[4] === 0x44 && bytes[5] === 6 && bytes[6] === 1 && bytes.length === 13) {
    const told = told4(bytes, 7);
    return told && { type: 'command', command: { type: 'locate', ...told } };
  }
  for (const type of ['stop', 'play', 'pause'] as const)
    if (bytes.length === 6 && (COMMANDS[type] as readonly number[]).includes(bytes[4]))
      return { type: 'command', command: { type } };
  return undefined;
}

/** Four bytes of a timecode with its rate. */
function told4(bytes: ArrayLike<number>, at: number): { frame: number; rate: FrameRate } | undefined {
  const rate = rates[(bytes[at] >> 5) & 3];
  const of = { hours: bytes[at] & 31, minutes: bytes[at + 1], seconds: bytes[at + 2], frames: bytes[at + 3] };
  const frame = frameOf(of, rate);
  return frame === undefined ? undefined : { frame, rate };
}

/** Where another machine is at a moment. */
export interface MachinePosition {
  /** Frames from midnight, in quarters. */
  frame: number;
  rate: FrameRate;
  /** Milliseconds. */
  at: number;
  /** 1 forward, -1 backward. */
  direction: 1 | -1;
}

/** Puts quarter frames together: eight in a row say where the other machine is, and from then on each of them does. */
export class QuarterFrames {
  private readonly values = new Uint8Array(8);
  private last = -1;
  private run = 0;
  private direction: 1 | -1 = 1;
  /** The frame for which the last eight held. */
  private base: { frame: number; rate: FrameRate } | undefined;

  /** Takes a quarter frame. @param at milliseconds. @returns where the other machine is, once that is known */
  take({ piece, value }: { piece: number; value: number }, at: number): MachinePosition | undefined {
    const forward = piece === (this.last + 1) % 8;
    const backward = piece === (this.last + 7) % 8;
    const direction = forward ? 1 : -1;
    if (this.last < 0 || !(forward || backward) || (this.run > 1 && direction !== this.direction)) this.reset();
    else this.direction = direction;
    this.run++;
    this.last = piece;
    this.values[piece] = value;
    if (this.run >= 8 && piece === (this.direction > 0 ? 7 : 0)) this.base = this.assembled();
    if (!this.base) return undefined;
    // Until the next eight are whole, they are taken to go on as the last ones did.
    const fresh = piece === (this.direction > 0 ? 7 : 0);
    const frame = this.base.frame + (fresh ? 0 : 2 * this.direction) + piece / 4;
    return { frame, rate: this.base.rate, at, direction: this.direction };
  }

  /** Forgets what came: what follows is from elsewhere. */
  reset(): void {
    this.run = 0;
    this.base = undefined;
  }

  private assembled(): { frame: number; rate: FrameRate } | undefined {
    const [f, ff, s, ss, m, mm, h, hh] = this.values;
    const rate = rates[(hh >> 1) & 3];
    const of = { hours: h | ((hh & 1) << 4), minutes: m | (mm << 4), seconds: s | (ss << 4), frames: f | (ff << 4) };
    const frame = frameOf(of, rate);
    return frame === undefined ? undefined : { frame, rate };
  }
}

/** Frames by which what is told may be off before it counts as a jump, and how many readings make a lock. */
const [JUMP, ENOUGH] = [1, 8];
/** Milliseconds without a word after which the other machine is taken to stand. */
const SILENT = 250;

export type ChaseState = 'nothing' | 'locking' | 'locked' | 'lost';

/** Follows another machine: evens out when its words come, knows when it jumps and when it is gone. */
export class Chase {
  private readonly quarters = new QuarterFrames();
  private readings: MachinePosition[] = [];
  private heard = false;

  /** Takes a quarter frame. @returns whether it was a jump, or the beginning */
  take(quarter: { piece: number; value: number }, at: number): boolean {
    this.heard = true;
    const now = this.quarters.take(quarter, at);
    if (!now) {
      this.readings = [];
      return false;
    }
    const expected = this.positionAt(at);
    const turned = this.readings.at(-1)?.direction !== now.direction;
    const jumped = expected === undefined || turned || Math.abs(now.frame - expected) > JUMP;
    this.readings = jumped ? [now] : [...this.readings.slice(-31), now];
    return jumped;
  }

  /** Where the other machine is. Frames from midnight at `rate`; undefined while that is not known */
  positionAt(at: number): number | undefined {
    const last = this.readings.at(-1);
    if (!last) return undefined;
    const { rate, direction } = last;
    const perMs = (direction * rate.num) / rate.den / 1000;
    // The middle one of what all of them say: one that came late moves nothing.
    const said = this.readings.map((r) => r.frame + (at - r.at) * perMs).sort((a, b) => a - b);
    return said[said.length >> 1];
  }

  /** At which rate it counts, and which way it runs. */
  get last(): MachinePosition | undefined {
    return this.readings.at(-1);
  }

  state(at: number): ChaseState {
    const last = this.readings.at(-1);
    if (!last) return this.heard ? 'locking' : 'nothing';
    if (at - last.at > SILENT) return 'lost';
    return this.readings.length >= ENOUGH ? 'locked' : 'locking';
  }

  /** It stands, or is elsewhere now. */
  reset(): void {
    this.quarters.reset();
    this.readings = [];
    this.heard = false;
  }
}
