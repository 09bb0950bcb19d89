import Flac from 'libflacjs/dist/libflac.js';
import { createOggEncoder } from 'wasm-media-encoders';

/**
 * Encodes to FLAC with libFLAC. Comments become a VORBIS_COMMENT block's texts.
 * @param planes full scale -1..1
 */
export function encodeFlac(
  planes: Float32Array[],
  rate: number,
  bits: 16 | 24,
  comments: Record<string, string>,
): Uint8Array {
  const encoder = Flac.create_libflac_encoder(rate, planes.length, bits, 5, planes[0].length, true, 0);
  if (!encoder) throw new Error('the FLAC encoder could not be made');
  const parts: Uint8Array[] = [];
  Flac.init_encoder_stream(
    encoder,
    (bytes) => void parts.push(bytes.slice()),
    () => undefined,
  );
  const full = 2 ** (bits - 1);
  const ints = planes.map((p) => Int32Array.from(p, (x) => Math.max(-full, Math.min(full - 1, Math.round(x * full)))));
  const whole = Flac.FLAC__stream_encoder_process(encoder, ints, planes[0].length);
  Flac.FLAC__stream_encoder_finish(encoder);
  Flac.FLAC__stream_encoder_delete(encoder);
  if (!whole) throw new Error('the FLAC encoder refused the samples');
  return withComments(Buffer.concat(parts), comments);
}

/** Puts our comments in place of the encoder's own VORBIS_COMMENT block (RFC 9639, section 8.6). */
function withComments(flac: Buffer, comments: Record<string, string>): Uint8Array {
  const le = (n: number) => {
    const b = Buffer.alloc(4);
    b.writeUInt32LE(n);
    return b;
  };
  const text = (t: string) => [le(Buffer.byteLength(t)), Buffer.from(t)];
  const entries = Object.entries(comments).map(([key, value]) => `${key}=${value}`);
  const block = Buffer.concat([...text('Cormorant demo'), le(entries.length), ...entries.flatMap(text)]);
  const out: Buffer[] = [flac.subarray(0, 4)];
  let at = 4;
  for (let last = false; !last;) {
    const type = flac[at] & 0x7f;
    last = (flac[at] & 0x80) !== 0;
    const size = flac.readUIntBE(at + 1, 3);
    const content = type === 4 ? block : flac.subarray(at + 4, at + 4 + size);
    const head = Buffer.from([flac[at], content.length >> 16, (content.length >> 8) & 255, content.length & 255]);
    out.push(head, content);
    at += 4 + size;
  }
  return Buffer.concat([...out, flac.subarray(at)]);
}

/** Encodes to Ogg Vorbis. */
export async function encodeOgg(planes: Float32Array[], rate: number): Promise<Uint8Array> {
  const encoder = await createOggEncoder();
  encoder.configure({ sampleRate: rate, channels: planes.length as 1 | 2, vbrQuality: 5 });
  const parts: Uint8Array[] = [];
  for (let at = 0; at < planes[0].length; at += 48000) {
    parts.push(encoder.encode(planes.map((p) => p.subarray(at, at + 48000)) as [Float32Array]).slice());
  }
  parts.push(encoder.finalize().slice());
  return withSerial(Buffer.concat(parts), 1);
}

/** CRC of Ogg pages (RFC 3533): polynomial 0x04c11db7, not reflected. */
const crcTable = Uint32Array.from({ length: 256 }, (_, byte) => {
  let r = byte << 24;
  for (let bit = 0; bit < 8; bit++) r = r & 0x80000000 ? (r << 1) ^ 0x04c11db7 : r << 1;
  return r;
});

/** The encoder draws its stream's serial number from the clock; a fixed one gives the same bytes each time. */
function withSerial(ogg: Buffer, serial: number): Buffer {
  for (let at = 0; at + 27 <= ogg.length;) {
    const segments = ogg[at + 26];
    const size = 27 + segments + ogg.subarray(at + 27, at + 27 + segments).reduce((sum, n) => sum + n, 0);
    ogg.writeUInt32LE(serial, at + 14);
    ogg.writeUInt32LE(0, at + 22);
    let crc = 0;
    for (let i = at; i < at + size; i++) crc = (crc << 8) ^ crcTable[((crc >>> 24) ^ ogg[i]) & 255];
    ogg.writeUInt32LE(crc >>> 0, at + 22);
    at += size;
  }
  return ogg;
}
