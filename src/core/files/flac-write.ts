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

/**
 * Encodes to FLAC with libFLAC, which is loaded when it is first needed.
 * @param planes one array per channel, full scale -1..1; what exceeds it is cut off there
 * @param comments a VORBIS_COMMENT block's texts by their names
 * @param vendor what the file says it was written by
 * @throws RangeError for more channels, or a higher rate, than FLAC holds
 */
export async function encodeFlac(
  planes: readonly Float32Array[],
  as: { rate: number; bits: 16 | 24 },
  comments: Record<string, string> = {},
  vendor = 'Cormorant',
): Promise<Uint8Array> {
  const { rate, bits } = as;
  if (planes.length > MOST_CHANNELS)
    throw new RangeError(`FLAC holds ${MOST_CHANNELS} channels at the most, this has ${planes.length}; take it as WAV`);
  if (rate > MOST_RATE)
    throw new RangeError(`FLAC holds rates up to ${MOST_RATE} Hz, this has ${rate}; take it as WAV`);
  const { default: Flac } = await import('libflacjs/dist/libflac.js');
  if (!Flac.isReady()) await new Promise<void>((done) => Flac.on('ready', () => done()));
  const frames = planes[0].length;
  const encoder = Flac.create_libflac_encoder(rate, planes.length, bits, LEVEL, frames, true, 0);
  if (!encoder) throw new Error('the FLAC encoder could not be made');
  const parts: Uint8Array[] = [];
  Flac.init_encoder_stream(
    encoder,
    (bytes) => void parts.push(bytes.slice()),
    () => undefined,
  );
  const full = 2 ** (bits - 1);
  let whole = true;
  for (let at = 0; at < frames && whole; at += PART) {
    const ints = planes.map((p) =>
      Int32Array.from(p.subarray(at, at + PART), (x) => Math.max(-full, Math.min(full - 1, Math.round(x * full)))),
    );
    whole = Flac.FLAC__stream_encoder_process(encoder, ints, ints[0].length);
  }
  Flac.FLAC__stream_encoder_finish(encoder);
  Flac.FLAC__stream_encoder_delete(encoder);
  if (!whole) throw new Error('the FLAC encoder refused the samples');
  return withComments(joined(parts), comments, vendor);
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

/** Puts comments in place of the encoder's own (RFC 9639, section 8.6). */
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
  return joined([...out, flac.subarray(at)]);
}
