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
import { aroundSamples, encodePcm } from '@core/files';
import type { Scene } from './scene';
import { timeReference } from './scene';

/** Seconds that are rendered at once. */
const WINDOW = 10;
const BITS = 24;

/**
 * Renders a scene to a stereo broadcast WAV, 24 bit, through the graph that plays it: window by window, so that an hour takes no more
 * memory than ten seconds. Before each window, `needs` tells what the materials have to hold.
 */
export class Mixdown {
  /** Samples above full scale so far, which had to be clipped. */
  clipped = 0;
  /** Highest magnitude so far, before clipping. */
  peak = 0;
  private at = 0;
  private readonly graph: Graph;
  private readonly late: number;
  private ahead: number;

  /**
   * @param plan see `planOf`; @param length samples
   * @param materials by their keys in the plan; one that is lacking is silent
   */
  constructor(
    private readonly scene: Scene,
    private readonly plan: GraphPlan,
    readonly length: number,
    materials: ReadonlyMap<number, Material>,
  ) {
    this.graph = new Graph(scene.sampleRate, materials);
    this.graph.apply(differences(emptyPlan, plan), false);
    this.late = this.graph.latency;
    this.ahead = this.late;
  }

  /** Share of it that is rendered. */
  get share(): number {
    return this.length === 0 ? 1 : this.at / this.length;
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
    for (; this.ahead > 0; this.ahead -= BLOCK) graph.render(this.late - this.ahead, Math.min(BLOCK, this.ahead));
    const planes = [new Float32Array(count), new Float32Array(count)];
    for (let done = 0; done < count; done += BLOCK) {
      const part = Math.min(BLOCK, count - done);
      graph.render(this.at + this.late + done, part);
      planes.forEach((plane, c) => plane.set(graph.out[c].subarray(0, part), done));
    }
    for (const plane of planes)
      for (let i = 0; i < count; i++) {
        const magnitude = Math.abs(plane[i]);
        if (magnitude > 1) this.clipped++;
        if (magnitude > this.peak) this.peak = magnitude;
      }
    this.at = until;
    return encodePcm(planes, { bits: BITS });
  }

  /** What lies before and behind the samples: labels, with the scene's start as TimeReference. @throws RangeError past 4 GiB */
  around(date: Date): { head: Uint8Array; tail: Uint8Array } {
    const { scene, length } = this;
    const [day, clock] = date.toISOString().split('T');
    return aroundSamples(2, { rate: scene.sampleRate, bits: BITS }, length * 2 * (BITS / 8), {
      bext: {
        Description: scene.name,
        Originator: 'Cormorant',
        OriginationDate: day,
        OriginationTime: clock.slice(0, 8),
        TimeReference: timeReference(scene),
        CodingHistory: `A=PCM,F=${scene.sampleRate},W=${BITS},M=stereo\r\n`,
      },
      ixml: { PROJECT: scene.name, SPEED: { TIMECODE_RATE: scene.fps, FILE_SAMPLE_RATE: String(scene.sampleRate) } },
    });
  }
}
