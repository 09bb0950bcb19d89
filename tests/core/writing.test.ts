import {
  changesNothing,
  encodeFlac,
  FileError,
  inverted,
  memorySource,
  patchesOf,
  planLabels,
  readAudioFile,
  readFrames,
  readId3,
  sizeAfter,
  spliced,
  writeAiff,
  writeWav,
  type AudioFile,
  type ByteSource,
  type FilePlan,
  type Picture,
} from '@core/files';
import { describe as described, fieldOf, labelsToWrite, type FieldValue, type Sound } from '@core/library';
import fc from 'fast-check';
import { id3, latin } from '../helpers/fuzz';
import { randomBytes, randomLabels } from '../helpers/labels';
import { encodePng } from '../helpers/picture';
import { noise, sine } from '../helpers/signals';

// Labels into files: what was written is read again, what is not ours stays, the audio is the same, and all of it can be taken back.

const rate = 8000;
const planes = [noise(500, 0.4, 3), sine(440, rate, 500)];
const found = { rootId: 1, rootName: 'R', path: 'a.wav', size: 1, modified: 1, intakeId: 1, now: 1 };
const tags = new Map<number, string>();
const whole = (source: ByteSource) => source.read(0, source.size);
/** Bytes as what compares at once: matchers go through arrays one by one. */
const hex = (bytes: Uint8Array) => Buffer.from(bytes).toString('hex');
const soundOf = (file: AudioFile, fields: Record<string, FieldValue>, anchor = -1): Sound => {
  const made = described(file, found, () => undefined);
  const from = Object.fromEntries(Object.keys(fields).map((key) => [key, 'typed' as const]));
  return {
    id: 1,
    ...made,
    fields: { ...made.fields, ...fields },
    from: { ...made.from, ...from, anchor: 'typed' },
    marks: { anchor },
  };
};

/** MP3 files are read elsewhere: their frames need a decoder. */
async function readMp3(source: ByteSource): Promise<AudioFile> {
  const labels = new Map<string, string>();
  let artwork: AudioFile['artwork'];
  await readId3(source, 0, source.size, labels, [], (art) => (artwork ??= art));
  const format = { ...(await readAudioFile(memorySource(writeWav(planes, { rate, bits: 16 })))).format };
  return { format: { ...format, container: 'MP3' }, labels, cues: [], loops: [], warnings: [], artwork };
}
const read = (source: ByteSource, mp3: boolean) => (mp3 ? readMp3(source) : readAudioFile(source));

async function planFor(
  bytes: Uint8Array,
  fields: Record<string, FieldValue>,
  anchor?: number,
): Promise<FilePlan | undefined> {
  const source = memorySource(bytes);
  const mp3 = bytes[0] === 0xff || latin('ID3').every((b, i) => b === 0 || b === bytes[i - 1]);
  const file = await read(source, mp3);
  const { wanted } = labelsToWrite(file, soundOf(file, fields, anchor), tags);
  return planLabels(source, wanted, { rate: file.format.rate, frames: file.format.frames });
}

const pictureOf = (side: number): Picture => {
  const bytes = Uint8Array.from([...encodePng(side, side), ...randomBytes(side * 20, side)]);
  return { mime: 'image/png', bytes, width: side, height: side };
};
const mp3 = (tag: Uint8Array = new Uint8Array(0)) => {
  const audio = randomBytes(3000, 5);
  audio.set([0xff, 0xfb, 0x90, 0x64]);
  return Uint8Array.from([...tag, ...audio]);
};
const strange = randomBytes(33, 9);
/** An APEv2 tag without a head: its items, and a foot of 32 bytes. */
function apeTag(items: Record<string, string>): Uint8Array {
  const word = (n: number) => [n & 255, (n >> 8) & 255, (n >> 16) & 255, n >>> 24];
  const ascii = (text: string) => latin(text).slice(1);
  const body = Object.entries(items).flatMap(([key, text]) => [
    ...[...word(text.length), ...word(0), ...ascii(key), 0],
    ...ascii(text),
  ]);
  const foot = [...ascii('APETAGEX'), ...word(2000), ...word(body.length + 32), ...word(Object.keys(items).length)];
  return Uint8Array.from([...body, ...foot, ...new Uint8Array(12)]);
}
const makers: Record<string, () => Uint8Array | Promise<Uint8Array>> = {
  'WAV without labels': () => writeWav(planes, { rate, bits: 24 }),
  'WAV whose labels stand in front': () =>
    reordered(writeWav(planes, { rate, bits: 16 }, { ixml: { PROJECT: 'Kell', TRACK_LIST: { TRACK_COUNT: '2' } } })),
  'WAV with labels, an odd chunk and a list of others': () =>
    writeWav(
      planes,
      { rate, bits: 16 },
      {
        bext: { Description: 'A gate', Originator: 'Ines', CodingHistory: 'A=PCM,F=8000' },
        ixml: { NOTE: 'wet', USER: { FXNAME: 'Old name' } },
        info: { INAM: 'Old name', ISFT: 'a recorder' },
        cues: [{ frame: 12, length: 30, label: 'Swing' }],
        chunks: [{ id: 'zzzz', bytes: strange }],
      },
    ),
  'WAV with two bext chunks and a block of an odd length at its end': () => {
    const first = writeWav(planes, { rate, bits: 16 }, { bext: { Description: 'One' } });
    const at = latin('bext').slice(1);
    const head = Buffer.from(first).indexOf(Buffer.from(at));
    const size = new DataView(first.buffer, first.byteOffset).getUint32(head + 4, true);
    const second = first.slice(head + 8, head + 8 + size);
    second.set(latin('Two').slice(1));
    return writeWav(
      planes,
      { rate, bits: 16 },
      {
        bext: { Description: 'One' },
        chunks: [
          { id: 'bext', bytes: second },
          { id: 'zzzz', bytes: strange },
        ],
      },
    );
  },
  AIFF: () =>
    writeAiff(planes, { rate, bits: 16 }, { NAME: 'Old', ANNO: 'note' }, [{ frame: 4, length: 0, label: 'x' }]),
  FLAC: () => encodeFlac(planes, { rate, bits: 16 }, { TITLE: 'Old', ENCODER: 'other' }),
  'FLAC with a picture that is cut off': async () => {
    const bytes = await encodeFlac(planes, { rate, bits: 16 }, { TITLE: 'Old' });
    // A block of type 6 whose lengths lead out of it, right behind STREAMINFO.
    const block = Uint8Array.of(6, 0, 0, 20, 0, 0, 0, 3, 0, 0, 0, 9, ...latin('image/png').slice(1), 255, 255, 255);
    return Uint8Array.from([...bytes.subarray(0, 42), ...block, ...bytes.subarray(42)]);
  },
  'MP3 without a tag': () => mp3(),
  'MP3 with two tags, and APE and ID3v1 at its end': () =>
    Uint8Array.from([
      ...mp3(Uint8Array.from([...id3({ TIT2: latin('One') }, 3), ...id3({ TIT2: latin('Two') }, 4)])),
      ...apeTag({ Title: 'Three' }),
      ...latin('TAG').slice(1),
      ...new Uint8Array(125),
    ]),
  'MP3 with a tag of version 2.3 and frames of others': () =>
    mp3(id3({ TIT2: latin('Old'), PRIV: strange, TXXX: latin('CatID\0BIRDSea') }, 3)),
};

/** A WAV file whose label chunks stand in front of its audio. */
function reordered(bytes: Uint8Array): Uint8Array {
  const chunks: Uint8Array[] = [];
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  for (let at = 12; at < bytes.length;) {
    const size = view.getUint32(at + 4, true);
    chunks.push(bytes.slice(at, at + 8 + size + (size % 2)));
    at += 8 + size + (size % 2);
  }
  const name = (c: Uint8Array) => String.fromCharCode(...c.subarray(0, 4));
  const order = [...chunks.filter((c) => name(c) !== 'data'), ...chunks.filter((c) => name(c) === 'data')];
  return Uint8Array.from([...bytes.subarray(0, 12), ...order.flatMap((c) => [...c])]);
}

/** Chunks of a RIFF or IFF file by id, but for those that labels go into. */
function others(bytes: Uint8Array): string[] {
  const big = bytes[0] === 0x46;
  const view = new DataView(bytes.buffer, bytes.byteOffset);
  const out: string[] = [];
  for (let at = 12; at + 8 <= bytes.length;) {
    const id = String.fromCharCode(...bytes.subarray(at, at + 4));
    const size = view.getUint32(at + 4, !big);
    if (!/^(bext|iXML|LIST|cue |smpl|JUNK| {4}|NAME|AUTH|ANNO|\(c\) |id3 |ID3 |MARK)$/.test(id))
      out.push(`${id} ${[...bytes.subarray(at + 8, at + 8 + size)].join()}`);
    at += 8 + size + (size % 2);
  }
  return out;
}

describe.each(Object.keys(makers))('%s', (name) => {
  test('has what was written, keeps the rest, and becomes what it was', async () => {
    const bytes = await makers[name]();
    const isMp3 = name.startsWith('MP3');
    const before = await read(memorySource(bytes), isMp3);
    await fc.assert(
      fc.asyncProperty(randomLabels, fc.integer({ min: 0, max: 499 }), async (fields, anchor) => {
        const plan = await planFor(bytes, fields, anchor);
        const source = memorySource(bytes);
        const after = plan ? spliced(plan.splice, source) : source;
        const file = await read(after, isMp3);
        expect(file.warnings).toEqual(before.warnings);
        const again = soundOf(file, {});
        for (const [key, value] of Object.entries(fields)) {
          const wanted = Array.isArray(value) ? value : typeof value === 'string' ? value.trim() : value;
          expect([key, again.fields[key]]).toEqual([key, wanted === '' ? undefined : wanted]);
        }
        const output = await whole(after);
        if (!isMp3) {
          const anchors = file.cues.filter((c) => /^anchor$/i.test(c.label));
          expect(anchors.map((c) => c.frame)).toEqual([anchor]);
          expect(file.cues.filter((c) => !/^anchor$/i.test(c.label))).toEqual(before.cues);
        }
        if (/WAV|AIFF/.test(name)) {
          expect(others(output)).toEqual(others(bytes));
          expect(await readFrames(memorySource(output), file.format, 0, 500)).toEqual(
            await readFrames(source, before.format, 0, 500),
          );
        }
        if (!plan) return;
        const { audio, splice } = plan;
        const part = (b: Uint8Array, at: number) => hex(b.subarray(at, at + audio.length));
        expect(part(output, audio.after)).toEqual(part(bytes, audio.before));
        // A second time there is nothing left to write.
        expect(await planFor(output, fields, anchor)).toBeUndefined();
        const back = await inverted(splice, source);
        expect(hex(await whole(spliced(back, memorySource(output))))).toBe(hex(bytes));
        // Where nothing moves, the patches alone make the file.
        const patches = patchesOf(splice);
        if (/WAV|AIFF/.test(name)) expect(patches).toBeDefined();
        if (!patches) return;
        const patched = new Uint8Array(sizeAfter(splice));
        patched.set(bytes.subarray(0, patched.length));
        for (const patch of patches) patched.set(patch.bytes, patch.offset);
        expect(hex(patched)).toBe(hex(output));
      }),
      { numRuns: 60 },
    );
  });

  test('takes a picture, another in its place, and lets go of it; its audio, its texts and the rest stay', async () => {
    const bytes = await makers[name]();
    const isMp3 = name.startsWith('MP3');
    const first = await read(memorySource(bytes), isMp3);
    let now = memorySource(bytes);
    for (const side of [9, 700, 24, 'none'] as const) {
      const picture = side === 'none' ? side : pictureOf(side);
      const plan = (await planLabels(now, { places: new Map(), picture }, { rate, frames: 500 }))!;
      const before = await whole(now);
      const output = await whole(spliced(plan.splice, now));
      expect(hex(await whole(spliced(await inverted(plan.splice, now), memorySource(output))))).toBe(hex(before));
      expect(hex(output.subarray(plan.audio.after, plan.audio.after + plan.audio.length))).toBe(
        hex(before.subarray(plan.audio.before, plan.audio.before + plan.audio.length)),
      );
      now = memorySource(output);
      const file = await read(now, isMp3);
      expect([file.labels, file.cues, file.warnings]).toEqual([first.labels, first.cues, first.warnings]);
      expect(file.artwork?.mime).toBe(side === 'none' ? undefined : 'image/png');
      if (picture !== 'none')
        expect(hex(await now.read(file.artwork!.offset, file.artwork!.length))).toBe(hex(picture.bytes));
      if (/WAV|AIFF/.test(name)) expect(others(output)).toEqual(others(bytes));
    }
  });
});

describe('places', () => {
  const texts = async (fields: Record<string, FieldValue>, labels: Parameters<typeof writeWav>[2] = {}) => {
    const bytes = writeWav(planes, { rate, bits: 16 }, labels);
    const plan = await planFor(bytes, fields);
    return { file: await readAudioFile(spliced(plan!.splice, memorySource(bytes))), notes: plan!.notes };
  };

  test('a text that bext has no room for is cut there at a character, and stands whole in iXML', async () => {
    const description = `${'Möwe '.repeat(60)}end`;
    const { file, notes } = await texts({ description });
    const cut = file.labels.get('bext.Description')!;
    expect(new TextEncoder().encode(cut).length).toBeLessThanOrEqual(256);
    expect(description.startsWith(cut)).toBe(true);
    expect(file.labels.get('iXML.BEXT.BWF_DESCRIPTION')).toBe(description);
    expect(described(file, found, () => undefined).fields.description).toBe(description);
    expect(notes.join()).toContain('cut there and whole in iXML');
  });

  test('each standard has its own: bext, iXML, INFO; what follows an old text follows it, another text stays', async () => {
    const { file } = await texts(
      { fxName: 'Gate swings', author: 'Ines', keywords: ['iron', 'yard'], project: 'Kell', copyright: '© 2026 Ines' },
      { ixml: { USER: { FXNAME: 'Old' }, NOTE: 'rain from the left' }, info: { INAM: 'Old', ISFT: 'recorder 3' } },
    );
    expect(Object.fromEntries(file.labels)).toMatchObject({
      'iXML.ASWG.fxName': 'Gate swings',
      'iXML.USER.FXNAME': 'Gate swings',
      'INFO.INAM': 'Gate swings',
      'bext.Originator': 'Ines',
      'INFO.IART': 'Ines',
      'iXML.USER.KEYWORDS': 'iron, yard',
      'INFO.IKEY': 'iron, yard',
      'iXML.PROJECT': 'Kell',
      'INFO.ICOP': '© 2026 Ines',
      'iXML.NOTE': 'rain from the left',
      'INFO.ISFT': 'recorder 3',
    });
  });

  test('characters that no file holds are left out, and spoil nothing', async () => {
    const odd = 'A\u0000b\u0007c \ud800d\u001f';
    const { file } = await texts({ fxName: odd, keywords: ['x\u0001', 'y, z'], project: odd });
    expect(file.warnings).toEqual([]);
    expect(file.labels.get('iXML.ASWG.fxName')).toBe('Abc d');
    expect(file.labels.get('INFO.INAM')).toBe('Abc d');
    expect(file.labels.get('iXML.PROJECT')).toBe('Abc d');
    expect(file.labels.get('iXML.USER.KEYWORDS')).toBe('x, y z');
  });

  test('a licence that a text of the file names already is not written once more; one that no text names any longer is', async () => {
    const bytes = writeWav(planes, { rate, bits: 16 }, { info: { ICMT: 'CC0, by Ines' } });
    const sound = soundOf(await readAudioFile(memorySource(bytes)), {});
    expect(sound.fields.licence).toBe('CC0 1.0');
    const file = await readAudioFile(memorySource(bytes));
    const written = (s: Sound) => labelsToWrite(file, s, tags).changes.map((c) => c.key);
    expect(written(sound)).not.toContain('licence');
    const told = {
      ...sound,
      fields: { ...sound.fields, description: 'By Ines' },
      from: { ...sound.from, description: 'typed' as const },
    };
    expect(written(told)).toContain('licence');
  });

  test('tags of an MP3 file that are not written are told', async () => {
    const make = makers['MP3 with two tags, and APE and ID3v1 at its end'];
    const plan = (await planFor(await make(), { fxName: 'Gate' }))!;
    expect(plan.notes).toHaveLength(3);
    for (const which of [/another ID3 tag/, /an APE tag/, /an ID3v1 tag/])
      expect(plan.notes).toContainEqual(expect.stringMatching(which));
  });

  test('a label that was emptied is emptied in the file', async () => {
    const bytes = writeWav(planes, { rate, bits: 16 }, { bext: { Description: 'A gate' }, info: { ICMT: 'A gate' } });
    const source = memorySource(bytes);
    const file = await readAudioFile(source);
    const sound = soundOf(file, {});
    delete sound.fields.description;
    const { wanted, changes } = labelsToWrite(file, sound, tags);
    expect(changes).toContainEqual({ key: 'description', label: 'Description', before: 'A gate', after: '' });
    const plan = (await planLabels(source, wanted, file.format))!;
    const after = await readAudioFile(spliced(plan.splice, source));
    expect(saysNothing(after)).toBe(true);
  });
  const saysNothing = (file: AudioFile) => fieldOf('description').read.every((place) => !file.labels.has(place));

  test('a property of an XMP packet that is there is brought up to date, and no other', async () => {
    const packet = `<x:xmpmeta xmlns:x="adobe:ns:meta/"><rdf:RDF xmlns:rdf="r"><rdf:Description rdf:about="" xmlns:dc="d" xmpDM:album="Old"><dc:title><rdf:Alt><rdf:li xml:lang="x-default">Old</rdf:li></rdf:Alt></dc:title><dc:subject><rdf:Bag><rdf:li>a</rdf:li></rdf:Bag></dc:subject><own:thing>7</own:thing></rdf:Description></rdf:RDF></x:xmpmeta>`;
    const chunks = [{ id: '_PMX', bytes: new TextEncoder().encode(packet) }];
    const { file } = await texts(
      { fxName: 'A & B <new>', library: 'Tide', keywords: ['x', 'y'], author: 'Ines' },
      { chunks },
    );
    expect(file.labels.get('XMP.dc:title')).toBe('A & B <new>');
    expect(file.labels.get('XMP.xmpDM:album')).toBe('Tide');
    expect(file.labels.get('XMP.dc:subject')).toBe('x; y');
    expect(file.labels.get('XMP.own:thing')).toBe('7');
    expect(file.labels.has('XMP.dc:creator')).toBe(false);
  });
});

describe('what cannot be written', () => {
  test.each<[string, Uint8Array]>([
    ['Ogg', Uint8Array.from([...latin('OggS').slice(1), ...randomBytes(90, 2)])],
    ['MP3 with an ID3 tag of version 2.2', mp3(Uint8Array.from([...latin('ID3').slice(1), 2, 0, 0, 0, 0, 0, 0]))],
  ])('%s is said to be so', async (_, bytes) => {
    const wanted = { places: new Map([['ID3.TIT2', 'x']]) };
    await expect(planLabels(memorySource(bytes), wanted, { rate, frames: 1 })).rejects.toThrow(FileError);
  });

  test('a file that is damaged anywhere is planned without harm, or refused in words', async () => {
    const seeds = await Promise.all(Object.values(makers).map((make) => make()));
    await fc.assert(
      fc.asyncProperty(
        fc.constantFrom(...seeds),
        fc.array(fc.tuple(fc.nat(4000), fc.nat(255)), { minLength: 1, maxLength: 4 }),
        fc.option(fc.nat(4000), { nil: undefined }),
        async (good, hits, cut) => {
          const bytes = good.slice(0, cut);
          for (const [at, value] of hits) if (at < bytes.length) bytes[at] = value;
          const source = memorySource(bytes);
          const wanted = {
            places: new Map(
              ['bext.Description', 'iXML.USER.X', 'INFO.INAM', 'ID3.TIT2', 'AIFF.NAME', 'vorbis.TITLE'].map((p) => [
                p,
                'new',
              ]),
            ),
            anchor: 3,
            ...(hits.length === 2 ? { picture: pictureOf(8) } : hits.length === 3 ? { picture: 'none' as const } : {}),
          };
          const plan = await planLabels(source, wanted, { rate, frames: 500 }).catch((error: Error) => error);
          if (plan === undefined) return;
          if (plan instanceof Error) return expect(plan.message).toMatch(/\w/);
          const output = await whole(spliced(plan.splice, source));
          expect(hex(await whole(spliced(await inverted(plan.splice, source), memorySource(output))))).toBe(hex(bytes));
          const part = (b: Uint8Array, at: number) => hex(b.subarray(at, at + plan.audio.length));
          expect(part(output, plan.audio.after)).toEqual(part(bytes, plan.audio.before));
        },
      ),
      { numRuns: 3000 },
    );
  });
});

test('RIFF that grows past 4 GiB becomes RF64, in the place of a filler or anew, and its audio is found', async () => {
  for (const filler of [true, false]) {
    const audio = 2 ** 32 - 400;
    const head = writeWav([new Float32Array(0)], { rate, bits: 16 });
    const junk = filler ? [...latin('JUNK').slice(1), 28, 0, 0, 0, ...new Uint8Array(28)] : [];
    const fmt = [...head.subarray(12, 36)];
    const front = Uint8Array.from([...head.subarray(0, 12), ...junk, ...fmt, ...latin('data').slice(1), 0, 0, 0, 0]);
    const view = new DataView(front.buffer);
    view.setUint32(4, front.length + audio - 8, true);
    view.setUint32(front.length - 4, audio, true);
    const source: ByteSource = {
      name: 'long.wav',
      size: front.length + audio,
      read: (offset, length) => {
        const out = new Uint8Array(Math.max(0, Math.min(length, front.length + audio - offset)));
        out.set(front.subarray(Math.min(offset, front.length), offset + length));
        return Promise.resolve(out);
      },
    };
    const wanted = { places: new Map([['INFO.INAM', 'A long gate '.repeat(60)]]) };
    const plan = (await planLabels(source, wanted, { rate, frames: audio / 2 }))!;
    expect(patchesOf(plan.splice) !== undefined).toBe(filler);
    const file = await readAudioFile(spliced(plan.splice, source));
    expect(file.format).toMatchObject({ container: 'RF64', frames: audio / 2, dataOffset: plan.audio.after });
    expect(file.labels.get('INFO.INAM')).toBe('A long gate '.repeat(60).trim());
    expect(changesNothing(plan.splice)).toBe(false);
  }
});
