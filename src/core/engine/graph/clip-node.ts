import { fromDb } from '@core/audio';
import { GLIDE, type Block } from '@core/effects';
import type { Material } from '../material';
import { Voice, type Audition } from '../voice';
import { clipSpan, stepOf, type Clip } from './plan';

/** Frames about where a clip is that say how loud it is. */
const looked = new Float32Array(512);

/** All of a clip but how loud it is. */
const whereabouts = (clip: Clip): string => JSON.stringify({ ...clip, gain: 0, shape: { ...clip.shape, gain: 0 } });

/** A clip as it sounds: the voice of an audition, on a timeline. */
export class ClipNode {
  start!: number;
  end!: number;
  private step!: number;
  private voice: Voice | undefined;
  /** Samples in which it rises, where it came while it would sound already. */
  private rising = 0;

  constructor(
    readonly id: number,
    private clip: Clip,
    private readonly rate: number,
  ) {
    this.lie();
  }

  private lie(): void {
    const { start, end } = clipSpan(this.clip, this.rate);
    this.start = start;
    this.end = end;
    this.step = stepOf(this.clip, this.rate);
  }

  private get audition(): Audition {
    const { region, gain, shape, place } = this.clip;
    return { from: region.start, region, loop: false, gain, shape, place };
  }

  /**
   * Takes over what only makes it louder or softer.
   * @returns false where more has changed: then another node has to take its place, while this one dies away
   */
  take(clip: Clip): boolean {
    if (whereabouts(clip) !== whereabouts(this.clip)) return false;
    this.clip = clip;
    this.voice?.adjust(this.audition);
    return true;
  }

  /** Has it rise over a moment, as it comes while it would sound already. */
  rise(): void {
    this.rising = GLIDE * this.rate;
  }

  /** Has it die away. @param seconds in which it does; see `Voice.release` @returns whether there is anything to hear of that */
  release(seconds?: number): boolean {
    this.voice?.release(seconds);
    return this.voice?.done === false;
  }

  /** How loud it is about where it is: the highest magnitude of the next moment. */
  loudness(materials: ReadonlyMap<number, Material>): number {
    const { voice, clip } = this;
    const material = materials.get(clip.material);
    if (!voice || !material || voice.done) return 0;
    let top = 0;
    for (let c = 0; c < material.channels; c++) {
      material.copy(c, Math.floor(voice.frame), looked.length, looked);
      for (const sample of looked) top = Math.max(top, Math.abs(sample));
    }
    return top * fromDb(clip.gain + clip.shape.gain);
  }

  get gone(): boolean {
    return this.voice?.done !== false;
  }

  /**
   * Adds its part of a block.
   * @returns false where audio that is needed has not arrived
   */
  render(materials: ReadonlyMap<number, Material>, at: number, out: Block, count: number): boolean {
    const from = Math.max(at, Math.ceil(this.start));
    const to = Math.min(at + count, Math.ceil(this.end));
    if (from >= to) return true;
    const material = materials.get(this.clip.material);
    if (!material) return false;
    if (this.voice?.material !== material) {
      this.voice = new Voice(material, this.audition, this.rate, undefined, true);
      if (this.rising > 0) this.voice.rise(this.rising);
      this.rising = 0;
    }
    const { voice } = this;
    voice.seek((from - this.start) * this.step);
    voice.render(out, to - from, from - at);
    return !voice.waiting;
  }
}
