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
}

/** 24 bit as broadcasters ask for it, 16 bit with noise in place of distortion, and 32 bit float, which cuts nothing off. */
export const mixDepths: readonly MixDepth[] = [
  { key: '24', name: '24 bit', bits: 24 },
  { key: '16', name: '16 bit, dithered', bits: 16 },
  { key: 'float', name: '32 bit float', bits: 32, float: true },
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
   */
  constructor(
    private readonly scene: Scene,
    private readonly plan: GraphPlan,
    readonly length: number,
    materials: ReadonlyMap<number, Material>,
    private readonly depth: MixDepth = mixDepths[0],
    private readonly from = 0,
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
    return encodePcm(bits === 16 ? dithered(planes, bits) : planes, { bits, float });
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

  /** What lies before and behind the samples: labels, with the scene's start as TimeReference. @throws RangeError past 4 GiB */
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
