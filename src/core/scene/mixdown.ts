import {
  BLOCK,
  differences,
  emptyPlan,
  Graph,
  needsOf,
  RateConverter,
  type GraphPlan,
  type Material,
  type MaterialSpan,
} from '@core/engine';
import { AROUND, fed, MIDDLE, PAIR } from '@core/effects';
import { dithered, LoudnessMeter, TruePeakMeter } from '@core/audio';
import { aroundSamples, encodePcm } from '@core/files';
import type { Scene } from './scene';
import { timeReference } from './scene';
import type { MixLevels } from './targets';

/** Below this nothing is heard; -90 dB. */
const SILENT = 10 ** (-90 / 20);

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

/** Rates at which a mix can be written, Hz. */
export const mixRates: readonly number[] = [44_100, 48_000, 88_200, 96_000, 176_400, 192_000];

/** How a mix is written. */
export interface MixForm extends MixDepth {
  /** Hz; that of the scene when absent. */
  rate?: number;
  /** Channels that it has, by their names; stereo when absent. */
  layout?: MixLayout;
}

/** Channels that a mix is written with. */
export interface Layout {
  /** How many. */
  channels: number;
  name: string;
  /** Channels in the graph that it is rendered through. */
  flowing: number;
  /** The loudspeakers of a WAV file (`dwChannelMask`), in whose order channels lie; of more than two. */
  speakers?: number;
  /** Samples of the channels, in their order, of those that flowed. */
  feed(flowed: readonly Float32Array[]): Float32Array[];
}

const both = (flowed: readonly Float32Array[]): Float32Array[] =>
  [0, 1].map((side) => flowed[side].map((_, i) => fed(flowed, side, i)));

/**
 * Both sides in one, each half as loud; two sides; with a middle, which plays what stands on both sides alike; and with two behind, by how far
 * behind lines stand, while the channel for deep effects is silent. Folded down after ITU-R BS.775, all of them are the stereo mix.
 */
export const layouts = {
  mono: {
    ...{ channels: 1, name: 'mono', flowing: PAIR },
    feed: ([left, right]) => [left.map((x, i) => (x + right[i]) / 2)],
  },
  stereo: { channels: 2, name: 'stereo', flowing: PAIR, feed: (flowed) => [...flowed] },
  LCR: {
    ...{ channels: 3, name: 'LCR', flowing: MIDDLE, speakers: 0x7 },
    feed: (flowed) => [...both(flowed), flowed[2]],
  },
  '5.1': {
    ...{ channels: 6, name: '5.1', flowing: AROUND, speakers: 0x3f },
    feed: (flowed) => [...both(flowed), flowed[2], new Float32Array(flowed[2].length), flowed[3], flowed[4]],
  },
} as const satisfies Record<string, Layout>;
export type MixLayout = keyof typeof layouts;

/** How many channels a form has. */
export const channelsOf = ({ layout = 'stereo' }: Pick<MixForm, 'layout'>): number => layouts[layout].channels;

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

/** How loud something is that comes part by part. */
class Meter {
  private readonly loudness: LoudnessMeter;
  private readonly truePeak: TruePeakMeter;

  constructor(rate: number, channels: number) {
    this.loudness = new LoudnessMeter(rate, channels);
    this.truePeak = new TruePeakMeter(rate, channels);
  }

  push(planes: Float32Array[]): void {
    this.loudness.push(planes);
    this.truePeak.push(planes);
  }

  levels(): MixLevels {
    const { integrated: loudness, range } = this.loudness.done();
    return { loudness, range, truePeak: this.truePeak.done() };
  }

  course(): Float32Array {
    return this.loudness.course();
  }
}

/**
 * Renders a scene to a broadcast WAV through the graph that plays it: window by window, so that an hour takes no more
 * memory than ten seconds. Before each window, `needs` tells what the materials have to hold.
 */
export class Mixdown {
  /** Samples for which the scene rings on behind its last cue at the most. */
  static ringsOn(plan: GraphPlan, rate: number): number {
    const graph = new Graph(rate, new Map());
    graph.apply(differences(emptyPlan, plan), false);
    return graph.rings;
  }

  /** The sample up to which a part is rendered that ends at another, so that it has died away. @param rings samples that it may ring on at the most */
  static endOf(plan: GraphPlan, rate: number, end: number, rings: number): number {
    return end + Math.min(rings, Math.ceil(Mixdown.ringsOn(plan, rate)) || rings);
  }

  /** Samples above full scale so far, which had to be clipped. */
  clipped = 0;
  /** Highest magnitude so far, before clipping. */
  peak = 0;
  /** Frames that were written up to the last one that is heard. */
  heard = 0;
  private done = 0;
  private at = 0;
  private readonly graph: Graph;
  private readonly meter: Meter;
  /** Of lines that are measured beside, by their ids. */
  private readonly beside = new Map<number, Meter>();
  private readonly late: number;
  private ahead: number;
  /** Hz and channels of what is written. */
  private readonly rate: number;
  readonly channels: number;
  /** The first sample that is written, counted from midnight at the rate that is written. */
  private readonly first: bigint;
  /** Frames that are written. */
  readonly frames: number;
  private readonly converter?: RateConverter;
  private flushed = false;
  private begun = false;

  /**
   * @param plan see `planOf`; @param length the sample before which it ends; @param from the one with which it begins: both at the scene's rate
   * @param materials by their keys in the plan; one that is lacking is silent
   * @param coder what makes its bytes of samples, where it is not to be PCM
   */
  constructor(
    private readonly scene: Scene,
    private readonly plan: GraphPlan,
    readonly length: number,
    materials: ReadonlyMap<number, Material>,
    private readonly form: MixForm = mixDepths[0],
    private readonly from = 0,
    private readonly coder?: MixCoder,
  ) {
    this.at = from;
    this.graph = new Graph(scene.sampleRate, materials, this.layout.flowing);
    this.graph.apply(differences(emptyPlan, plan), false);
    this.late = this.graph.latency;
    this.rate = form.rate ?? scene.sampleRate;
    this.channels = this.layout.channels;
    this.meter = new Meter(this.rate, this.channels);
    this.ahead = this.late;
    const [own, to] = [BigInt(scene.sampleRate), BigInt(this.rate)];
    const midnight = timeReference(scene) + BigInt(from);
    this.first = (midnight * to + own - 1n) / own;
    // Samples of another rate seldom fall on the first one of this: the first that follows it is written.
    const off = Number(this.first * own - midnight * to) / this.rate;
    this.frames = RateConverter.count(Math.max(0, length - from), scene.sampleRate, this.rate, off);
    if (to !== own) this.converter = new RateConverter(this.channels, scene.sampleRate, this.rate, off);
  }

  private get layout(): Layout {
    return layouts[this.form.layout ?? 'stereo'];
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
    const { graph, until, converter } = this;
    if (!this.begun) {
      // Effects that are made of sounds are whole before anything goes through them.
      while (graph.feed());
      graph.reset();
      this.begun = true;
    }
    const count = until - this.at;
    if (count <= 0) {
      if (!converter || this.flushed) return undefined;
      this.flushed = true;
      return this.written(converter.finish());
    }
    // What comes out is late by so much: that much is rendered before anything is kept.
    for (; this.ahead > 0; this.ahead -= BLOCK)
      graph.render(this.at + this.late - this.ahead, Math.min(BLOCK, this.ahead));
    const planes = graph.out.map(() => new Float32Array(count));
    const lines = [...this.beside].map(([id, meter]) => ({
      ...{ id, meter },
      planes: [new Float32Array(count), new Float32Array(count)],
    }));
    for (let done = 0; done < count; done += BLOCK) {
      const part = Math.min(BLOCK, count - done);
      graph.render(this.at + this.late + done, part);
      planes.forEach((plane, c) => plane.set(graph.out[c].subarray(0, part), done));
      for (const line of lines)
        line.planes.forEach((plane, c) => plane.set(graph.outOf(line.id)![c].subarray(0, part), done));
    }
    for (const line of lines) line.meter.push(line.planes);
    this.at = until;
    const own = this.layout.feed(planes);
    return this.written(converter ? converter.push(own) : own);
  }

  /** Measures samples as they are written. @returns their bytes */
  private written(planes: Float32Array[]): Uint8Array {
    const { bits, float } = this.form;
    for (const plane of planes)
      for (let i = 0; i < plane.length; i++) {
        const magnitude = Math.abs(plane[i]);
        // Floats are not cut off.
        if (magnitude > 1 && !float) this.clipped++;
        if (magnitude > this.peak) this.peak = magnitude;
        if (magnitude > SILENT && this.done + i >= this.heard) this.heard = this.done + i + 1;
      }
    this.done += planes[0].length;
    this.meter.push(planes);
    const samples = bits === 16 ? dithered(planes, bits) : planes;
    return this.coder ? this.coder.push(samples) : encodePcm(samples, { bits, float });
  }

  /** How loud it was, once all of it is rendered; before full scale cut anything off. */
  levels(): MixLevels {
    return this.meter.levels();
  }

  /** Short-term loudness every 0.1 s of what was rendered. LUFS */
  course(): Float32Array {
    return this.meter.course();
  }

  /** Has lines be measured beside the whole, as they flow out; before anything is rendered. */
  watch(lines: readonly number[]): void {
    for (const id of lines) if (this.graph.outOf(id)) this.beside.set(id, new Meter(this.scene.sampleRate, 2));
  }

  /** What `watch` asked for, by line; once all of it is rendered. */
  measuredLines(): Map<number, { levels: MixLevels; course: Float32Array }> {
    return new Map([...this.beside].map(([id, meter]) => [id, { levels: meter.levels(), course: meter.course() }]));
  }

  /** Texts for a file without `bext`, by their names; TIME_REFERENCE is that of `bext`, as others write it. */
  comments(date: Date): Record<string, string> {
    const { scene } = this;
    return {
      TITLE: scene.name,
      DATE: date.toISOString().slice(0, 10),
      ENCODER: 'Cormorant',
      TIME_REFERENCE: String(this.first),
      TIMECODE_RATE: scene.fps,
    };
  }

  /** What lies before and behind the samples of a WAV file: labels, with the scene's start as TimeReference. */
  around(date: Date): { head: Uint8Array; tail: Uint8Array } {
    const { scene, rate, channels } = this;
    const [day, clock] = date.toISOString().split('T');
    const { bits, float } = this.form;
    const { speakers, name } = this.layout;
    return aroundSamples(channels, { rate, bits, float, speakers }, this.frames * channels * (bits / 8), {
      bext: {
        Description: scene.name,
        Originator: 'Cormorant',
        OriginationDate: day,
        OriginationTime: clock.slice(0, 8),
        TimeReference: this.first,
        // Of more than two channels EBU R 98 knows no mode: they are told in its free text.
        CodingHistory: `A=PCM,F=${rate},W=${bits},${channels > 2 ? 'T' : 'M'}=${name}\r\n`,
      },
      ixml: { PROJECT: scene.name, SPEED: { TIMECODE_RATE: scene.fps, FILE_SAMPLE_RATE: String(rate) } },
    });
  }
}
