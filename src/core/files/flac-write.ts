import { encodeText } from './text';
import { joined, viewOf } from './source';

/** FLAC's own bounds (RFC 9639). */
const MOST_CHANNELS = 8;
const MOST_RATE = 655_350;
/** How hard the encoder tries, 0 to 8; its own usual one. */
const LEVEL = 5;
/** Frames given to the encoder at once. */
const PART = 1 << 16;
const COMMENTS = 4;

/** How FLAC is to be encoded: Hz, and bits of a sample. */
export interface FlacKind {
  rate: number;
  bits: 16 | 24;
}

type Flac = (typeof import('libflacjs/dist/libflac.js'))['default'];

/** Encodes to FLAC part by part with libFLAC, so that no more of a long sound is held than a part. */
export class FlacStream {
  /** The blocks in front of the audio, and what came of the audio since it was last taken. */
  private readonly blocks: Uint8Array[] = [];
  private made: Uint8Array[] = [];
  private facts?: { min_framesize: number; max_framesize: number; total_samples: number; md5sum: string };

  private constructor(
    private readonly flac: Flac,
    private readonly encoder: number,
    private readonly bits: number,
  ) {
    flac.init_encoder_stream(
      encoder,
      (bytes, _, samples) => void (samples > 0 ? this.made : this.blocks).push(bytes.slice()),
      (facts) => (this.facts = facts),
    );
  }

  /** Begins one; the encoder is loaded when it is first needed. @throws RangeError for more channels, or a higher rate, than FLAC holds */
  static async open(channels: number, { rate, bits }: FlacKind): Promise<FlacStream> {
    if (channels > MOST_CHANNELS)
      throw new RangeError(`FLAC holds ${MOST_CHANNELS} channels at the most, this has ${channels}; take it as WAV`);
    if (rate > MOST_RATE)
      throw new RangeError(`FLAC holds rates up to ${MOST_RATE} Hz, this has ${rate}; take it as WAV`);
    const { default: Flac } = await import('libflacjs/dist/libflac.js');
    if (!Flac.isReady()) await new Promise<void>((done) => Flac.on('ready', () => done()));
    const encoder = Flac.create_libflac_encoder(rate, channels, bits, LEVEL, 0, false, 0);
    if (!encoder) throw new Error('the FLAC encoder could not be made');
    return new FlacStream(Flac, encoder, bits);
  }

  /** Takes the next samples: one array per channel, full scale -1..1; what exceeds it is cut off there. @returns bytes that came of them */
  push(planes: readonly Float32Array[]): Uint8Array {
    const full = 2 ** (this.bits - 1);
    for (let at = 0; at < planes[0].length; at += PART) {
      const ints = planes.map((p) =>
        Int32Array.from(p.subarray(at, at + PART), (x) => Math.max(-full, Math.min(full - 1, Math.round(x * full)))),
      );
      if (this.flac.FLAC__stream_encoder_process(this.encoder, ints, ints[0].length)) continue;
      this.flac.FLAC__stream_encoder_delete(this.encoder);
      throw new Error('the FLAC encoder refused the samples');
    }
    const bytes = joined(this.made);
    this.made = [];
    return bytes;
  }

  /**
   * Ends it.
   * @param comments a VORBIS_COMMENT block's texts by their names
   * @param vendor what the file says it was written by
   * @returns what lies in front of all bytes that came before, and behind them
   */
  finish(comments: Record<string, string> = {}, vendor = 'Cormorant'): { head: Uint8Array; tail: Uint8Array } {
    this.flac.FLAC__stream_encoder_finish(this.encoder);
    this.flac.FLAC__stream_encoder_delete(this.encoder);
    const head = withComments(joined(this.blocks), comments, vendor);
    if (this.facts) settle(head, this.facts);
    return { head, tail: joined(this.made) };
  }
}

/** Writes what is known at the end alone into STREAMINFO, the first block (RFC 9639, section 8.2). */
function settle(head: Uint8Array, facts: NonNullable<FlacStream['facts']>): void {
  const info = head.subarray(8, 42);
  const view = viewOf(info);
  const number24 = (at: number, n: number) => info.set([n >> 16, (n >> 8) & 255, n & 255], at);
  number24(4, facts.min_framesize);
  number24(7, facts.max_framesize);
  // The number of samples has 36 bits, of which the first four share a byte.
  info[13] = (info[13] & 0xf0) | (Math.floor(facts.total_samples / 2 ** 32) & 15);
  view.setUint32(14, facts.total_samples % 2 ** 32);
  for (let i = 0; i < 16; i++) info[18 + i] = parseInt(facts.md5sum.slice(2 * i, 2 * i + 2), 16);
}

/**
 * Encodes to FLAC.
 * @param planes one array per channel, full scale -1..1; what exceeds it is cut off there
 * @param comments a VORBIS_COMMENT block's texts by their names
 * @param vendor what the file says it was written by
 * @throws RangeError for more channels, or a higher rate, than FLAC holds
 */
export async function encodeFlac(
  planes: readonly Float32Array[],
  as: FlacKind,
  comments: Record<string, string> = {},
  vendor = 'Cormorant',
): Promise<Uint8Array> {
  const stream = await FlacStream.open(planes.length, as);
  const bytes = stream.push(planes);
  const { head, tail } = stream.finish(comments, vendor);
  return joined([head, bytes, tail]);
}

/** A VORBIS_COMMENT block's content: lengths are little endian, unlike all else in FLAC. */
function commentBlock(comments: Record<string, string>, vendor: string): Uint8Array {
  const number = (n: number) => {
    const bytes = new Uint8Array(4);
    viewOf(bytes).setUint32(0, n, true);
    return bytes;
  };
  const text = (t: string) => {
    const bytes = encodeText(t);
    return [number(bytes.length), bytes];
  };
  const entries = Object.entries(comments).map(([key, value]) => `${key}=${value}`);
  return joined([...text(vendor), number(entries.length), ...entries.flatMap(text)]);
}

/** The blocks in front of the audio with comments in place of the encoder's own (RFC 9639, section 8.6). */
function withComments(flac: Uint8Array, comments: Record<string, string>, vendor: string): Uint8Array {
  const out = [flac.subarray(0, 4)];
  let at = 4;
  for (let last = false; !last;) {
    last = (flac[at] & 0x80) !== 0;
    const size = (flac[at + 1] << 16) | (flac[at + 2] << 8) | flac[at + 3];
    const own = (flac[at] & 0x7f) === COMMENTS;
    const content = own ? commentBlock(comments, vendor) : flac.subarray(at + 4, at + 4 + size);
    const { length } = content;
    out.push(Uint8Array.of(flac[at], length >> 16, (length >> 8) & 255, length & 255), content);
    at += 4 + size;
  }
  return joined(out);
}
