import { fadeGain, fromDb, pickGains, plainShape, type Shape } from '@core/audio';
import { interpolate, spanRead } from './interpolate';
import type { Material } from './material';
import { passOf, placeAt, travelTo, type Path } from './path';

/** The engine renders blocks of at most this many frames. */
export const BLOCK = 128;

const scratch: { sources: Float32Array[]; lines: Float32Array[] } = { sources: [], lines: [] };

/** Copies what is needed of every channel and reads it; undefined when some of it has not arrived. */
function readMaterial(material: Material, position: number, step: number, count: number): Float32Array[] | undefined {
  const { base, span } = spanRead(position, step, count);
  if (!material.has(base, base + span)) return undefined;
  const { sources, lines } = scratch;
  for (let c = 0; c < material.channels; c++) {
    if ((sources[c]?.length ?? 0) < span) sources[c] = new Float32Array(span * 2);
    lines[c] ??= new Float32Array(BLOCK);
    material.copy(c, base, span, sources[c]);
  }
  const own = lines.slice(0, material.channels);
  interpolate(sources.slice(0, material.channels), base, position, step, own, count);
  return own;
}

/**
 * Adds `count` frames of a material to a block, starting at a fractional frame.
 * @param gains of each channel of the material in each of `out`
 * @param envelope gain of each output frame
 * @returns false, adding nothing, when audio that is needed has not arrived
 */
export function addMaterial(
  material: Material,
  position: number,
  step: number,
  gains: (channel: number) => readonly number[],
  envelope: (i: number) => number,
  out: Float32Array[],
  offset: number,
  count: number,
): boolean {
  const lines = readMaterial(material, position, step, count);
  if (!lines) return false;
  for (let c = 0; c < lines.length; c++) {
    const line = lines[c];
    const into = gains(c);
    for (let o = 0; o < out.length; o++) {
      const gain = into[o];
      if (gain === 0) continue;
      const plane = out[o];
      for (let i = 0; i < count; i++) plane[offset + i] += line[i] * envelope(i) * gain;
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
}

/** Seconds in which a voice that is cut short dies away, so that it never clicks. */
const RELEASE = 0.005;
/** Seconds of the ramps where playing begins or ends in the middle of a sound. */
const EDGE = 0.002;
/** Seconds in which the end of a loop gives way to what lies before its beginning, where the two do not meet. */
const SEAM = 0.01;
/** Frames on either side of a loop's seam in which the signal's own steps are looked at. */
const LOOKED = 64;

/** One sounding audition. */
export class Voice {
  /** Frames passed since the pass began. */
  private travel: number;
  private passes = 0;
  /** Samples given so far. */
  private given = 0;
  private released = -1;
  private cutIn: number;
  private seam: boolean | undefined;
  /** True while it waits for audio that has not arrived; it loses nothing by waiting. */
  waiting = false;
  done = false;

  constructor(
    readonly material: Material,
    private audition: Audition,
    private readonly rate: number,
    /** Of a key that is played: frequency over that of the sound as it is, and level. */
    private readonly note: { ratio: number; gain: number } = { ratio: 1, gain: 1 },
  ) {
    this.travel = Math.max(0, travelTo(this.path, audition.from));
    // The very first frames of a sound are never faded: its attack is what the ear judges.
    this.cutIn = this.travel === 0 ? 0 : EDGE * rate;
  }

  private get shape(): Shape {
    return this.audition.shape ?? plainShape;
  }

  private get path(): Path {
    const { region, loop } = this.audition;
    return { ...region, loop, direction: this.shape.direction };
  }

  /** Frames of the sound for each sample that is given. */
  private get step(): number {
    return (this.material.rate / this.rate) * this.shape.speed * this.note.ratio;
  }

  /** The frame that sounds next. */
  get frame(): number {
    return placeAt(this.path, this.travel).frame;
  }

  /** Changes region, loop, gain or shape while it sounds; it goes on from where it is. */
  adjust(audition: Omit<Audition, 'from'>): void {
    const before = this.path;
    const { frame, sign } = placeAt(before, this.travel);
    this.audition = { ...audition, from: frame };
    const { start, end, direction, loop } = this.path;
    // On the same path it stays where it is to the last bit.
    if (start === before.start && end === before.end && direction === before.direction && loop === before.loop) return;
    this.travel = Math.max(0, travelTo(this.path, frame, sign < 0));
    this.seam = undefined;
  }

  /** Lets it die away. One that has not begun to sound ends at once. */
  release(): void {
    if (this.given === 0) this.done = true;
    else if (this.released < 0) this.released = 0;
  }

  /** Adds the next frames to a block of `count` frames. */
  render(out: Float32Array[], count: number): void {
    const { path, step, shape, material } = this;
    const gains = (c: number) => pickGains(shape.channels, c, material.channels, out.length);
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
      const place = placeAt(path, this.travel);
      const part = Math.min(count - at, Math.max(1, Math.ceil(place.left / step)), this.untilSeam(pass, step));
      const envelope = this.envelope(pass, step);
      const seam = this.seamed ? this.seamAt(pass, step) : undefined;
      const read = (frame: number, gain: (i: number) => number) =>
        addMaterial(material, frame, step * place.sign, gains, gain, out, at, part);
      const sounds = read(place.frame, seam ? (i) => envelope(i) * seam.falls(i) : envelope);
      this.waiting = !sounds;
      if (!sounds) return;
      // What lies before the loop's beginning rises meanwhile, so that the beginning follows on from it.
      if (seam?.within) read(place.frame - place.sign * pass, (i) => envelope(i) * seam.rises(i));
      this.travel += part * step;
      this.given += part;
      at += part;
      if (this.travel >= pass && !path.loop) this.done = true;
      if (this.released >= 0 && (this.released += part) >= RELEASE * this.rate) this.done = true;
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

  /** With equal power, how the end of a loop falls and what lies before its beginning rises, from the next sample on. */
  private seamAt(pass: number, step: number) {
    const frames = this.seamFrames(pass);
    const into = this.travel - (pass - frames);
    const angle = (i: number) => (Math.max(0, Math.min(1, (into + i * step) / frames)) * Math.PI) / 2;
    return { within: into >= 0, falls: (i: number) => Math.cos(angle(i)), rises: (i: number) => Math.sin(angle(i)) };
  }

  /** Gain of the samples that come next, level and fades and ramps together. */
  private envelope(pass: number, step: number): (i: number) => number {
    const { audition, shape, travel, given, released, cutIn, passes, rate } = this;
    const level = fromDb(audition.gain + shape.gain) * this.note.gain;
    const release = RELEASE * rate;
    const { loop, direction, start, end } = this.path;
    const lastFrame = direction === 'forward' ? end === this.material.frames : start === 0;
    const cutOut = loop || lastFrame ? 0 : EDGE * rate;
    const fadeIn = passes === 0 ? shape.fadeIn * rate : 0;
    const fadeOut = loop ? 0 : shape.fadeOut * rate;
    return (i) => {
      const left = (pass - travel) / step - i;
      let g = level;
      if (released >= 0) g *= Math.max(0, 1 - (released + i) / release);
      if (given + i < cutIn) g *= (given + i) / cutIn;
      if (left < cutOut) g *= left / cutOut;
      const passed = travel / step + i;
      if (passed < fadeIn) g *= fadeGain(shape.fade, passed / fadeIn);
      if (left < fadeOut) g *= fadeGain(shape.fade, left / fadeOut);
      return g;
    };
  }
}
