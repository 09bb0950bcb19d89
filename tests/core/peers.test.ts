import type { AudioFile } from '@core/files';
import { memorySource } from '@core/files';
import { describeFile } from '@platform/audio/reader';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { encodePng } from '../helpers/picture';
import { bytesOf, run, scratch, testWith } from '../helpers/programs';

const folder = scratch();
const at = (name: string) => join(folder, name);
const read = (name: string): Promise<AudioFile> => describeFile(memorySource(bytesOf(at(name)), name));
/** A second of a tone, made by the other program. */
const tone = ['-f', 'lavfi', '-i', 'sine=440:duration=1:sample_rate=48000'];

const metadata = {
  title: 'Möwe ruft',
  artist: 'Äon & Co',
  album: 'Küste',
  comment: 'nah, trocken',
  copyright: '2026 Wir',
  genre: 'Vögel',
  date: '2026-03-14',
};
const given = Object.entries(metadata).flatMap(([k, v]) => ['-metadata', `${k}=${v}`]);

describe('what ffmpeg wrote is read back the same', () => {
  testWith('ffmpeg')('WAV: LIST INFO', async () => {
    run('ffmpeg', '-y', ...tone, ...given, at('a.wav'));
    const { labels, format } = await read('a.wav');
    expect(Object.fromEntries(labels)).toMatchObject({
      'INFO.INAM': metadata.title,
      'INFO.IART': metadata.artist,
      'INFO.IPRD': metadata.album,
      'INFO.ICMT': metadata.comment,
      'INFO.ICOP': metadata.copyright,
      'INFO.IGNR': metadata.genre,
      'INFO.ICRD': metadata.date,
    });
    expect(format).toMatchObject({ rate: 48000, channels: 1, bits: 16, frames: 48000 });
  });

  testWith('ffmpeg')('broadcast WAV: bext', async () => {
    const bext = {
      description: 'Gate swings',
      originator: 'Recorder',
      originator_reference: 'REF1',
      origination_date: '2026-03-14',
      origination_time: '10:11:12',
      time_reference: '172800000',
      coding_history: 'A=PCM,F=48000',
    };
    run(
      'ffmpeg',
      '-y',
      ...tone,
      ...Object.entries(bext).flatMap(([k, v]) => ['-metadata', `${k}=${v}`]),
      '-write_bext',
      '1',
      at('b.wav'),
    );
    const { labels } = await read('b.wav');
    expect(Object.fromEntries(labels)).toMatchObject({
      'bext.Description': bext.description,
      'bext.Originator': bext.originator,
      'bext.OriginatorReference': bext.originator_reference,
      'bext.OriginationDate': bext.origination_date,
      'bext.OriginationTime': bext.origination_time,
      'bext.TimeReference': bext.time_reference,
    });
  });

  testWith('ffmpeg')('RF64, and every depth', async () => {
    for (const [codec, bits] of [
      ['pcm_u8', 8],
      ['pcm_s24le', 24],
      ['pcm_s32le', 32],
      ['pcm_f32le', 32],
      ['pcm_f64le', 64],
      ['pcm_alaw', 8],
      ['pcm_mulaw', 8],
    ] as const) {
      run('ffmpeg', '-y', ...tone, '-c:a', codec, '-rf64', 'always', at('c.wav'));
      expect((await read('c.wav')).format).toMatchObject({ container: 'RF64', bits, frames: 48000 });
    }
  });

  testWith('ffmpeg')('AIFF: an ID3 chunk, and both byte orders', async () => {
    run('ffmpeg', '-y', ...tone, ...given, '-write_id3v2', '1', at('a.aiff'));
    const { labels, format } = await read('a.aiff');
    expect([
      labels.get('ID3.TIT2') ?? labels.get('AIFF.NAME'),
      labels.get('ID3.TPE1') ?? labels.get('AIFF.AUTH'),
    ]).toEqual([metadata.title, metadata.artist]);
    expect(format.frames).toBe(48000);
    run('ffmpeg', '-y', ...tone, '-c:a', 'pcm_s16le', at('sowt.aifc'));
    expect((await read('sowt.aifc')).format).toMatchObject({ container: 'AIFF-C', littleEndian: true, frames: 48000 });
  });

  testWith('ffmpeg')('MP3: ID3v2.3 and 2.4, with artwork', async () => {
    writeFileSync(at('cover.png'), encodePng(8, 8));
    for (const version of ['3', '4']) {
      run(
        'ffmpeg',
        '-y',
        ...tone,
        '-i',
        at('cover.png'),
        '-map',
        '0',
        '-map',
        '1',
        ...given,
        '-id3v2_version',
        version,
        '-c:a',
        'libmp3lame',
        at('a.mp3'),
      );
      const { labels, artwork, format } = await read('a.mp3');
      expect(Object.fromEntries(labels)).toMatchObject({
        'ID3.TIT2': metadata.title,
        'ID3.TPE1': metadata.artist,
        'ID3.TALB': metadata.album,
        'ID3.TCOP': metadata.copyright,
        'ID3.TCON': metadata.genre,
      });
      const png = bytesOf(at('a.mp3')).subarray(artwork!.offset, artwork!.offset + artwork!.length);
      expect([artwork!.mime, String.fromCharCode(...png.subarray(1, 4))]).toEqual(['image/png', 'PNG']);
      expect(Math.abs(format.frames - 48000)).toBeLessThan(3000);
    }
  });

  testWith('ffmpeg')('FLAC, Ogg Vorbis, Opus and MP4', async () => {
    for (const [name, codec] of [
      ['a.flac', 'flac'],
      ['a.ogg', 'libvorbis'],
      ['a.opus', 'libopus'],
      ['a.m4a', 'aac'],
    ]) {
      run('ffmpeg', '-y', ...tone, ...given, '-c:a', codec, at(name));
      const { labels, format } = await read(name);
      const key = name.endsWith('m4a')
        ? { title: 'mp4.©nam', artist: 'mp4.©ART', album: 'mp4.©alb' }
        : { title: 'vorbis.TITLE', artist: 'vorbis.ARTIST', album: 'vorbis.ALBUM' };
      expect([labels.get(key.title), labels.get(key.artist), labels.get(key.album)]).toEqual([
        metadata.title,
        metadata.artist,
        metadata.album,
      ]);
      expect(format).toMatchObject({ encoding: 'coded', channels: 1 });
      expect(Math.abs(format.frames / format.rate - 1)).toBeLessThan(0.06);
    }
  });
});

testWith('sox')('what sox wrote is read back the same: formats, and the comment where it writes one', async () => {
  for (const [name, bits, encoding] of [
    ['s8.wav', '8', 'unsigned-integer'],
    ['s24.aiff', '24', 'signed-integer'],
    ['f32.wav', '32', 'floating-point'],
  ] as const) {
    run(
      'sox',
      '-D',
      '-n',
      '-r',
      '44100',
      '-c',
      '2',
      '-b',
      bits,
      '-e',
      encoding,
      '--comment',
      'said by sox',
      at(name),
      'synth',
      '0.5',
      'sine',
      '440',
    );
    const { format, labels } = await read(name);
    expect(format).toMatchObject({ rate: 44100, channels: 2, bits: Number(bits), frames: 22050 });
    if (name.endsWith('aiff')) expect([...labels.values()]).toContain('said by sox');
  }
});

testWith(
  'flac',
  'metaflac',
  'sox',
)('what flac wrote is read back the same: tags that repeat, a picture', async () => {
  run('sox', '-n', '-r', '96000', '-b', '24', at('f.wav'), 'synth', '0.5', 'sine', '440');
  writeFileSync(at('cover.png'), encodePng(8, 8));
  run(
    'flac',
    '-f',
    '-s',
    '-T',
    'TITLE=Tor',
    '-T',
    'ARTIST=Eins',
    '-T',
    'ARTIST=Zwei',
    '-T',
    'Description=schwingt = quietscht',
    `--picture=${at('cover.png')}`,
    '-o',
    at('f.flac'),
    at('f.wav'),
  );
  const { labels, format, artwork } = await read('f.flac');
  expect(Object.fromEntries(labels)).toMatchObject({
    'vorbis.TITLE': 'Tor',
    'vorbis.ARTIST': 'Eins; Zwei',
    'vorbis.DESCRIPTION': 'schwingt = quietscht',
  });
  expect(format).toMatchObject({ rate: 96000, bits: 24, frames: 48000 });
  expect(bytesOf(at('f.flac')).subarray(artwork!.offset, artwork!.offset + artwork!.length)).toEqual(
    bytesOf(at('cover.png')),
  );
});

testWith('lame', 'sox')('what lame wrote is read back the same: Latin and Unicode tags, comment', async () => {
  run('sox', '-n', '-r', '44100', '-b', '16', at('l.wav'), 'synth', '0.5', 'sine', '440');
  run(
    'lame',
    '--quiet',
    '--add-id3v2',
    '--tt',
    'Gate',
    '--ta',
    'Us',
    '--tl',
    'Yard',
    '--tc',
    'by the pier',
    at('l.wav'),
    at('l.mp3'),
  );
  const { labels } = await read('l.mp3');
  expect(Object.fromEntries(labels)).toMatchObject({
    'ID3.TIT2': 'Gate',
    'ID3.TPE1': 'Us',
    'ID3.TALB': 'Yard',
    'ID3.COMM': 'by the pier',
  });
});
