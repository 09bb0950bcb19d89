import { stretchBlocks, stretchedFrames, type Stretch } from '@core/audio';
import type { SoundReader } from './sound-reader';

/** What the stretching library's WebAssembly module offers; see its README and source. Lengths in frames. */
interface StretchModule {
  HEAP8: Int8Array;
  _main(): void;
  _configure(channels: number, block: number, interval: number, split: boolean): void;
  _reset(): void;
  _setTransposeSemitones(semitones: number, tonality: number): void;
  _setBuffers(channels: number, length: number): number;
  _inputLatency(): number;
  _outputLatency(): number;
  _seek(frames: number, rate: number): void;
  _process(input: number, output: number): void;
}
type MadeProcessor = { wasmModule: StretchModule; port: { postMessage: (message: unknown[]) => void } };

/** Frames that come out of one call. */
const STEP = 1024;
/** Frames that come out between two fresh beginnings, so that any place of a long sound is reached soon; about 22 s. */
const LEG = 1 << 20;
/** Frames in which a leg gives way to the next. */
const JOIN = 2048;
/** Of the sampling rate: above it, partials need not keep their ratios; the library's own choice is 8 kHz at 48 kHz. */
const TONALITY = 8000;

let processor: Promise<new (options: object) => MadeProcessor> | undefined;

/**
 * The library is made for an AudioWorklet and knows no other host. Here it is given what it asks of one, so that its module
 * runs in a worker, ahead of the ear and in the same way for what is written.
 */
function loadProcessor(): Promise<new (options: object) => MadeProcessor> {
  return (processor ??= (async () => {
    let made: (new (options: object) => MadeProcessor) | undefined;
    const host = globalThis as Record<string, unknown>;
    host.AudioWorkletProcessor = class {
      port = { onmessage: null, postMessage: () => undefined };
    };
    host.registerProcessor = (_: string, of: typeof made) => (made = of);
    host.sampleRate = 48000;
    await import('signalsmith-stretch');
    delete host.registerProcessor;
    return made!;
  })());
}

/** Numbers that look random and are the same each time (Marsaglia, "Xorshift RNGs", 2003). */
function sameRandom() {
  let x = 0x9e3779b9;
  return {
    getRandomValues: (bytes: Uint8Array) => {
      for (let i = 0; i < bytes.length; i++) {
        x ^= x << 13;
        x ^= x >>> 17;
        x ^= x << 5;
        bytes[i] = x;
      }
      return bytes;
    },
  };
}

/** A fresh module, which gives the same output for the same input every time. */
async function startModule(): Promise<StretchModule> {
  const Processor = await loadProcessor();
  const own = Object.getOwnPropertyDescriptor(globalThis, 'crypto');
  // It takes its random seed from here, once, while it is made.
  Object.defineProperty(globalThis, 'crypto', { value: sameRandom(), configurable: true, writable: true });
  try {
    const made = new Processor({ numberOfOutputs: 1, outputChannelCount: [2] });
    await new Promise<void>((done) => {
      made.port.postMessage = ([what]) => what === 'ready' && done();
    });
    return made.wasmModule;
  } finally {
    if (own) Object.defineProperty(globalThis, 'crypto', own);
    else delete (globalThis as Record<string, unknown>).crypto;
  }
}

/** Stretches from one place on, without looking back. */
class Leg {
  private module!: StretchModule;
  private pointer = 0;
  private room = 0;
  private delay = 0;
  private taken = 0;
  private given = 0;
  /** What was made beyond what was asked for. */
  private rest: Float32Array[] = [];

  constructor(
    private readonly reader: SoundReader,
    private readonly stretch: Stretch,
    readonly number: number,
  ) {}

  /** Frames given so far. */
  at = 0;

  /** The frame of the sound that is due once so many frames are made. */
  private due(given: number): number {
    return Math.round((this.number * LEG + given) / this.stretch.length);
  }

  private async begin(): Promise<void> {
    const { rate, channels } = this.reader.format;
    const { block, interval } = stretchBlocks[this.stretch.texture];
    const module = (this.module = await startModule());
    module._main();
    module._configure(channels, Math.round(block * rate), Math.round(interval * rate), false);
    module._reset();
    module._setTransposeSemitones(this.stretch.pitch, TONALITY / rate);
    this.delay = module._outputLatency();
    const ahead = module._inputLatency();
    const before = ahead + this.delay;
    this.room = Math.max(before, STEP, Math.ceil(STEP / this.stretch.length) + 2);
    this.pointer = module._setBuffers(channels, this.room);
    // It hears what lies before and as far ahead as it must look, then goes on in step with what it gives.
    const from = this.due(0);
    await this.put(from + ahead - before, before);
    module._seek(before, 1 / this.stretch.length);
    this.taken = from + ahead;
    for (let skip = this.delay; skip > 0; skip -= STEP) await this.make(Math.min(STEP, skip), ahead);
  }

  private plane(c: number, count: number): Float32Array {
    return new Float32Array(this.module.HEAP8.buffer, this.pointer + c * this.room * 4, count);
  }

  /** Silence lies before the sound and after it. */
  private async put(from: number, count: number): Promise<void> {
    const { channels } = this.reader.format;
    for (let c = 0; c < channels; c++) this.plane(c, count).fill(0);
    const first = Math.max(0, from);
    if (from + count <= first) return;
    const planes = await this.reader.read(first, from + count - first);
    planes.forEach((p, c) => this.plane(c, count).set(p, first - from));
  }

  /** Takes as much of the sound as is due and makes the next frames. */
  private async make(count: number, ahead = this.module._inputLatency()): Promise<Float32Array[]> {
    this.given += count;
    const to = this.due(this.given) + ahead;
    await this.put(this.taken, to - this.taken);
    this.module._process(to - this.taken, count);
    this.taken = to;
    const { channels } = this.reader.format;
    return Array.from({ length: channels }, (_, c) => this.plane(c + channels, count).slice());
  }

  /** The frames that come next. */
  async next(count: number): Promise<Float32Array[]> {
    if (!this.module) await this.begin();
    const { channels } = this.reader.format;
    const planes = Array.from({ length: channels }, () => new Float32Array(count));
    for (let at = 0; at < count;) {
      if (!this.rest[0]?.length) this.rest = await this.make(STEP);
      const part = Math.min(count - at, this.rest[0].length);
      planes.forEach((p, c) => p.set(this.rest[c].subarray(0, part), at));
      this.rest = this.rest.map((r) => r.subarray(part));
      at += part;
    }
    this.at += count;
    return planes;
  }
}

/**
 * A sound with its length and pitch changed apart, read like any other: the same frames whichever way they are asked for, so
 * that what is heard is what is written. By Signalsmith Stretch, a phase vocoder that keeps phases in step between channels
 * and neighbouring partials. A long sound is made in legs of {@link LEG} frames which are faded into each other.
 */
export class StretchedReader implements SoundReader {
  readonly format;
  private leg: Leg | undefined;
  /** What the leg before this one would have gone on with. */
  private tail: { number: number; planes: Float32Array[] } | undefined;
  private queue: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly reader: SoundReader,
    private readonly stretch: Stretch,
  ) {
    this.format = { ...reader.format, frames: stretchedFrames(reader.format.frames, stretch) };
  }

  read(start: number, count: number): Promise<Float32Array[]> {
    // One after another: each goes on from where the one before ended.
    const read = this.queue.then(() => this.readNow(start, Math.max(0, Math.min(count, this.format.frames - start))));
    this.queue = read.catch(() => undefined);
    return read;
  }

  private async readNow(start: number, count: number): Promise<Float32Array[]> {
    const planes = Array.from({ length: this.format.channels }, () => new Float32Array(count));
    for (let at = 0; at < count;) {
      const number = Math.floor((start + at) / LEG);
      const offset = start + at - number * LEG;
      const part = Math.min(count - at, LEG - offset);
      const found = await this.inLeg(number, offset, part);
      planes.forEach((p, c) => p.set(found[c], at));
      at += part;
    }
    return planes;
  }

  private async inLeg(number: number, offset: number, count: number): Promise<Float32Array[]> {
    const tail = number > 0 && offset < JOIN ? await this.tailBefore(number) : [];
    const planes = await (await this.legAt(number, offset)).next(count);
    tail.forEach((old, c) => {
      for (let i = 0; i < Math.min(count, JOIN - offset); i++) {
        const share = (offset + i + 0.5) / JOIN;
        planes[c][i] = planes[c][i] * share + old[offset + i] * (1 - share);
      }
    });
    return planes;
  }

  private async tailBefore(number: number): Promise<Float32Array[]> {
    if (this.tail?.number !== number)
      this.tail = { number, planes: await (await this.legAt(number - 1, LEG)).next(JOIN) };
    return this.tail.planes;
  }

  /** A leg that has given so many frames. */
  private async legAt(number: number, offset: number): Promise<Leg> {
    if (this.leg?.number !== number || this.leg.at > offset) this.leg = new Leg(this.reader, this.stretch, number);
    while (this.leg.at < offset) await this.leg.next(Math.min(STEP * 16, offset - this.leg.at));
    return this.leg;
  }
}

/** A sound as a shape stretches it, or as it is where it does not. */
export const stretched = (reader: SoundReader, stretch: Stretch | undefined): SoundReader =>
  stretch ? new StretchedReader(reader, stretch) : reader;

/** Ids of what is stretched begin here, far above those of sounds. */
const STRETCHED = 2 ** 40;

/** Gives what is stretched an id of its own: the same for the same sound stretched the same way. */
export class StretchedIds {
  private next = STRETCHED;
  private readonly ids = new Map<string, number>();

  of(soundId: number, stretch: Stretch): number {
    const key = JSON.stringify([soundId, stretch]);
    const id = this.ids.get(key) ?? this.next++;
    this.ids.set(key, id);
    return id;
  }
}
