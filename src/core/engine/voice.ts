import { fromDb } from '@core/audio';
import { interpolate, REACH } from './interpolate';
import type { Material } from './material';

/** The engine renders blocks of at most this many frames. */
export const BLOCK = 128;

const scratch = { source: new Float32Array(0), line: new Float32Array(BLOCK) };

/** How loud a channel of a material sounds left and right: mono on both, stereo as it is, further ones folded down. */
export function channelGains(channel: number, channels: number, pan: number): [number, number] {
  const left = Math.min(1, 1 - pan);
  const right = Math.min(1, 1 + pan);
  if (channels === 1) return [left, right];
  const fold = channel < 2 ? 1 : Math.SQRT1_2;
  return channel % 2 === 0 ? [left * fold, 0] : [0, right * fold];
}

/**
 * Adds `count` frames of a material to a stereo block, starting at a fractional frame.
 * @param envelope gain of each output frame
 * @returns false, adding nothing, when audio that is needed has not arrived
 */
export function addMaterial(
  material: Material,
  position: number,
  step: number,
  pan: number,
  envelope: (i: number) => number,
  out: Float32Array[],
  offset: number,
  count: number,
): boolean {
  const exact = step === 1 && Number.isInteger(position);
  const base = exact ? position : Math.floor(position) - REACH;
  const span = exact ? count : Math.ceil(count * Math.abs(step)) + 2 * REACH + 2;
  if (!material.has(base, base + span)) return false;
  if (scratch.source.length < span) scratch.source = new Float32Array(span * 2);
  for (let c = 0; c < material.channels; c++) {
    const [left, right] = channelGains(c, material.channels, pan);
    if (left === 0 && right === 0) continue;
    material.copy(c, base, span, scratch.source);
    interpolate(scratch.source, base, position, step, scratch.line, count);
    for (let i = 0; i < count; i++) {
      const x = scratch.line[i] * envelope(i);
      out[0][offset + i] += x * left;
      out[1][offset + i] += x * right;
    }
  }
  return true;
}

/** What to play when a sound is auditioned. All positions in frames of the sound. */
export interface Audition {
  from: number;
  region: { start: number; end: number };
  loop: boolean;
  /** dB */
  gain: number;
}

/** Seconds in which a voice that is cut short dies away, so that it never clicks. */
const RELEASE = 0.005;
/** Seconds over which the end of a loop is faded; its start keeps its attack. */
const SEAM = 0.002;

/** One sounding audition. */
export class Voice {
  private position: number;
  private released = -1;
  private begun = false;
  /** True while it waits for audio that has not arrived; it loses nothing by waiting. */
  waiting = false;
  done = false;

  constructor(
    readonly material: Material,
    private audition: Audition,
    private readonly rate: number,
  ) {
    this.position = audition.from;
  }

  /** The frame that sounds next. */
  get frame(): number {
    return this.position;
  }

  /** Changes region, loop or gain while it sounds. */
  adjust(audition: Omit<Audition, 'from'>): void {
    this.audition = { ...audition, from: this.position };
  }

  /** Lets it die away. One that has not begun to sound ends at once. */
  release(): void {
    if (!this.begun) this.done = true;
    else if (this.released < 0) this.released = 0;
  }

  /** Adds the next frames to a stereo block of `count` frames. */
  render(out: Float32Array[], count: number): void {
    const step = this.material.rate / this.rate;
    let at = 0;
    while (at < count && !this.done) {
      const { start, end } = this.audition.region;
      const left = Math.ceil((end - this.position) / step);
      if (left <= 0) {
        if (!this.audition.loop || end - start < 2) {
          this.done = true;
          return;
        }
        this.position = start;
        continue;
      }
      const part = Math.min(count - at, left);
      if (!addMaterial(this.material, this.position, step, 0, this.envelope(step), out, at, part)) {
        this.waiting = true;
        return;
      }
      this.waiting = false;
      this.begun = true;
      this.position += part * step;
      at += part;
      if (this.position >= end && !this.audition.loop) this.done = true;
      if (this.released >= 0) {
        this.released += part;
        if (this.released >= RELEASE * this.rate) this.done = true;
      }
    }
  }

  private envelope(step: number): (i: number) => number {
    const { gain, loop, region } = this.audition;
    const level = fromDb(gain);
    const { position, released } = this;
    const release = RELEASE * this.rate;
    const seam = SEAM * this.material.rate;
    // The very first frames of a sound are never faded: its attack is what the ear judges.
    const cutIn = position === region.start || this.begun ? 0 : SEAM * this.rate;
    const cutOut = loop || region.end < this.material.frames;
    return (i) => {
      let g = level;
      if (released >= 0) g *= Math.max(0, 1 - (released + i) / release);
      if (cutOut) g *= Math.min(1, (region.end - position - i * step) / seam);
      if (i < cutIn) g *= i / cutIn;
      return g;
    };
  }
}
