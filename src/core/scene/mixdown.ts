import {
  BLOCK,
  differences,
  emptyPlan,
  Graph,
  needsOf,
  type GraphPlan,
  type Material,
  type MaterialSpan,
} from '@core/engine';
import { dithered, LoudnessMeter, TruePeakMeter } from '@core/audio';
import { aroundSamples, encodePcm } from '@core/files';
import type { Scene } from './scene';
import { timeReference } from './scene';
import type { MixLevels } from './targets';

/** Seconds that are rendered at once. */
const WINDOW = 10;

/** How the samples of a mix are written. */
export interface MixDepth {
  key: string;
  name: string;
  bits: 16 | 24 | 32;
  float?: boolean;
  /** FLAC rather than WAV; of 16 or 24 bit. */
  flac?: boolean;
}

/** What samples go through on their way into a file that is not a WAV file. */
export interface MixCoder {
  /** @returns the bytes of samples, as they lie in the file */
  push(planes: readonly Float32Array[]): Uint8Array;
}

/** 24 bit as broadcasters ask for it, 16 bit with noise in place of distortion, 32 bit float, which cuts nothing off, and FLAC. */
export const mixDepths: readonly MixDepth[] = [
  { key: '24', name: '24 bit', bits: 24 },
  { key: '16', name: '16 bit, dithered', bits: 16 },
  { key: 'float', name: '32 bit float', bits: 32, float: true },
  { key: 'flac24', name: 'FLAC, 24 bit', bits: 24, flac: true },
  { key: 'flac16', name: 'FLAC, 16 bit, dithered', bits: 16, flac: true },
];

/**
 * Renders a scene to a stereo broadcast WAV through the graph that plays it: window by window, so that an hour takes no more
 * memory than ten seconds. Before each window, `needs` tells what the materials have to hold.
 */
export class Mixdown {
  /** Samples above full scale so far, which had to be clipped. */
  clipped = 0;
  /** Highest magnitude so far, before clipping. */
  peak = 0;
  private at = 0;
  private readonly graph: Graph;
  private readonly loudness: LoudnessMeter;
  private readonly truePeak: TruePeakMeter;
  private readonly late: number;
  private ahead: number;

  /**
   * @param plan see `planOf`; @param length the sample before which it ends; @param from the one with which it begins
   * @param materials by their keys in the plan; one that is lacking is silent
   * @param coder what makes its bytes of samples, where it is not to be PCM
   */
  constructor(
    private readonly scene: Scene,
    private readonly plan: GraphPlan,
    readonly length: number,
    materials: ReadonlyMap<number, Material>,
    private readonly depth: MixDepth = mixDepths[0],
    private readonly from = 0,
    private readonly coder?: MixCoder,
  ) {
    this.at = from;
    this.graph = new Graph(scene.sampleRate, materials);
    this.graph.apply(differences(emptyPlan, plan), false);
    this.late = this.graph.latency;
    this.loudness = new LoudnessMeter(scene.sampleRate, 2);
    this.truePeak = new TruePeakMeter(scene.sampleRate, 2);
    this.ahead = this.late;
  }

  /** Share of it that is rendered. */
  get share(): number {
    return this.length <= this.from ? 1 : (this.at - this.from) / (this.length - this.from);
  }

  private get until(): number {
    return Math.min(this.length, this.at + WINDOW * this.scene.sampleRate);
  }

  /** What the next window needs; none when all of it is rendered. */
  get needs(): MaterialSpan[] {
    return needsOf(this.plan, this.scene.sampleRate, this.at, this.until + this.late);
  }

  /** Renders the next window. @returns its bytes as they lie in the file; undefined when all of it is rendered */
  next(): Uint8Array | undefined {
    const { graph, until } = this;
    const count = until - this.at;
    if (count <= 0) return undefined;
    // What comes out is late by so much: that much is rendered before anything is kept.
    for (; this.ahead > 0; this.ahead -= BLOCK)
      graph.render(this.at + this.late - this.ahead, Math.min(BLOCK, this.ahead));
    const planes = [new Float32Array(count), new Float32Array(count)];
    for (let done = 0; done < count; done += BLOCK) {
      const part = Math.min(BLOCK, count - done);
      graph.render(this.at + this.late + done, part);
      planes.forEach((plane, c) => plane.set(graph.out[c].subarray(0, part), done));
    }
    for (const plane of planes)
      for (let i = 0; i < count; i++) {
        const magnitude = Math.abs(plane[i]);
        // Floats are not cut off.
        if (magnitude > 1 && !this.depth.float) this.clipped++;
        if (magnitude > this.peak) this.peak = magnitude;
      }
    this.loudness.push(planes);
    this.truePeak.push(planes);
    this.at = until;
    const { bits, float } = this.depth;
    const samples = bits === 16 ? dithered(planes, bits) : planes;
    return this.coder ? this.coder.push(samples) : encodePcm(samples, { bits, float });
  }

  /** How loud it was, once all of it is rendered; before full scale cut anything off. */
  levels(): MixLevels {
    const { integrated: loudness, range } = this.loudness.done();
    return { loudness, range, truePeak: this.truePeak.done() };
  }

  /** Short-term loudness every 0.1 s of what was rendered. LUFS */
  course(): Float32Array {
    return this.loudness.course();
  }

  /** Texts for a file without `bext`, by their names; TIME_REFERENCE is that of `bext`, as others write it. */
  comments(date: Date): Record<string, string> {
    const { scene, from } = this;
    return {
      TITLE: scene.name,
      DATE: date.toISOString().slice(0, 10),
      ENCODER: 'Cormorant',
      TIME_REFERENCE: String(timeReference(scene) + BigInt(from)),
      TIMECODE_RATE: scene.fps,
    };
  }

  /** What lies before and behind the samples of a WAV file: labels, with the scene's start as TimeReference. @throws RangeError past 4 GiB */
  around(date: Date): { head: Uint8Array; tail: Uint8Array } {
    const { scene, from } = this;
    const length = this.length - from;
    const [day, clock] = date.toISOString().split('T');
    const { bits, float } = this.depth;
    return aroundSamples(2, { rate: scene.sampleRate, bits, float }, length * 2 * (bits / 8), {
      bext: {
        Description: scene.name,
        Originator: 'Cormorant',
        OriginationDate: day,
        OriginationTime: clock.slice(0, 8),
        TimeReference: timeReference(scene) + BigInt(from),
        CodingHistory: `A=PCM,F=${scene.sampleRate},W=${bits},M=stereo\r\n`,
      },
      ixml: { PROJECT: scene.name, SPEED: { TIMECODE_RATE: scene.fps, FILE_SAMPLE_RATE: String(scene.sampleRate) } },
    });
  }
}
