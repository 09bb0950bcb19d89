import type { AudioFormat, ByteSource } from '@core/files';
import { AudioSampleSink, EncodedPacketSink, type AudioSample, type InputAudioTrack } from 'mediabunny';
import { demuxerOf, noDecoder, opusDelay, trackOf } from './coded';
import type { SoundReader } from './sound-reader';

/** Frames that are kept together. */
const CHUNK = 16384;
/** Decoded samples that are kept, over all channels: about 60 MB. */
const KEPT = 15e6;
/** Seconds decoded before a place where one begins in the middle: a decoder needs some packets until it gives what it would have. */
const LEAD = 0.3;
/** Nearer ahead than this, going on is sooner there than beginning anew. Seconds. */
const NEAR = 4;

/** Decoding that goes on from one place. */
interface Run {
  samples: AsyncGenerator<AudioSample, void, unknown>;
  /** Frames by which the first sample stands later than it says. */
  late: number;
  /** The frame that comes next. */
  at: number;
}

/** A compressed sound, decoded from the packets nearest to what is asked for, and a little of it kept. */
class CodedStream implements SoundReader {
  private readonly chunks = new Map<number, Float32Array[]>();
  private run: Run | undefined;
  /** The chunk that is being filled, and how far. */
  private filling: { index: number; planes: Float32Array[]; from: number; to: number } | undefined;
  private queue: Promise<unknown> = Promise.resolve();

  constructor(
    private readonly track: InputAudioTrack,
    readonly format: AudioFormat,
    /** Seconds at which the first frame stands. */
    private readonly origin: number,
    /** See {@link opusDelay}. */
    private readonly delay: number,
  ) {}

  read(start: number, count: number): Promise<Float32Array[]> {
    // One after another: each goes on from where the one before ended.
    const read = this.queue.then(() => this.readNow(start, Math.max(0, Math.min(count, this.format.frames - start))));
    this.queue = read.catch(() => undefined);
    return read;
  }

  private async readNow(start: number, count: number): Promise<Float32Array[]> {
    const planes = Array.from({ length: this.format.channels }, () => new Float32Array(count));
    const first = start + (this.format.skip ?? 0) + (this.format.lead ?? 0);
    let at = 0;
    while (at < count) {
      const index = Math.floor((first + at) / CHUNK);
      const offset = first + at - index * CHUNK;
      const part = Math.min(count - at, CHUNK - offset);
      const chunk = await this.chunk(index);
      planes.forEach((p, c) => p.set(chunk[c].subarray(offset, offset + part), at));
      at += part;
    }
    return planes;
  }

  private async chunk(index: number): Promise<Float32Array[]> {
    const held = this.chunks.get(index);
    if (held) {
      this.chunks.delete(index);
      this.chunks.set(index, held);
      return held;
    }
    const wanted = index * CHUNK;
    const { rate } = this.format;
    // The last packet of the chunk before has begun this one already.
    const begun = this.filling?.index === index && this.filling.from === 0;
    const { run } = this;
    if (!run || (!begun && (run.at > wanted || run.at < wanted - NEAR * rate))) await this.begin(wanted);
    while (!this.chunks.has(index)) await this.next(wanted);
    return this.chunks.get(index)!;
  }

  private async begin(frame: number): Promise<void> {
    await this.run?.samples.return();
    this.filling = undefined;
    const { rate } = this.format;
    // From the very start, what stands before it is the encoder's delay, and is decoded and left out.
    const from = frame < LEAD * rate ? -Infinity : this.origin + frame / rate - LEAD;
    const late = from === -Infinity ? 0 : await this.lateness(from);
    this.run = { samples: new AudioSampleSink(this.track).samples(from), at: -1, late };
  }

  /**
   * By how much what a decoder gives first comes later than its packet says, where one begins in the middle: Vorbis gives nothing for its
   * first packet, and Opus leaves out what it would leave out at the beginning.
   * @param from seconds
   */
  private async lateness(from: number): Promise<number> {
    const { codec } = this.track;
    if (codec === 'opus') return this.delay;
    if (codec !== 'vorbis') return 0;
    const packet = await new EncodedPacketSink(this.track).getPacket(from);
    return packet ? Math.round(packet.duration * this.format.rate) : 0;
  }

  /** Decodes the next packet. Where the sound ends earlier than it said, silence stands for the rest. */
  private async next(wanted: number): Promise<void> {
    const run = this.run!;
    const { value: sample, done } = await run.samples.next().catch((error: Error) => {
      // One that gave up gives nothing more; the next read begins anew.
      this.run = this.filling = undefined;
      throw error;
    });
    if (done || !sample) {
      const { filling } = this;
      if (filling?.from === 0) this.keep(filling.index, filling.planes);
      const index = Math.floor(wanted / CHUNK);
      if (!this.chunks.has(index)) this.keep(index, this.empty());
      this.run = this.filling = undefined;
      return;
    }
    const { rate, channels } = this.format;
    // Only the first says where it is; those that follow follow on.
    const first = run.at >= 0 ? run.at : Math.round((sample.timestamp - this.origin) * rate) + run.late;
    const frames = sample.numberOfFrames;
    const planes = Array.from({ length: channels }, (_, c) => {
      const plane = new Float32Array(frames);
      if (c < sample.numberOfChannels) sample.copyTo(plane, { planeIndex: c, format: 'f32-planar' });
      return plane;
    });
    sample.close();
    const early = Math.max(0, Math.min(frames, -first));
    run.at = first + frames;
    this.put(
      first + early,
      planes.map((p) => p.subarray(early)),
    );
  }

  private empty(): Float32Array[] {
    return Array.from({ length: this.format.channels }, () => new Float32Array(CHUNK));
  }

  private put(first: number, planes: Float32Array[]): void {
    for (let at = 0; at < planes[0].length;) {
      const index = Math.floor((first + at) / CHUNK);
      const offset = first + at - index * CHUNK;
      const part = Math.min(planes[0].length - at, CHUNK - offset);
      if (this.filling?.index !== index) this.filling = { index, planes: this.empty(), from: offset, to: offset };
      const { filling } = this;
      filling.planes.forEach((p, c) => p.set(planes[c].subarray(at, at + part), offset));
      filling.to = offset + part;
      // What one begins in the middle of is not kept: its beginning is missing.
      if (filling.to === CHUNK && filling.from === 0) this.keep(index, filling.planes);
      at += part;
    }
  }

  private keep(index: number, planes: Float32Array[]): void {
    this.chunks.set(index, planes);
    const most = Math.max(4, Math.floor(KEPT / (CHUNK * this.format.channels)));
    for (const old of this.chunks.keys()) {
      if (this.chunks.size <= most) return;
      if (old !== index) this.chunks.delete(old);
    }
  }
}

/**
 * Opens a compressed sound for reading anywhere, decoding only about there.
 * @param format as it was read or measured before; its frames are taken as they are
 * @throws FileError when nothing here can decode it
 */
export async function streamCoded(source: ByteSource, format: AudioFormat): Promise<SoundReader> {
  const input = await demuxerOf(source);
  try {
    const track = await trackOf(input, source);
    if (!(await track.canDecode())) throw noDecoder(track);
    // A sound that begins later than at zero begins with its first frame all the same.
    const origin = Math.max(0, await track.getFirstTimestamp());
    const delay = await opusDelay(track);
    // Matroska's times count what Opus leaves out at the beginning; those of Ogg do not.
    const counted = delay > 0 && /webm|matroska/.test(await input.getMimeType());
    return new CodedStream(track, format, origin, counted ? 0 : delay);
  } catch (error) {
    input.dispose();
    throw ['RootUnavailable', 'FileGone', 'FileError'].includes((error as Error).name) ? error : noDecoder();
  }
}
