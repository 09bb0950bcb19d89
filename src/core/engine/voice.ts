import { fadeGain, fromDb, pickGains, plainShape, type Shape } from '@core/audio';
import { BLOCK, GLIDE, MIDDLE, PAIR } from '@core/effects';
import { readAt, spanRead, type Span } from './interpolate';
import type { Material } from './material';
import { passOf, placeAt, travelTo, type Path, type Place } from './path';

const asked: Span = { base: 0, span: 0 };

/** Gain of each output frame, or one number where it stays the same. */
export type Envelope = number | Float64Array;

/**
 * Adds `count` frames of a material to a block, starting at a fractional frame.
 * @param gains of each channel of the material in each of `out`
 * @returns false, adding nothing, when audio that is needed has not arrived
 */
function addMaterial(
  material: Material,
  position: number,
  step: number,
  gains: readonly (readonly number[])[],
  envelope: Envelope,
  out: readonly Float32Array[],
  offset: number,
  count: number,
): boolean {
  const { base, span } = spanRead(position, step, count, asked);
  if (!material.has(base, base + span)) return false;
  const { all, from, stride } = readAt(material, position, step, count);
  for (let c = 0; c < material.channels; c++) {
    const line = from + c * stride;
    for (let o = 0; o < out.length; o++) {
      const gain = gains[c][o];
      if (gain === 0) continue;
      const plane = out[o];
      if (typeof envelope === 'number') {
        const level = envelope * gain;
        for (let i = 0; i < count; i++) plane[offset + i] += all[line + i] * level;
      } else for (let i = 0; i < count; i++) plane[offset + i] += all[line + i] * envelope[i] * gain;
    }
  }
  return true;
}

/** What to play when a sound is auditioned. All positions in frames of the sound. */
export interface Audition {
  from: number;
  region: { start: number; end: number };
  loop: boolean;
  /** dB, beside that of the shape: what makes candidates equally loud. */
  gain: number;
  /** What is done to it; nothing when absent. */
  shape?: Shape;
  /** From left, -1, to right, 1. */
  place?: number;
}

/** Seconds in which a voice that is cut short dies away, so that it never clicks. */
const RELEASE = 0.005;
/** Seconds of the ramps where playing begins or ends in the middle of a sound. */
const EDGE = 0.002;
/** Seconds in which the end of a loop gives way to what lies before its beginning, where the two do not meet. */
const SEAM = 0.01;
/** Frames on either side of a loop's seam, and before a beginning, that are looked at. */
export const LOOKED = 64;
/** Below this, nothing is heard. */
const SILENT = 1e-3;

const curve = new Float64Array(BLOCK);
const joining = new Float64Array(BLOCK);

/**
 * An envelope in the seam of a loop, with equal power: the end falls, or what lies before the beginning rises.
 * @param into how far into the seam it is, and how far it goes on for each sample; both in shares of the seam
 */
function joined(envelope: Envelope, into: number, step: number, rises: boolean, count: number): Envelope {
  for (let i = 0; i < count; i++) {
    const angle = (Math.max(0, Math.min(1, into + i * step)) * Math.PI) / 2;
    joining[i] = (typeof envelope === 'number' ? envelope : envelope[i]) * (rises ? Math.sin(angle) : Math.cos(angle));
  }
  return joining;
}

/** What a key makes of a sound that it plays. */
export interface Note {
  /** Frequency over that of the sound as it is. */
  ratio: number;
  /** Times as loud. */
  gain: number;
}

/** How loud a channel of what comes out is by where a sound is placed: the other side gives way. */
const beside = (out: number, outs: number, place: number): number =>
  outs !== 2 ? 1 : Math.min(1, out === 0 ? 1 - place : 1 + place);

/** What is on both sides alike. */
const common = ([left, right]: readonly number[]): number =>
  left * right <= 0 ? 0 : Math.abs(left) < Math.abs(right) ? left : right;

const here: Place = { frame: 0, sign: 1, left: 0 };

/** One sounding sound: an audition, a key, or a clip that lies on a timeline. */
export class Voice {
  /** Frames passed since the pass began. */
  private travel: number;
  private passes = 0;
  /** Samples given so far. */
  private given = 0;
  private released = -1;
  private releaseSeconds = RELEASE;
  /** Samples in which it rises; known once what lies before its beginning is. */
  private cutIn: number | undefined;
  private seam: boolean | undefined;
  /** True while it waits for audio that has not arrived; it loses nothing by waiting. */
  waiting = false;
  done = false;
  private shape!: Shape;
  private path!: Path;
  /** Frames of the sound for each sample that is given. */
  private step!: number;
  private level!: number;
  /** What the level was before it was changed while sounding, and the samples in which that gives way. */
  private oldLevel = 0;
  private sinking = 0;
  private at = 0;
  private gains: number[][] = [];

  constructor(
    readonly material: Material,
    audition: Audition,
    private readonly rate: number,
    private readonly note: Note = { ratio: 1, gain: 1 },
    /** Lies on a timeline: where it is follows from there, and it has its own fades and no ramps beside. */
    private readonly placed = false,
  ) {
    this.take(audition);
    this.travel = Math.max(0, travelTo(this.path, audition.from));
    if (placed) this.cutIn = 0;
  }

  /** Puts one that lies on a timeline where it is there. @param travel frames of its path that are passed */
  seek(travel: number): void {
    this.travel = travel;
    if (this.released < 0) this.done = false;
  }

  /** Has one that is put on a timeline while that plays rise, as it begins in mid-sound. @param samples in which it does */
  rise(samples: number): void {
    this.cutIn = samples;
    this.given = 0;
  }

  /** Takes over what is to be played, and what follows from it. */
  private take({ region, loop, gain, shape = plainShape, place = 0 }: Omit<Audition, 'from'>): void {
    this.at = place;
    this.shape = shape;
    this.path = { ...region, loop, direction: shape.direction };
    this.step = (this.material.rate / this.rate) * shape.speed * this.note.ratio;
    const level = fromDb(gain + shape.gain) * this.note.gain;
    if (this.given > 0 && level !== this.level) {
      this.oldLevel = this.reached(0);
      this.sinking = GLIDE * this.rate;
    }
    this.level = level;
    this.gains = [];
  }

  private gainsFor(outs: number): number[][] {
    const { channels } = this.material;
    if (this.gains[0]?.length !== outs)
      this.gains = Array.from({ length: channels }, (_, c) => {
        const sides = this.placed && outs === MIDDLE ? PAIR : outs;
        const gains = pickGains(this.shape.channels, c, channels, sides).map((g, o) => g * beside(o, sides, this.at));
        return sides < outs ? [...gains, Math.SQRT2 * common(gains)] : gains;
      });
    return this.gains;
  }

  /** How loud it is after so many samples, on its way from the level that it had before. */
  private reached(samples: number): number {
    const share = Math.max(0, this.sinking - samples) / (GLIDE * this.rate);
    return this.level + (this.oldLevel - this.level) * share;
  }

  /** Whether any of it was given yet. */
  get begun(): boolean {
    return this.given > 0;
  }

  /** The frame that sounds next. */
  get frame(): number {
    return placeAt(this.path, this.travel).frame;
  }

  /** Changes region, loop, gain or shape while it sounds; it goes on from where it is. */
  adjust(audition: Omit<Audition, 'from'>): void {
    const before = this.path;
    const { frame, sign } = placeAt(before, this.travel);
    this.take(audition);
    const { start, end, direction, loop } = this.path;
    // On the same path it stays where it is to the last bit.
    if (start === before.start && end === before.end && direction === before.direction && loop === before.loop) return;
    this.travel = Math.max(0, travelTo(this.path, frame, sign < 0));
    this.seam = undefined;
  }

  /** Lets it die away. One that has not begun to sound ends at once. @param seconds that this takes */
  release(seconds = RELEASE): void {
    if (this.given === 0) this.done = true;
    else if (this.released < 0) this.released = 0;
    else if (seconds >= this.releaseSeconds) return;
    // Cut shorter, it goes on from as loud as it is by now.
    else this.released = (this.released * seconds) / this.releaseSeconds;
    this.releaseSeconds = seconds;
  }

  /**
   * Whether it begins in mid-sound, where it has to rise so that it does not click. Where silence lies before, an attack begins,
   * which is what the ear judges: it is never faded. Undefined when what lies there has not arrived.
   */
  private beginsInside(): boolean | undefined {
    const { material, path } = this;
    const { frame, sign } = placeAt(path, this.travel);
    const from = sign > 0 ? Math.floor(frame) - LOOKED : Math.ceil(frame) + 1;
    if (!material.has(from, from + LOOKED)) return undefined;
    const before = new Float32Array(LOOKED);
    for (let c = 0; c < material.channels; c++) {
      material.copy(c, from, LOOKED, before);
      if (before.some((x) => Math.abs(x) > SILENT)) return true;
    }
    return false;
  }

  /** Adds the next `count` frames to a block, from a place in it on. */
  render(out: readonly Float32Array[], count: number, offset = 0): void {
    const { path, step, material } = this;
    if (this.cutIn === undefined) {
      const inside = this.beginsInside();
      this.waiting = inside === undefined;
      if (this.waiting) return;
      this.cutIn = inside ? EDGE * this.rate : 0;
    }
    const gains = this.gainsFor(out.length);
    const pass = passOf(path);
    let at = 0;
    while (at < count && !this.done) {
      if (Math.ceil((pass - this.travel) / step) <= 0) {
        if (!path.loop || pass < 2) {
          this.done = true;
          return;
        }
        // What was passed beyond the end is kept, so that a loop keeps its length whatever the rate.
        this.travel = this.travel < pass * 2 ? this.travel - pass : 0;
        this.passes++;
        continue;
      }
      placeAt(path, this.travel, here);
      const part = Math.min(count - at, Math.max(1, Math.ceil(here.left / step)), this.untilSeam(pass, step));
      const seam = this.seamed ? this.seamFrames(pass) : 0;
      // How far into the seam of the loop it is; below 0 before it.
      const into = seam > 0 ? (this.travel - (pass - seam)) / seam : -1;
      const along = step * here.sign;
      const envelope = this.envelope(pass, step, part, curve);
      const falling = into >= 0 ? joined(envelope, into, step / seam, false, part) : envelope;
      const sounds = addMaterial(material, here.frame, along, gains, falling, out, offset + at, part);
      this.waiting = !sounds;
      if (!sounds) return;
      // What lies before the loop's beginning rises meanwhile, so that the beginning follows on from it.
      if (into >= 0) {
        const rising = joined(envelope, into, step / seam, true, part);
        addMaterial(material, here.frame - here.sign * pass, along, gains, rising, out, offset + at, part);
      }
      this.travel += part * step;
      this.given += part;
      this.sinking = Math.max(0, this.sinking - part);
      at += part;
      if (this.travel >= pass && !path.loop) this.done = true;
      if (this.released >= 0 && (this.released += part) >= this.releaseSeconds * this.rate) this.done = true;
    }
  }

  /** Frames in which a loop gives way to its beginning. */
  private seamFrames(pass: number): number {
    return Math.min(SEAM * this.material.rate, pass / 4);
  }

  /** Samples until the seam of the loop begins, so that no part lies on both sides of that; the part within it otherwise. */
  private untilSeam(pass: number, step: number): number {
    if (!this.seamed) return Infinity;
    const left = Math.ceil((pass - this.seamFrames(pass) - this.travel) / step);
    return left > 0 ? left : Infinity;
  }

  /** Whether the end of a loop does not meet its beginning: a step there would be larger than those of the signal about it. */
  private get seamed(): boolean {
    const { loop, direction, start, end } = this.path;
    if (!loop || direction === 'both ways') return false;
    if (this.seam !== undefined) return this.seam;
    const { material } = this;
    if (!material.has(start, start + LOOKED) || !material.has(end - LOOKED, end)) return true;
    const [head, tail] = [new Float32Array(LOOKED), new Float32Array(LOOKED)];
    this.seam = false;
    for (let c = 0; c < material.channels; c++) {
      material.copy(c, start, LOOKED, head);
      material.copy(c, end - LOOKED, LOOKED, tail);
      let own = 1e-4;
      for (let i = 1; i < LOOKED; i++)
        own = Math.max(own, Math.abs(head[i] - head[i - 1]), Math.abs(tail[i] - tail[i - 1]));
      if (Math.abs(head[0] - tail[LOOKED - 1]) > own) this.seam = true;
    }
    return this.seam;
  }

  /** Gain of the samples that come next, level and fades and ramps together. @param into where it is written when it changes */
  private envelope(pass: number, step: number, count: number, into: Float64Array): Envelope {
    const { shape, travel, given, released, cutIn = 0, passes, rate, level } = this;
    const release = this.releaseSeconds * rate;
    const { loop, direction, start, end } = this.path;
    const lastFrame = direction === 'forward' ? end === this.material.frames : start === 0;
    const cutOut = loop || lastFrame || this.placed ? 0 : EDGE * rate;
    const fadeIn = passes === 0 ? shape.fadeIn * rate : 0;
    const fadeOut = loop ? 0 : shape.fadeOut * rate;
    const left = (pass - travel) / step;
    const passed = travel / step;
    const sinks = this.sinking > 0;
    if (!sinks && released < 0 && given >= cutIn && passed >= fadeIn && left - count > Math.max(cutOut, fadeOut))
      return level;
    for (let i = 0; i < count; i++) {
      let g = sinks ? this.reached(i) : level;
      if (released >= 0) g *= Math.max(0, 1 - (released + i) / release);
      if (given + i < cutIn) g *= (given + i) / cutIn;
      if (left - i < cutOut) g *= (left - i) / cutOut;
      if (passed + i < fadeIn) g *= fadeGain(shape.fade, (passed + i) / fadeIn);
      if (left - i < fadeOut) g *= fadeGain(shape.fade, (left - i) / fadeOut);
      into[i] = g;
    }
    return into;
  }
}
