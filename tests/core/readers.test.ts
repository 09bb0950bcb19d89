import { memorySource, readAudioFile, readId3, readXmp, quickHashOf, writeWav, type AudioFile } from '@core/files';
import { describe as describeSound } from '@core/library';
import fc from 'fast-check';
import { flacHead, id3, latin, xmp } from '../helpers/fuzz';
import { sine } from '../helpers/signals';

const plane = sine(440, 8000, 400);
const read = (bytes: Uint8Array) => readAudioFile(memorySource(bytes, 'x.wav'));
const wavWith = (id: string, bytes: Uint8Array) =>
  read(writeWav([plane], { rate: 8000, bits: 16 }, { chunks: [{ id, bytes }] }));
const bytesOf = (...values: number[]) => Uint8Array.from(values);
const utf16 = (text: string, mark = true) =>
  bytesOf(
    ...(mark ? [0xff, 0xfe] : []),
    ...Array.from(text).flatMap((c) => [c.charCodeAt(0) & 255, c.charCodeAt(0) >> 8]),
  );

describe('ID3v2', () => {
  const labelsOf = async (tag: Uint8Array) => {
    const labels = new Map<string, string>();
    const warnings: string[] = [];
    await readId3(memorySource(tag), 0, tag.length, labels, warnings, () => undefined);
    return { ...Object.fromEntries(labels), ...(warnings.length ? { warnings } : {}) };
  };
  const join = (...parts: Uint8Array[]) => bytesOf(...parts.flatMap((p) => [...p]));

  test.each([3, 4] as const)('version 2.%d: texts in every encoding, comments, own frames', async (version) => {
    const tag = id3(
      {
        TIT2: join(bytesOf(1), utf16('Möwe 海')),
        TPE1: join(bytesOf(3), new TextEncoder().encode('Ünder')),
        TALB: join(bytesOf(2), bytesOf(0x4d, 0x0b, 0, 0x41)),
        TCOP: latin('2026 us'),
        TXXX: latin('CatID\0BIRDSea'),
        COMM: join(
          bytesOf(0),
          Uint8Array.from('eng\0a note', (c) => c.charCodeAt(0)),
        ),
        TCON: latin('One\0Two'),
      },
      version,
    );
    expect(await labelsOf(tag)).toEqual({
      'ID3.TIT2': 'Möwe 海',
      'ID3.TPE1': 'Ünder',
      'ID3.TALB': String.fromCharCode(0x4d0b, 0x41),
      'ID3.TCOP': '2026 us',
      'ID3.TXXX.CatID': 'BIRDSea',
      'ID3.COMM': 'a note',
      'ID3.TCON': 'One; Two',
    });
  });

  test('version 2.2, with its short names', async () => {
    const body = join(
      Uint8Array.from('TT2', (c) => c.charCodeAt(0)),
      bytesOf(0, 0, 5),
      latin('Gate'),
    );
    expect(
      await labelsOf(
        join(
          Uint8Array.from('ID3', (c) => c.charCodeAt(0)),
          bytesOf(2, 0, 0, 0, 0, 0, body.length),
          body,
        ),
      ),
    ).toEqual({ 'ID3.TIT2': 'Gate' });
  });

  test('unsynchronised tags are put right; frames of 2.4 with plain sizes are understood', async () => {
    const frame = join(
      Uint8Array.from('TIT2', (c) => c.charCodeAt(0)),
      bytesOf(0, 0, 0, 4, 0, 0),
      bytesOf(0, 0xff, 0, 0xfe, 0x41),
    );
    const tag = join(
      Uint8Array.from('ID3', (c) => c.charCodeAt(0)),
      bytesOf(3, 0, 0x80, 0, 0, 0, frame.length),
      frame,
    );
    expect(await labelsOf(tag)).toEqual({ 'ID3.TIT2': 'ÿþA' });
    const long = latin('x'.repeat(200));
    const plain = join(
      Uint8Array.from('TIT2', (c) => c.charCodeAt(0)),
      bytesOf(0, 0, 0, long.length, 0, 0),
      long,
      Uint8Array.from('TALB', (c) => c.charCodeAt(0)),
      bytesOf(0, 0, 0, 5, 0, 0),
      latin('Next'),
    );
    const four = join(
      Uint8Array.from('ID3', (c) => c.charCodeAt(0)),
      bytesOf(4, 0, 0, 0, 0, plain.length >> 7, plain.length & 127),
      plain,
    );
    expect(await labelsOf(four)).toMatchObject({ 'ID3.TIT2': 'x'.repeat(200), 'ID3.TALB': 'Next' });
  });

  test('what claims too much is said, and what came before it is kept', async () => {
    const tag = id3({ TIT2: latin('Kept'), TALB: latin('Lost') }, 3);
    tag.set([0, 0, 0x7f, 0xff], 10 + 10 + 5 + 4);
    expect(await labelsOf(tag)).toEqual({
      'ID3.TIT2': 'Kept',
      warnings: [expect.stringMatching(/frame TALB claims 32767 bytes/)],
    });
    const old = id3({ TIT2: latin('x') });
    old[3] = 9;
    expect(await labelsOf(old)).toEqual({ warnings: [expect.stringMatching(/version 2\.9/)] });
  });

  test('any text comes back, in any chunk that may hold a tag', async () => {
    const text = fc
      .string({ unit: 'binary', minLength: 1, maxLength: 40 })
      .map((t) => t.replace(/[\0\ufeff\ufffe\ud800-\udfff]/g, '').trim());
    await fc.assert(
      fc.asyncProperty(text, async (t) => {
        fc.pre(t !== '');
        const tag = id3({ TIT2: join(bytesOf(3), new TextEncoder().encode(t)) });
        expect((await wavWith('id3 ', tag)).labels.get('ID3.TIT2')).toBe(t);
      }),
      { numRuns: 60 },
    );
  });
});

test('bext of version 2: its loudness values and UMID', async () => {
  const bytes = new Uint8Array(602);
  const view = new DataView(bytes.buffer);
  view.setUint16(346, 2, true);
  bytes[348] = 0x06;
  bytes[411] = 0xab;
  [-2310, 720, -120, 0x7fff, -1800].forEach((v, i) => view.setInt16(412 + 2 * i, v, true));
  const { labels } = await wavWith('bext', bytes);
  expect(Object.fromEntries([...labels].filter(([k]) => k.startsWith('bext.')))).toEqual({
    'bext.TimeReference': '0',
    'bext.UMID': `06${'00'.repeat(62)}ab`,
    'bext.LoudnessValue': '-23.10',
    'bext.LoudnessRange': '7.20',
    'bext.MaxTruePeakLevel': '-1.20',
    'bext.MaxShortTermLoudness': '-18.00',
  });
});

test('smpl and inst say the note at which a sound plays unchanged', async () => {
  expect((await wavWith('inst', bytesOf(64, 0, 0, 0, 127, 1, 127))).labels.get('inst.UnshiftedNote')).toBe('64');
  const file = await read(writeWav([plane], { rate: 8000, bits: 16 }, { loops: [{ start: 4, end: 99 }] }));
  expect([file.labels.get('smpl.MIDIUnityNote'), file.loops]).toEqual(['60', [{ start: 4, end: 99 }]]);
});

test.each([
  [
    'elements',
    xmp(
      '<dc:title><rdf:Alt><rdf:li xml:lang="x-default">Gate</rdf:li><rdf:li xml:lang="de">Tor</rdf:li></rdf:Alt></dc:title>',
    ),
    { 'XMP.dc:title': 'Gate' },
  ],
  [
    'attributes',
    xmp('', 'xmpDM:tempo="92" xmpDM:album="Harbour"'),
    { 'XMP.xmpDM:tempo': '92', 'XMP.xmpDM:album': 'Harbour' },
  ],
  [
    'lists',
    xmp('<dc:subject><rdf:Bag><rdf:li>gate</rdf:li><rdf:li>iron</rdf:li></rdf:Bag></dc:subject>'),
    { 'XMP.dc:subject': 'gate; iron' },
  ],
  [
    'people in order',
    xmp('<dc:creator><rdf:Seq><rdf:li>A &amp; B</rdf:li></rdf:Seq></dc:creator>'),
    { 'XMP.dc:creator': 'A & B' },
  ],
])('XMP as %s', (_, text, expected) => {
  const labels = new Map<string, string>();
  expect(readXmp(text, labels)).toBeUndefined();
  expect(Object.fromEntries(labels)).toEqual(expected);
});

test('the head of a FLAC file: format, comments, picture', async () => {
  const file = await read(flacHead(['TITLE=Gate', 'title=Second', 'DESCRIPTION=iron=old', 'nothing', 'ARTIST=']));
  expect(file.format).toMatchObject({ container: 'FLAC', rate: 48000, channels: 2, bits: 16, frames: 4800 });
  expect(Object.fromEntries(file.labels)).toEqual({ 'vorbis.TITLE': 'Gate; Second', 'vorbis.DESCRIPTION': 'iron=old' });
  expect(file.artwork).toMatchObject({ mime: 'image/png', length: 8 });
  const lying = flacHead(['TITLE=Gate']);
  lying.set([255, 255, 255, 127], 4 + 4 + 34 + 4 + 8 + 4);
  expect((await read(lying)).warnings).toEqual([expect.stringMatching(/comments claim more bytes/)]);
});

describe('the table of trust', () => {
  const found = { rootId: 2, rootName: 'Root', path: 'a/plain name.wav', size: 9, modified: 1, intakeId: 3, now: 4 };
  const of = async (labels: Record<string, string>) => {
    const file: AudioFile = {
      ...(await read(writeWav([plane], { rate: 8000, bits: 16 }))),
      labels: new Map(Object.entries(labels)),
    };
    return describeSound(file, found, () => undefined);
  };

  test.each([
    ['fxName', ['iXML.ASWG.fxName', 'XMP.dc:title', 'INFO.INAM', 'ID3.TIT2', 'AIFF.NAME', 'vorbis.TITLE', 'mp4.©nam']],
    [
      'description',
      [
        'bext.Description',
        'iXML.BEXT.BWF_DESCRIPTION',
        'XMP.dc:description',
        'INFO.ICMT',
        'ID3.COMM',
        'vorbis.DESCRIPTION',
        'iXML.NOTE',
        'AIFF.ANNO',
      ],
    ],
    ['library', ['iXML.ASWG.library', 'INFO.IPRD', 'XMP.xmpDM:album', 'ID3.TALB', 'vorbis.ALBUM', 'mp4.©alb']],
    ['author', ['bext.Originator', 'XMP.dc:creator', 'INFO.IART', 'ID3.TPE1', 'vorbis.ARTIST']],
    ['microphone', ['iXML.ASWG.micType']],
    ['copyright', ['INFO.ICOP', 'XMP.dc:rights', 'ID3.TCOP']],
  ])('%s is taken from its blocks in their order, and says from which', async (key, blocks) => {
    for (let from = 0; from < blocks.length; from++) {
      const sound = await of(Object.fromEntries(blocks.slice(from).map((b) => [b, `from ${b}`])));
      expect([sound.fields[key], sound.from[key]]).toEqual([`from ${blocks[from]}`, `file ${blocks[from]}`]);
    }
  });

  test('numbers and dates that are none are passed over for the next', async () => {
    const sound = await of({
      'iXML.ASWG.tempo': 'fast',
      'ID3.TBPM': '92,5',
      'bext.OriginationDate': '0000-99-99',
      'INFO.ICRD': '2026-03',
      'smpl.MIDIUnityNote': '60',
    });
    expect(sound.fields).toMatchObject({ tempo: 92.5, recorded: Date.UTC(2026, 2, 1), rootNote: 60 });
    expect(sound.from.tempo).toBe('file ID3.TBPM');
  });
});

test('a quickHash tells files apart by size, head and tail, and reads four kilobytes', async () => {
  const bytes = new Uint8Array(100_000).map((_, i) => i * 7);
  let asked = 0;
  const source = memorySource(bytes);
  const quickHash = await quickHashOf({ ...source, read: (o, n) => ((asked += n), source.read(o, n)) });
  expect(asked).toBe(4096);
  const changed = (at: number) => quickHashOf(memorySource(bytes.map((b, i) => (i === at ? b ^ 1 : b))));
  expect(await changed(10)).not.toBe(quickHash);
  expect(await changed(99_990)).not.toBe(quickHash);
  expect(await changed(50_000)).toBe(quickHash);
  expect(await quickHashOf(memorySource(bytes.slice(0, 99_999)))).not.toBe(quickHash);
  expect(await quickHashOf(memorySource(new Uint8Array(0)))).toMatch(/^[0-9a-f]{16}$/);
});
