import { memorySource, planLabels, spliced, type AudioFile } from '@core/files';
import { describe as described, labelsToWrite, type FieldValue } from '@core/library';
import { describeFile } from '@platform/audio/reader';
import { execFileSync } from 'node:child_process';
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { encodePng } from '../helpers/picture';
import { bytesOf, run, scratch, testWith } from '../helpers/programs';

// Files that other programs made get our labels: those programs find every value where its standard puts it, and the audio unchanged.

const folder = scratch();
const at = (name: string) => join(folder, name);
const said = (program: string, ...args: string[]) => execFileSync(program, args, { encoding: 'utf8' });
const tone = ['-f', 'lavfi', '-i', 'sine=440:duration=1:sample_rate=48000'];
const fields: Record<string, FieldValue> = {
  fxName: 'Möwe ruft',
  description: `Eine Möwe ${'ruft und '.repeat(40)}fliegt`,
  author: 'Äon & Co',
  library: 'Küste',
  copyright: '2026 Wir',
  keywords: ['Möwe', 'Ruf'],
  catId: 'BIRDSea',
  microphone: 'MK 4',
};

/** Has our labels put into a file. @returns what our own reader says then */
async function labelled(name: string, pictured = true): Promise<AudioFile> {
  const source = memorySource(bytesOf(at(name)), name);
  const file = await describeFile(source);
  const found = { rootId: 1, rootName: 'R', path: name, size: 1, modified: 1, intakeId: 1, now: 1 };
  const sound = { ...described(file, found, () => undefined), id: 1 };
  sound.fields = { ...sound.fields, ...fields };
  sound.marks = { anchor: 4800 };
  sound.from = { ...sound.from, anchor: 'typed' };
  const { wanted } = labelsToWrite(file, sound, new Map(), true);
  const picture = { mime: 'image/png', bytes: encodePng(40, 30), width: 40, height: 30 };
  const plan = (await planLabels(source, { ...wanted, ...(pictured ? { picture } : {}) }, file.format))!;
  const after = spliced(plan.splice, source);
  writeFileSync(at(name), await after.read(0, after.size));
  return describeFile(memorySource(bytesOf(at(name)), name));
}
/** The picture that another program finds in a file. */
const pictureIn = (name: string) => {
  const entries = ['-select_streams', 'v', '-show_entries', 'stream=codec_name,width,height', '-of', 'csv=p=0'];
  return said('ffprobe', '-v', 'error', ...entries, at(name)).trim();
};
/** A hash of the decoded audio, by another program. */
const audioOf = (name: string) => said('ffmpeg', '-v', 'error', '-i', at(name), '-map', '0:a', '-f', 'md5', '-').trim();
const tagsOf = (name: string) => {
  const told = JSON.parse(said('ffprobe', '-v', 'error', '-show_entries', 'format_tags', '-of', 'json', at(name))) as {
    format: { tags: Record<string, string> };
  };
  return Object.fromEntries(Object.entries(told.format.tags).map(([k, v]) => [k.toLowerCase(), v]));
};

testWith(
  'ffmpeg',
  'sox',
  'exiftool',
  'mediainfo',
)('WAV', async () => {
  run(
    'ffmpeg',
    '-y',
    ...tone,
    '-metadata',
    'title=Old',
    '-metadata',
    'description=Old',
    '-write_bext',
    '1',
    at('a.wav'),
  );
  const audio = audioOf('a.wav');
  const file = await labelled('a.wav');
  expect([file.warnings, file.cues]).toEqual([[], [{ frame: 4800, length: 0, label: 'Anchor' }]]);
  expect(audioOf('a.wav')).toBe(audio);
  expect(pictureIn('a.wav')).toBe('png,40,30');
  expect(tagsOf('a.wav')).toMatchObject({
    title: 'Möwe ruft',
    artist: 'Äon & Co',
    copyright: '2026 Wir',
    album: 'Küste',
  });
  const exif = JSON.parse(said('exiftool', '-json', '-G1', '-a', '-charset', 'riff=utf8', at('a.wav'))) as Record<
    string,
    string
  >[];
  const values = Object.entries(exif[0]).filter(([key]) =>
    /:(Title|Artist|Originator|Description|Copyright)$/.test(key),
  );
  expect(Object.fromEntries(values.map(([key, v]) => [key.split(':')[1], v]))).toMatchObject({
    Title: 'Möwe ruft',
    Originator: 'Äon & Co',
    Copyright: '2026 Wir',
  });
  // It takes INFO for text of the system’s code page: what is ASCII tells that it is found.
  expect(said('mediainfo', '--Inform=General;%Copyright%', at('a.wav'))).toContain('2026 Wir');
  expect(said('sox', '--info', at('a.wav'))).toContain('48000 samples');
});

testWith(
  'ffmpeg',
  'sox',
  'exiftool',
)('AIFF', async () => {
  run('ffmpeg', '-y', ...tone, '-write_id3v2', '1', '-metadata', 'title=Old', at('a.aiff'));
  const audio = audioOf('a.aiff');
  const file = await labelled('a.aiff');
  expect([file.warnings, file.cues]).toEqual([[], [{ frame: 4800, length: 0, label: 'Anchor' }]]);
  expect(audioOf('a.aiff')).toBe(audio);
  expect(pictureIn('a.aiff')).toBe('png,40,30');
  expect(tagsOf('a.aiff')).toMatchObject({ title: 'Möwe ruft', artist: 'Äon & Co', album: 'Küste' });
  const exif = JSON.parse(
    said('exiftool', '-json', '-Name', '-Author', '-ID3:Title', '-charset', 'exif=utf8', at('a.aiff')),
  ) as object[];
  expect(exif[0]).toMatchObject({ Title: 'Möwe ruft' });
  expect(said('sox', '--info', at('a.aiff'))).toContain('48000');
});

testWith(
  'ffmpeg',
  'flac',
  'metaflac',
)('FLAC, with its picture', async () => {
  writeFileSync(at('art.png'), encodePng(24, 24));
  run(
    'ffmpeg',
    '-y',
    ...tone,
    '-i',
    at('art.png'),
    '-map',
    '0:a',
    '-map',
    '1',
    '-disposition:v',
    'attached_pic',
    '-metadata',
    'title=Old',
    at('a.flac'),
  );
  const picture = said('metaflac', '--list', '--block-type=PICTURE', at('a.flac'));
  const file = await labelled('a.flac', false);
  expect([file.warnings, file.cues]).toEqual([[], [{ frame: 4800, length: 0, label: 'Anchor' }]]);
  run('flac', '-t', '-s', at('a.flac'));
  expect(said('metaflac', '--list', '--block-type=PICTURE', at('a.flac')).replace(/#\d+/, '')).toBe(
    picture.replace(/#\d+/, ''),
  );
  const tags = said('metaflac', '--no-utf8-convert', '--export-tags-to=-', at('a.flac'));
  for (const line of [
    'TITLE=Möwe ruft',
    'ARTIST=Äon & Co',
    'ALBUM=Küste',
    'CATID=BIRDSea',
    'MICROPHONE=MK 4',
    'KEYWORDS=Möwe, Ruf',
  ])
    expect(tags).toContain(line);
  await labelled('a.flac');
  run('flac', '-t', '-s', at('a.flac'));
  expect(pictureIn('a.flac')).toBe('png,40,30');
});

testWith(
  'ffmpeg',
  'lame',
  'exiftool',
)('MP3, of either version of ID3', async () => {
  for (const version of ['3', '4']) {
    const name = `v${version}.mp3`;
    run(
      'ffmpeg',
      '-y',
      ...tone,
      '-id3v2_version',
      version,
      '-metadata',
      'title=Old',
      '-metadata',
      'composer=Somebody',
      at(name),
    );
    const audio = audioOf(name);
    const file = await labelled(name);
    expect(file.warnings).toEqual([]);
    expect(audioOf(name)).toBe(audio);
    expect(pictureIn(name)).toBe('png,40,30');
    expect(tagsOf(name)).toMatchObject({
      title: 'Möwe ruft',
      artist: 'Äon & Co',
      album: 'Küste',
      composer: 'Somebody',
    });
    expect(said('exiftool', '-s3', '-ID3:Title', at(name)).trim()).toBe('Möwe ruft');
  }
});
