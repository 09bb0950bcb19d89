import type { Sound } from '@core/library';
import {
  beginningOf,
  cueOfClip,
  frameRate,
  frameToSample,
  fromTimecode,
  incomingEdl,
  incomingOtio,
  movedBy,
  readEdl,
  readOtio,
  soundFor,
  spanOf,
  writeEdls,
  writeOtio,
  type Cue,
  type Scene,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { anyCue } from '../helpers/cues';

// Lists and timelines of other hands. What is expected here is computed from the standards' texts, not by what is tested.

const RATE = 48_000;
const sceneOf = (fps = '24', start = '01:00:00:00'): Scene => ({
  ...{
    id: 5,
    name: 'Ferry',
    fps,
    startFrame: fromTimecode(start, frameRate(fps)),
    sampleRate: RATE,
    length: 100 * RATE,
  },
});
const own = { id: 1, sceneId: 5, trackId: 2, made: 7 };

describe('edit lists', () => {
  const scene = sceneOf();
  const read = (lines: string[], end = '\r\n') => {
    const list = readEdl(lines.join(end), frameRate('24'));
    return { list, incoming: incomingEdl(list, scene, frameRate('24')) };
  };
  const picture = [
    'TITLE: Ferry, reel 2',
    'FCM: NON-DROP FRAME',
    '>>> SOURCE AX /some/where',
    '001  A001C03  V     C        10:00:00:00 10:00:02:00 01:00:00:00 01:00:02:00',
    '* FROM CLIP NAME: Quay',
    '',
    '002  BL       V     C        00:00:00:00 00:00:01:00 01:00:02:00 01:00:03:00',
    '003  A001C04  V     C        10:00:08:00 10:00:08:00 01:00:03:00 01:00:03:00',
    '003  A002C01  V     D    024 10:00:10:00 10:00:14:00 01:00:03:00 01:00:07:00',
    '* FROM CLIP NAME: Rope',
    '* TO CLIP NAME: Winch',
    '* LOC: 01:00:05:12 CYAN    look up',
    '004  A002C02  B     W001 012 10:01:00:00 10:01:01:00 01:00:07:00 01:00:08:00',
    '005  BOOTS    A2    C        00:00:01:12 00:00:02:00 01:00:07:12 01:00:08:00',
    '* SOURCE FILE: Steps/Boots 01.wav',
    'M2   BOOTS          012.0                00:00:01:12',
    '006  STEM     NONE  C        00:00:00:00 00:00:01:00 01:00:08:00 01:00:09:00',
    'AUD  3    4',
    '007  STRANGE  V     QQ       00:00:00:00 00:00:01:00 01:00:09:00 01:00:10:00',
    '008  LATE     A     C        00:00:00:00 00:00:01:30 01:00:09:00 01:00:10:06',
  ];

  test.each([['\r\n'], ['\n'], ['\r']])(
    'cuts, dissolves, black, wipes, several channels and remarks are what they say (line end %j)',
    (end) => {
      const { list, incoming } = read(picture, end);
      expect(list.title).toBe('Ferry, reel 2');
      expect(incoming.cuts.map((c) => [c.at / RATE, c.kind, c.name])).toEqual([
        [0, 'cut', 'Quay'],
        [2, 'cut', 'BL'],
        [3.5, 'dissolve', 'Winch'],
        [7, 'cut', 'A002C02'],
      ]);
      expect(incoming.clips.map((c) => [c.track, c.start / RATE, c.end / RATE, c.from, c.file])).toEqual([
        ['Channel 1', 7, 8, 10 * 3600 + 60, ''],
        ['Channel 2', 7.5, 8, 1.5, 'Steps/Boots 01.wav'],
        ['Channel 3', 8, 9, 0, ''],
        ['Channel 4', 8, 9, 0, ''],
      ]);
      expect(incoming.markers).toEqual([{ at: 5.5 * RATE, name: 'look up', colour: 'sky' }]);
      expect(incoming.problems.map((p) => /^Line (\d+)/.exec(p)?.[1])).toEqual(['13', '16', '19', '20']);
      expect(incoming.problems[1]).toMatch(/event 5 is played at 12 frames a second/);
    },
  );

  test('drop and non-drop lists meet the scene where both say what its first frame says', () => {
    const drop = sceneOf('29.97 drop', '01:00:00;00');
    const line = (times: string) => `001  AX  V  C  00:00:00:00 00:00:10:00 ${times}`;
    const at = (fcm: string, times: string) => {
      const rate = frameRate(/NON/.test(fcm) ? '29.97' : '29.97 drop');
      return incomingEdl(readEdl(`FCM: ${fcm}\n${line(times)}`, rate), drop, rate).cuts[0].at;
    };
    // SMPTE ST 12-1: ten minutes of drop-frame timecode are 17,982 frames, of the other 18,000.
    const frames = (n: number) => Math.round((n * 1001 * RATE) / 30_000);
    expect(at('DROP FRAME', '01:10:00;00 01:10:10;00')).toBe(frames(17_982));
    expect(at('NON-DROP FRAME', '01:10:00:00 01:10:10:00')).toBe(frames(18_000));
    // Mixed: the separators of a record time say what it is, whatever the sources before are.
    expect(at('NON-DROP FRAME', '01:10:00;00 01:10:10;00')).not.toBe(frames(18_000));
  });

  test('what is no edit list is refused in words, and says where', () => {
    expect(() => readEdl('', frameRate('24'))).toThrow('it holds no event of a CMX 3600 edit list');
    expect(() => readEdl('001  AX  V  C  01:00:00:29 01:00:01:00 01:00:00:00 01:00:01:00', frameRate('24'))).toThrow(
      /Line 1: “01:00:00:29” is no timecode at 24 frames a second/,
    );
  });
});

describe('timelines', () => {
  const time = (value: number, rate = 24) => ({ OTIO_SCHEMA: 'RationalTime.1', value, rate });
  const range = (start: number, length: number, rate = 24) => ({
    start_time: time(start, rate),
    duration: time(length, rate),
  });
  const clip = (name: string, start: number, length: number, more: object = {}) => ({
    ...{ OTIO_SCHEMA: 'Clip.2', name, source_range: range(start, length), ...more },
  });
  const gap = (length: number) => ({ OTIO_SCHEMA: 'Gap.1', name: null, source_range: range(0, length) });
  const track = (kind: string, children: object[], more: object = {}) => ({
    ...{ OTIO_SCHEMA: 'Track.1', name: kind, kind, children, source_range: null, ...more },
  });
  const timeline = (children: object[], more: object = {}) =>
    JSON.stringify({ OTIO_SCHEMA: 'Timeline.1', name: 'T', tracks: { OTIO_SCHEMA: 'Stack.1', children, ...more } });
  const seconds = (n: number) => n * RATE;

  test('nested stacks, trimmed, lie where arithmetic says; what was cut away is not there', () => {
    // A stack of six seconds of which the four from the second on are seen, behind a gap of one: its inside moves by -1 s.
    const inner = {
      ...{ OTIO_SCHEMA: 'Stack.1', name: 'inner', source_range: range(48, 96) },
      children: [track('Audio', [clip('gone', 0, 24), clip('half', 24, 48), clip('all', 0, 48), clip('tail', 0, 48)])],
    };
    const { clips } = readOtio(timeline([track('Audio', [gap(24), inner, clip('behind', 12, 24)])]), RATE);
    expect(clips.map((c) => [c.name, c.start, c.length, c.sourceStart])).toEqual([
      ['half', seconds(1), seconds(1), 2],
      ['all', seconds(2), seconds(2), 0],
      ['tail', seconds(4), seconds(1), 0],
      ['behind', seconds(5), seconds(1), 0.5],
    ]);
  });

  test('transitions take no time, and dissolve where they have half of each', () => {
    const transition = { OTIO_SCHEMA: 'Transition.1', in_offset: time(12), out_offset: time(24) };
    const read = readOtio(timeline([track('Video', [clip('a', 0, 48), transition, clip('b', 0, 48)])]), RATE);
    expect(read.dissolves).toEqual([seconds(2 + 0.25)]);
    const { cuts, clips } = incomingOtio(read, sceneOf());
    expect(cuts.map((c) => [c.kind, c.at])).toEqual([
      ['cut', 0],
      ['cut', seconds(2)],
      ['dissolve', seconds(2.25)],
    ]);
    expect(clips).toEqual([]);
  });

  test('clips of the older version, rates written short, markers, and what is unknown', () => {
    const old = {
      ...{ OTIO_SCHEMA: 'Clip.1', name: 'old', source_range: null },
      media_reference: { target_url: 'file:///a%20b/x.wav', available_range: range(0, 240, 23.976) },
      markers: [{ name: 'here', color: 'GREEN', marked_range: range(120, 0, 23.976) }],
      effects: [{ OTIO_SCHEMA: 'LinearTimeWarp.1' }],
    };
    const strange = { OTIO_SCHEMA: 'Caption.1', name: 'words', source_range: range(0, 24) };
    const later = { ...clip('later', 0, 24), OTIO_SCHEMA: 'Clip.7' };
    const read = readOtio(timeline([track('Audio', [old, strange, later])]), RATE);
    const tenths = Math.round((240 * 1001 * RATE) / 24_000);
    expect(read.clips.map((c) => [c.name, c.start, c.length])).toEqual([
      ['old', 0, tenths],
      ['later', tenths + RATE, RATE],
    ]);
    expect(read.markers).toEqual([{ at: Math.round((120 * 1001 * RATE) / 24_000), name: 'here', colour: 'GREEN' }]);
    expect(incomingOtio(read, sceneOf()).clips[0].file).toBe('/a b/x.wav');
    expect(read.problems.join('\n')).toMatch(/LinearTimeWarp[^]*Caption.1[^]*Clip.7 is of a newer version/);
  });

  test('a stack that is nested without end is refused or cut short, in words', () => {
    const deep = (n: number): string => '{"OTIO_SCHEMA":"Stack.1","children":['.repeat(n) + ']}'.repeat(n);
    const text = (n: number) => `{"OTIO_SCHEMA":"Timeline.1","name":"x","tracks":${deep(n)}}`;
    expect(readOtio(text(60)).problems).toEqual([expect.stringMatching(/more than 32 deep/)]);
    expect(() => readOtio(text(100_000))).toThrow(/nested too deeply/);
  });
});

describe('what was written comes back', () => {
  const tracks: Track[] = ['Steps', 'Water'].map((name, i) => ({
    ...{ id: i + 1, sceneId: 5, order: i, name, gain: 0, mute: false, solo: false },
  }));
  const sounds = new Map<number, Sound>(
    [7, 8].map((id) => [id, soundOf(id, { folder: 'A', file: `s${id}.wav` }, 500_000)]),
  );
  const fileOf = (cue: Cue) => `Tests/${sounds.get(cue.soundId)!.path}`;
  const cue = anyCue(fc.integer({ min: -60, max: 12 }), ['step', 'rope']);
  const kept = ({ soundId, at, start, end, gain, mute, anchor }: Cue) =>
    JSON.stringify({ soundId, at: at - anchor + start, start, end, gain, mute });

  test('a timeline to the sample, on tracks of its own names, whichever cues overlap', () => {
    fc.assert(
      fc.property(
        fc.array(cue, { minLength: 1, maxLength: 12 }),
        fc.constantFrom('24', '23.976', '29.97 drop', '59.94'),
        (cues, fps) => {
          const scene = sceneOf(fps, fps.includes('drop') ? '23:59:58;00' : '23:59:58:00');
          const list = incomingOtio(readOtio(writeOtio(scene, tracks, cues, fileOf), RATE), scene);
          const back = list.clips.map((c) => cueOfClip(c, soundFor(c, [...sounds.values()])!, own, RATE)!);
          expect(back.map(kept).sort()).toEqual(cues.map(kept).sort());
          expect(list.problems).toEqual([]);
        },
      ),
    );
  });

  test('an edit list to the frame', () => {
    fc.assert(
      fc.property(
        fc.array(cue, { minLength: 1, maxLength: 12 }),
        fc.constantFrom('24', '23.976', '29.97 drop', '59.94'),
        (cues, fps) => {
          const rate = frameRate(fps);
          const scene = sceneOf(fps, fps.includes('drop') ? '00:59:00;04' : '00:59:00:04');
          const [{ text }] = writeEdls(scene, tracks, cues, fileOf);
          const { clips, problems } = incomingEdl(readEdl(text, rate), scene, rate);
          expect(problems).toEqual([]);
          const frame = frameToSample(1, rate, RATE);
          const starts = cues.map((c) => spanOf(c, RATE).start).sort((a, b) => a - b);
          clips
            .map((c) => c.start)
            .sort((a, b) => a - b)
            .forEach((start, i) => expect(Math.abs(start - starts[i])).toBeLessThanOrEqual(frame + 1));
          expect(clips).toHaveLength(cues.length);
        },
      ),
    );
  });

  test('the sound whose path ends most alike is meant, then one that is long enough', () => {
    const named = [
      soundOf(1, { folder: 'Old/Steps', file: 'Boot.wav' }, 100),
      soundOf(2, { folder: 'New/Steps', file: 'boot.WAV' }, 96_000),
      soundOf(3, { folder: 'New/Doors', file: 'Boot.wav' }, 96_000),
    ];
    const clip = { ...{ track: '', name: 'Boot', start: 0, end: RATE, from: 0, mute: false, gain: 0 } };
    expect(soundFor({ ...clip, file: 'C:\\Sounds\\New\\Doors\\Boot.wav' }, named)?.id).toBe(3);
    expect(soundFor({ ...clip, file: 'Old/Steps/Boot.wav' }, named)?.id).toBe(1);
    expect(soundFor({ ...clip, file: 'Boot.wav' }, named)?.id).toBe(2);
    expect(soundFor({ ...clip, file: '' }, [])).toBeUndefined();
    expect(cueOfClip({ ...clip, file: '', from: 10 }, named[1], own)).toBeUndefined();
  });

  test('a list is moved as one', () => {
    const list = {
      name: '',
      clips: [],
      cuts: [{ at: 9, kind: 'cut' as const, name: '' }],
      markers: [{ at: 4, name: '' }],
      problems: [],
    };
    expect(beginningOf(list)).toBe(4);
    expect(beginningOf(movedBy(list, 96))).toBe(100);
    expect(beginningOf({ ...list, cuts: [], markers: [] })).toBe(0);
  });
});
