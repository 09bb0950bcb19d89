import { encode } from 'fast-png';
import { Random, seedOf } from '@core/synth';

/** A small square picture for a library: a moon over rows of waves, drawn from the library's name alone. */
export function artwork(library: string, size = 96): Uint8Array {
  const random = new Random(seedOf(library));
  const tint = [0, 1, 2].map(() => random.between(0.5, 1));
  const moon = { x: random.between(0.25, 0.75) * size, y: random.between(0.18, 0.4) * size, r: size * 0.11 };
  const waves = Array.from({ length: 5 }, () => ({ phase: random.between(0, 6.3), length: random.between(9, 26) }));
  const data = new Uint8Array(size * size * 3);
  for (let y = 0; y < size; y++) {
    for (let x = 0; x < size; x++) {
      const depth = y / size;
      const band = waves.findIndex((w, i) => y < size * (0.52 + i * 0.1) + 2.5 * Math.sin(x / w.length + w.phase));
      const inMoon = Math.hypot(x - moon.x, y - moon.y) < moon.r;
      const level = band === 0 ? 0.16 + depth * 0.3 : 0.3 - 0.04 * (band < 0 ? 5 : band);
      for (let c = 0; c < 3; c++) data[(y * size + x) * 3 + c] = inMoon ? [242, 214, 140][c] : 255 * level * tint[c];
    }
  }
  return encode({ width: size, height: size, data, channels: 3, depth: 8 });
}

/** An ID3v2.3 tag with a title and a front cover, as it goes into the `id3 ` chunk of a WAV file. */
export function id3WithCover(title: string, png: Uint8Array): Uint8Array {
  const frame = (id: string, content: Buffer) => {
    const head = Buffer.alloc(10);
    head.write(id, 'latin1');
    head.writeUInt32BE(content.length, 4);
    return Buffer.concat([head, content]);
  };
  const body = Buffer.concat([
    frame('TIT2', Buffer.concat([Buffer.from([0]), Buffer.from(title, 'latin1')])),
    frame('APIC', Buffer.concat([Buffer.from('\0image/png\0\x03\0', 'latin1'), png])),
  ]);
  const size = body.length;
  const syncSafe = [size >> 21, (size >> 14) & 127, (size >> 7) & 127, size & 127].map((b) => b & 127);
  return Buffer.concat([Buffer.from('ID3'), Buffer.from([3, 0, 0, ...syncSafe]), body]);
}
