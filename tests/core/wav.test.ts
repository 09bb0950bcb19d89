import {
  decodePcm,
  encodePcm,
  FileError,
  memorySource,
  readAudioFile,
  readFrames,
  writeAiff,
  writeWav,
  type StoredAs,
  type WavLabels,
} from '@core/files';
import fc from 'fast-check';
import { apart, sine } from '../helpers/signals';

const planes = [sine(440, 48000, 1000), sine(620, 48000, 1000, 0.8)];
const read = (bytes: Uint8Array, name = 'test.wav') => readAudioFile(memorySource(bytes, name));

/** Puts a chunk into a RIFF file in front of another one. */
function insertBefore(wav: Uint8Array, id: string, chunk: Uint8Array): Uint8Array {
  const at = Buffer.from(wav).indexOf(id, 12, 'latin1');
  return Buffer.concat([wav.subarray(0, at), chunk, wav.subarray(at)]);
}

function chunk(id: string, content: Uint8Array, pad = true): Uint8Array {
  const head = Buffer.alloc(8);
  head.write(id, 'latin1');
  head.writeUInt32LE(content.length, 4);
  return Buffer.concat([head, content, Buffer.alloc(pad ? content.length % 2 : 0)]);
}

describe('samples through a file and back', () => {
  const widths: [string, StoredAs, number][] = [
    ['16 bit', { rate: 48000, bits: 16 }, 1 / 32768],
    ['24 bit', { rate: 96000, bits: 24 }, 1 / 8388608],
    ['32 bit', { rate: 44100, bits: 32 }, 1 / 8388608],
    ['32 bit float', { rate: 48000, bits: 32, float: true }, 0],
  ];
  test.each(widths)('WAV %s keeps every sample within half a step', async (_, as, step) => {
    const bytes = writeWav(planes, as);
    const file = await read(bytes);
    expect(file.format).toMatchObject({ container: 'WAV', rate: as.rate, channels: 2, bits: as.bits, frames: 1000 });
    const back = await readFrames(memorySource(bytes), file.format, 0, 1000);
    back.forEach((plane, c) => expect(apart(plane, planes[c])).toBeLessThanOrEqual(step));
  });

  test.each([16, 24, 32] as const)('AIFF %d bit keeps every sample', async (bits) => {
    const bytes = writeAiff(planes, { rate: 44100, bits }, { NAME: 'Gate' }, [
      { frame: 77, length: 0, label: 'anchor' },
    ]);
    const file = await read(bytes, 'test.aif');
    expect(file.format).toMatchObject({ container: 'AIFF', rate: 44100, channels: 2, frames: 1000 });
    expect(file.labels.get('AIFF.NAME')).toBe('Gate');
    expect(file.cues).toEqual([{ frame: 77, length: 0, label: 'anchor' }]);
    const back = await readFrames(memorySource(bytes), file.format, 0, 1000);
    back.forEach((plane, c) => expect(apart(plane, planes[c])).toBeLessThanOrEqual(1 / 32768));
  });

  test('any part of a file decodes to the same samples as the whole', async () => {
    const bytes = writeWav(planes, { rate: 48000, bits: 24 });
    const { format } = await read(bytes);
    const whole = await readFrames(memorySource(bytes), format, 0, 1000);
    await fc.assert(
      fc.asyncProperty(fc.integer({ min: -10, max: 1100 }), fc.integer({ min: 0, max: 1200 }), async (start, count) => {
        const part = await readFrames(memorySource(bytes), format, start, count);
        const from = Math.max(0, Math.min(start, 1000));
        expect(part[1]).toEqual(whole[1].subarray(from, Math.min(1000, from + count)));
      }),
    );
  });

  // ITU-T G.711, tables 1a and 2a: decoder output values, scaled to 16 bit.
  const g711: [string, number, [number, number][]][] = [
    [
      'A-law',
      6,
      [
        [0xd5, 8],
        [0x55, -8],
        [0xaa, 32256],
        [0x2a, -32256],
        [0x80, 5504],
      ],
    ],
    [
      'mu-law',
      7,
      [
        [0xff, 0],
        [0x80, 32124],
        [0x00, -32124],
        [0xf0, 120],
      ],
    ],
  ];
  test.each(g711)('%s bytes decode to the values of the standard', async (_, tag, table) => {
    const fmt = Buffer.alloc(16);
    fmt.writeUInt16LE(tag, 0);
    fmt.writeUInt16LE(1, 2);
    fmt.writeUInt32LE(8000, 4);
    fmt.writeUInt32LE(8000, 8);
    fmt.writeUInt16LE(1, 12);
    fmt.writeUInt16LE(8, 14);
    const body = Buffer.concat([
      Buffer.from('WAVE'),
      chunk('fmt ', fmt),
      chunk('data', Buffer.from(table.map(([byte]) => byte))),
    ]);
    const bytes = chunk('RIFF', body);
    const { format } = await read(bytes);
    const [plane] = await readFrames(memorySource(bytes), format, 0, 10);
    expect([...plane].map((x) => Math.round(x * 32768))).toEqual(table.map(([, value]) => value));
  });

  test('bytes of every kind of sample are what arithmetic makes of them, however many there are', () => {
    const kinds = (['pcm', 'float'] as const).flatMap((encoding) =>
      (encoding === 'pcm' ? [8, 16, 24, 32] : [32, 64]).flatMap((bits) =>
        [true, false].map((littleEndian) => ({ encoding, bits, littleEndian, unsigned: bits === 8 && littleEndian })),
      ),
    );
    const plainly = (bytes: Uint8Array, at: number, kind: (typeof kinds)[number]) => {
      const width = kind.bits / 8;
      const own = bytes.slice(at, at + width);
      if (!kind.littleEndian) own.reverse();
      const view = new DataView(own.buffer);
      if (kind.encoding === 'float') {
        const value = Math.fround(width === 8 ? view.getFloat64(0, true) : view.getFloat32(0, true));
        return Number.isFinite(value) ? value : 0;
      }
      const value = own.reduce((sum, byte, k) => sum + byte * 256 ** k, 0);
      const half = 256 ** width / 2;
      return Math.fround(
        ((kind.unsigned ? value : value >= half ? value - 2 * half : value) - (kind.unsigned ? 128 : 0)) / half,
      );
    };
    fc.assert(
      fc.property(
        ...([fc.constantFrom(...kinds), fc.integer({ min: 1, max: 5 }), fc.integer({ min: 0, max: 40 })] as const),
        ...([fc.infiniteStream(fc.integer({ min: 0, max: 255 })), fc.boolean()] as const),
        (kind, channels, frames, stream, many) => {
          const width = kind.bits / 8;
          const blockAlign = channels * width;
          // So many that they are decoded in more than one go, now and then.
          const count = many ? frames + Math.floor(1_100_000 / blockAlign) : frames;
          const bytes = new Uint8Array(count * blockAlign + width - 1);
          for (let i = 0; i < 97; i++) bytes[i] = stream.next().value!;
          for (let i = 97; i < bytes.length; i++) bytes[i] = bytes[i - 97] ^ (i >> 7);
          const rest = { container: 'WAV', rate: 48000, dataOffset: 0 } as const;
          const planes = decodePcm(bytes, { ...rest, ...kind, channels, blockAlign, frames: count });
          for (const i of many ? [0, 1, count >> 1, count - frames - 1, count - 1] : Array(count).keys())
            planes.forEach((plane, c) => expect(plane[i]).toBe(plainly(bytes, i * blockAlign + c * width, kind)));
          expect(planes.map((plane) => plane.length)).toEqual(Array(channels).fill(count));
        },
      ),
    );
  });

  test('8-bit WAV is unsigned, big-endian RIFX is turned round', async () => {
    const fmt = Buffer.alloc(16);
    fmt.writeUInt16BE(1, 0);
    fmt.writeUInt16BE(1, 2);
    fmt.writeUInt32BE(44100, 4);
    fmt.writeUInt16BE(2, 12);
    fmt.writeUInt16BE(16, 14);
    const swap = (b: Uint8Array) => {
      const copy = Buffer.from(b);
      copy.writeUInt32BE(copy.readUInt32LE(4), 4);
      return copy;
    };
    const data = swap(chunk('data', encodePcm([planes[0]], { bits: 16 }, false)));
    const rifx = swap(chunk('RIFX', Buffer.concat([Buffer.from('WAVE'), swap(chunk('fmt ', fmt)), data])));
    const file = await read(rifx);
    const [plane] = await readFrames(memorySource(rifx), file.format, 0, 1000);
    expect(apart(plane, planes[0])).toBeLessThan(1 / 32000);
  });
});

describe('labels', () => {
  const text = fc
    .string({ unit: 'grapheme', minLength: 1, maxLength: 60 })
    .map((s) => s.replace(/[\0-\x1f\x7f-\x9f\ufffe\uffff\ud800-\udfff]/g, '').trim())
    .filter((s) => s.length > 0);

  test('what is written into every block is read again, in any script', async () => {
    await fc.assert(
      fc.asyncProperty(text, text, fc.bigInt({ min: 0n, max: 2n ** 60n }), async (name, description, time) => {
        const labels: WavLabels = {
          bext: { Description: description.slice(0, 40), TimeReference: time, CodingHistory: 'A=PCM' },
          info: { INAM: name, ICMT: description },
          ixml: { PROJECT: name, ASWG: { fxName: name, catId: 'BOATMech' } },
          cues: [
            { frame: 5, length: 0, label: 'anchor' },
            { frame: 9, length: 20, label: name },
          ],
          loops: [{ start: 3, end: 90 }],
        };
        const file = await read(writeWav(planes, { rate: 48000, bits: 16 }, labels));
        expect(file.labels.get('INFO.INAM')).toBe(name);
        expect(file.labels.get('iXML.ASWG.catId')).toBe('BOATMech');
        expect(file.labels.get('bext.TimeReference')).toBe(time.toString());
        expect(file.cues.map((c) => c.frame)).toEqual([5, 9]);
        expect(file.cues[1].length).toBe(20);
        expect(file.loops).toEqual([{ start: 3, end: 90 }]);
        expect(file.warnings).toEqual([]);
      }),
      { numRuns: 60 },
    );
  });

  test('a long text in a fixed field is cut at a character border', async () => {
    const file = await read(writeWav(planes, { rate: 48000, bits: 16 }, { bext: { Description: 'é'.repeat(200) } }));
    expect(file.labels.get('bext.Description')).toBe('é'.repeat(128));
  });

  test('Windows-1252 text of old editors is read as such', async () => {
    const info = chunk(
      'LIST',
      Buffer.concat([Buffer.from('INFO'), chunk('INAM', Buffer.from('Caf\xe9 \x93door\x94\0', 'latin1'))]),
    );
    const file = await read(insertBefore(writeWav(planes, { rate: 48000, bits: 16 }), 'data', info));
    expect(file.labels.get('INFO.INAM')).toBe('Café “door”');
  });

  test('labels cost under 64 KiB of reading however long the audio is', async () => {
    const bytes = writeWav(
      [sine(100, 48000, 600_000)],
      { rate: 48000, bits: 24 },
      { info: { INAM: 'Long' }, bext: { Description: 'x' } },
    );
    let cost = 0;
    const source = memorySource(bytes);
    const file = await readAudioFile({
      ...source,
      read: (o, n) => source.read(o, n).then((b) => ((cost += b.length), b)),
    });
    expect(file.labels.get('INFO.INAM')).toBe('Long');
    expect(cost).toBeLessThan(65536);
  });
});

describe('damage', () => {
  const wav = writeWav(planes, { rate: 48000, bits: 24 }, { info: { INAM: 'After' }, bext: { Description: 'Before' } });
  const dataAt = Buffer.from(wav).indexOf('data', 12, 'latin1');
  const withDataSize = (size: number, length = wav.length) => {
    const copy = Buffer.from(wav.subarray(0, length));
    copy.writeUInt32LE(size >>> 0, dataAt + 4);
    return copy;
  };

  test.each([0, 0xffffffff])('a recorder that lost power (data size %d) still gives its audio', async (size) => {
    const file = await read(withDataSize(size, dataAt + 8 + 3000));
    expect(file.format.frames).toBe(500);
    expect(file.warnings.join()).toContain('did not write the length');
  });

  test('a cut-off file gives what is there and says so', async () => {
    const file = await read(wav.subarray(0, dataAt + 8 + 1200));
    expect(file.format.frames).toBe(200);
    expect(file.labels.get('bext.Description')).toBe('Before');
    expect(file.warnings[0]).toMatch(/data chunk is cut off: 1200 of 6000/);
  });

  test('a missing pad byte after an odd chunk is noticed', async () => {
    const file = await read(insertBefore(wav, 'data', chunk('junk', Buffer.from('odd'), false)));
    expect(file.format.frames).toBe(1000);
    expect(file.warnings.join()).toContain('pad byte after the junk chunk is missing');
  });

  test('broken XML costs only itself', async () => {
    const file = await read(insertBefore(wav, 'data', chunk('iXML', Buffer.from('<BWFXML><A></B>'))));
    expect(file.labels.get('INFO.INAM')).toBe('After');
    expect(file.warnings.join()).toMatch(/iXML/);
  });

  const refused: [string, Uint8Array, RegExp][] = [
    ['an empty file', new Uint8Array(0), /is empty/],
    ['text called .wav', Buffer.from('These are notes, not sound, whatever the name says.'), /no sound file/],
    ['a head without a body', wav.subarray(0, 30), /ends before its audio|fmt chunk/],
    ['an empty data chunk', writeWav([new Float32Array(0)], { rate: 48000, bits: 16 }), /no audio in it/],
    [
      'an unknown coding',
      (() => {
        const b = Buffer.from(wav);
        b.writeUInt16LE(0x55, b.indexOf('fmt ') + 8);
        return b;
      })(),
      /WAVE format 85/,
    ],
    [
      'a rate of nothing',
      (() => {
        const b = Buffer.from(wav);
        b.writeUInt32LE(0, b.indexOf('fmt ') + 12);
        return b;
      })(),
      /sample rate is 0/,
    ],
  ];
  test.each(refused)('%s is refused with a reason and a place', async (_, bytes, reason) => {
    const error = await read(bytes).then(
      () => undefined,
      (e: FileError) => e,
    );
    expect(error).toBeInstanceOf(FileError);
    expect(error!.message).toMatch(reason);
    expect(error!.message).toMatch(/at byte \d+/);
  });

  test('no damage makes a reader hang, crash or answer nonsense', async () => {
    const sources = [wav, writeAiff(planes, { rate: 48000, bits: 16 }, { ANNO: 'x' })];
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...sources),
        fc.array(fc.tuple(fc.nat(6000), fc.nat(255)), { maxLength: 12 }),
        fc.nat(7000),
        async (source, changes, cut) => {
          const bytes = Uint8Array.from(source.subarray(0, Math.max(20, cut)));
          for (const [at, value] of changes) bytes[at % Math.min(bytes.length, 400)] = value;
          const file = await read(bytes).catch((e: Error) => e);
          if (file instanceof Error) return expect(file).toBeInstanceOf(FileError);
          expect(file.format.frames).toBeGreaterThan(0);
          expect(file.format.dataOffset + file.format.frames * file.format.blockAlign).toBeLessThanOrEqual(
            bytes.length,
          );
        },
      ),
      { numRuns: 300 },
    );
  });
});
