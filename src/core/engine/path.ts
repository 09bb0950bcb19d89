import type { Direction } from '@core/audio';

/** What is played of a sound, and which way. Frames; the end is not played. */
export interface Path {
  start: number;
  end: number;
  direction: Direction;
  loop: boolean;
}

/** A place on a path. */
export interface Place {
  /** Frame of the sound, fractional. */
  frame: number;
  /** 1 where the sound is passed forward, -1 backward. */
  sign: 1 | -1;
  /** Frames from here to where the path turns or is at its end. */
  left: number;
}

function set(into: Place, frame: number, sign: 1 | -1, left: number): Place {
  into.frame = frame;
  into.sign = sign;
  into.left = left;
  return into;
}

const length = (path: Path) => Math.max(0, path.end - path.start);

/** Frames that are passed until the path is at its end, or comes round when it is a loop. */
export function passOf(path: Path): number {
  const frames = length(path);
  if (path.direction !== 'both ways') return frames;
  // Both ends are heard once, and the first again where the way back ends.
  return path.loop ? Math.max(1, 2 * frames - 2) : Math.max(frames, 2 * frames - 1);
}

/**
 * Where one is after having passed so many frames since the path began.
 * @param into what is filled and returned: whoever asks in each block keeps one
 */
export function placeAt(path: Path, travel: number, into: Place = { frame: 0, sign: 1, left: 0 }): Place {
  const { start, end, direction } = path;
  const pass = passOf(path);
  if (direction === 'forward') return set(into, start + travel, 1, pass - travel);
  if (direction === 'backward') return set(into, end - 1 - travel, -1, pass - travel);
  const turn = length(path) - 1;
  if (travel < turn) return set(into, start + travel, 1, turn - travel);
  return set(into, start + 2 * turn - travel, -1, pass - travel);
}

/** How far along a path a frame lies. @param back on the way back, where there is one */
export function travelTo(path: Path, frame: number, back = false): number {
  const { start, end, direction } = path;
  if (direction === 'backward') return end - 1 - frame;
  return direction === 'both ways' && back ? 2 * (length(path) - 1) - (frame - start) : frame - start;
}
