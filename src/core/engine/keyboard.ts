import { BEND, PRESSURE } from '@core/effects';

/** Notes are numbered as in MIDI: 60 is the C in the middle of the piano, each next one a semitone higher. */
export const MIDDLE_C = 60;

/** What somebody does at an instrument. Pressure and pitch bend are controllers of numbers that MIDI has none of. */
export type KeyEvent =
  | { type: 'press'; key: number; velocity: number }
  | { type: 'lift'; key: number }
  | { type: 'pedal'; down: boolean }
  | { type: 'control'; control: number; value: number }
  | { type: 'silence' };

const PEDAL = 64;
/** Controllers 120 and 123 end all that sounds. */
const SILENCES = [120, 123];

/**
 * Reads one message of a MIDI input ("MIDI 1.0 Detailed Specification"); undefined for those that say nothing of keys, pedals
 * or controllers, and for broken ones. A note that begins with velocity 0 is one that ends.
 */
export function readMidi([status = 0, first = 0, second = 0]: ArrayLike<number> & Iterable<number>):
  KeyEvent | undefined {
  if (first > 127 || second > 127) return undefined;
  switch (status & 0xf0) {
    case 0x80:
      return { type: 'lift', key: first };
    case 0x90:
      return second === 0 ? { type: 'lift', key: first } : { type: 'press', key: first, velocity: second };
    case 0xb0:
      if (first === PEDAL) return { type: 'pedal', down: second >= 64 };
      return SILENCES.includes(first) ? { type: 'silence' } : { type: 'control', control: first, value: second };
    case 0xd0:
      return { type: 'control', control: PRESSURE, value: first };
    case 0xe0:
      // Its fine steps are left out.
      return { type: 'control', control: BEND, value: second };
    default:
      return undefined;
  }
}

/** What a controller is called. */
export const controllerName = (control: number): string =>
  control === PRESSURE ? 'Pressure' : control === BEND ? 'Pitch bend' : `Controller ${control}`;

/** How loud a velocity of 1 to 127 is: 40 dB times its share by decades, as the General MIDI guidelines recommend. */
export const velocityGain = (velocity: number): number => (Math.max(1, Math.min(127, velocity)) / 127) ** 2;

/** Frequency of a key over that of the sound as it is. @param root the key at which it sounds as it is; may lie between two */
export const keyRatio = (key: number, root: number): number => 2 ** ((key - root) / 12);

const NAMES = ['C', 'C♯', 'D', 'E♭', 'E', 'F', 'F♯', 'G', 'A♭', 'A', 'B♭', 'B'];
/** The name of a key with its octave; 60 is C4. */
export const keyName = (key: number): string =>
  `${NAMES[((Math.round(key) % 12) + 12) % 12]}${Math.floor(Math.round(key) / 12) - 1}`;

/** The key at which a sound is as it is: what its file says, else what was measured, else the C in the middle. */
export function rootKey(rootNote: unknown, pitch: unknown): number {
  if (typeof rootNote === 'number' && rootNote >= 0 && rootNote <= 127) return rootNote;
  if (typeof pitch === 'number' && pitch > 0) return 69 + 12 * Math.log2(pitch / 440);
  return MIDDLE_C;
}

/** Keys that are down, with the pedal that holds those let go while it is pressed. */
export class Keys {
  private readonly down = new Set<number>();
  private readonly pedalled = new Set<number>();
  private pedal = false;

  /** @returns keys that are now to die away */
  take(event: KeyEvent): number[] {
    switch (event.type) {
      case 'press':
        this.down.add(event.key);
        this.pedalled.delete(event.key);
        return [];
      case 'lift':
        if (!this.down.delete(event.key)) return [];
        if (!this.pedal) return [event.key];
        this.pedalled.add(event.key);
        return [];
      case 'pedal': {
        this.pedal = event.down;
        const ended = event.down ? [] : [...this.pedalled];
        if (!event.down) this.pedalled.clear();
        return ended;
      }
      case 'silence': {
        const ended = [...this.down, ...this.pedalled];
        this.down.clear();
        this.pedalled.clear();
        return ended;
      }
      default:
        return [];
    }
  }
}

/** Keys of a computer keyboard as they lie, by the places they have on it (UI Events `code`), from the lowest row up. */
const rows = [
  ['KeyZ', 'KeyX', 'KeyC', 'KeyV', 'KeyB', 'KeyN', 'KeyM', 'Comma', 'Period', 'Slash'],
  ['KeyA', 'KeyS', 'KeyD', 'KeyF', 'KeyG', 'KeyH', 'KeyJ', 'KeyK', 'KeyL', 'Semicolon', 'Quote'],
  ['KeyQ', 'KeyW', 'KeyE', 'KeyR', 'KeyT', 'KeyY', 'KeyU', 'KeyI', 'KeyO', 'KeyP', 'BracketLeft'],
  ['Digit1', 'Digit2', 'Digit3', 'Digit4', 'Digit5', 'Digit6', 'Digit7', 'Digit8', 'Digit9', 'Digit0', 'Minus'],
];
/** The key at which a sound is as it is: F, which the left forefinger finds without looking. */
const HOME = { row: 1, column: 3 };
/** Semitones from one row to the next: a fourth, as between the strings of a bass. */
const ROW_STEP = 5;

/** How many semitones each key of a computer keyboard lies above the sound as it is: one further to the right, five a row up. */
export const computerKeys: ReadonlyMap<string, number> = new Map(
  rows.flatMap((codes, row) =>
    codes.map((code, column) => [code, (row - HOME.row) * ROW_STEP + column - HOME.column] as const),
  ),
);
