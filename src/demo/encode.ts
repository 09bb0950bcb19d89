import { createOggEncoder } from 'wasm-media-encoders';

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
