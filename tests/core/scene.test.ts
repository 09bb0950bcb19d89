import { plainShape } from '@core/audio';
import { Material } from '@core/engine';
import { memorySource, readAudioFile, readFrames } from '@core/files';
import { applyChange, invert, type Edit } from '@core/library';
import {
  frameRate,
  frameRates,
  frameToSample,
  fromTimecode,
  isHeard,
  lengthOfScene,
  loudnessTargets,
  missOf,
  mixDepths,
  Mixdown,
  nearestRate,
  placeCue,
  planOf,
  rankAlternates,
  readEdl,
  readOtio,
  sameTimecode,
  sampleToFrame,
  spanOf,
  stemKinds,
  stemsOf,
  swapSound,
  timecodeAt,
  timeReference,
  toTimecode,
  writeEdls,
  writeOtio,
  type Cue,
  type Scene,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { cueOf } from '../helpers/cues';
import { clicks, sine, rms } from '../helpers/signals';

const RATE = 48000;

function sceneOf(fps = '24', more: Partial<Scene> = {}): Scene {
  const r = frameRate(fps);
  return {
    id: 5,
    name: 'Last Ferry',
    fps,
    startFrame: fromTimecode(r.drop ? '01:00:00;00' : '01:00:00:00', r),
    sampleRate: RATE,
    length: RATE * 4,
    ...more,
  };
}

const tracks: Track[] = ['Water', 'Winch', 'Boots', 'Air', 'Pier'].map((name, i) => ({
  ...{ id: i + 1, sceneId: 5, order: i, name, gain: 0, mute: false, solo: false },
}));

describe('timecode', () => {
  // SMPTE ST 12-1: two numbers are dropped each minute but the tenth at 29.97, four at 59.94.
  const table: [string, number, string][] = [
    ['24', 86400, '01:00:00:00'],
    ['25', 90000 + 13, '01:00:00:13'],
    ['23.976', 86400 + 312, '01:00:13:00'],
    ['29.97 drop', 1799, '00:00:59;29'],
    ['29.97 drop', 1800, '00:01:00;02'],
    ['29.97 drop', 17982, '00:10:00;00'],
    ['29.97 drop', 107892, '01:00:00;00'],
    ['29.97', 107892, '00:59:56:12'],
    ['59.94 drop', 3600, '00:01:00;04'],
    ['59.94 drop', 35964, '00:10:00;00'],
  ];
  test.each(table)('at %s frame %d reads %s', (name, frame, text) => {
    expect(toTimecode(frame, frameRate(name))).toBe(text);
    expect(fromTimecode(text, frameRate(name))).toBe(frame);
  });

  test('frames go to timecode and samples and come back, at every rate', () => {
    fc.assert(
      fc.property(
        fc.constantFrom(...frameRates),
        fc.integer({ min: 0, max: 2_000_000 }),
        fc.constantFrom(44100, 48000, 96000),
        (r, frame, rate) => {
          expect(fromTimecode(toTimecode(frame, r), r)).toBe(frame);
          const sample = frameToSample(frame, r, rate);
          expect(sampleToFrame(sample, r, rate)).toBe(frame);
          expect(sampleToFrame(sample - 1, r, rate)).toBe(frame - 1);
        },
      ),
    );
  });

  test.each([
    ['00:01:00;00', '29.97 drop'],
    ['01:00:00:24', '24'],
    ['1:2', '24'],
    ['25:00:00:00', '25'],
    ['', '25'],
  ])('%j is no timecode at %s', (text, rate) => {
    expect(() => fromTimecode(text, frameRate(rate))).toThrow(/timecode/);
  });

  test('a scene that gets another rate keeps its timecode, whatever that rate drops', () => {
    const rates = fc.constantFrom(...frameRates);
    fc.assert(
      fc.property(rates, rates, fc.integer({ min: 0, max: 3_000_000 }), (from, to, frame) => {
        const [before, after] = [toTimecode(frame, from), toTimecode(sameTimecode(frame, from, to), to)];
        expect(after.slice(0, 8)).toBe(before.slice(0, 8));
        if (!to.drop && Number(before.slice(9)) < to.nominal) expect(after.slice(9)).toBe(before.slice(9));
      }),
    );
    expect(sameTimecode(86_400, frameRate('24'), frameRate('25'))).toBe(90_000);
  });

  test('a measured rate finds its name', () => {
    expect([23.9759, 24.0001, 25.02, 29.969, 59.9].map((n) => nearestRate(n).name)).toEqual([
      '23.976',
      '24',
      '25',
      '29.97',
      '59.94',
    ]);
  });
});

describe('cues', () => {
  const scene = sceneOf();
  const first = soundOf(9, { fxName: 'Pawl clack' }, 9600);
  first.marks = { anchor: 1200 };

  test('placing puts the anchor on the sample, whatever the region', () => {
    const sound = { ...first, marks: { anchor: 1200, region: { start: 1000, end: 5000 } } };
    const cue = applyChange<Cue>(undefined, placeCue(3, scene, 2, sound, 48000))!;
    expect(cue).toMatchObject({ at: 48000, anchor: 1200, start: 1000, end: 5000, name: 'Pawl clack' });
    expect(spanOf(cue, RATE)).toEqual({ start: 47800, end: 51800 });
    expect(cue.fadeIn).toBeGreaterThan(0);
  });

  test('another sound never moves the anchor, and undo brings the old one back whole', () => {
    const other = soundOf(10, { fxName: 'Ratchet' }, 88200, 44100);
    other.marks = { anchor: 4410 };
    const cue = cueOf();
    const edit: Edit = { label: 'swap', at: 0, undoable: true, changes: swapSound(cue, other) };
    const swapped = applyChange(cue, edit.changes[0])!;
    expect(swapped).toMatchObject({ at: cue.at, gain: cue.gain, soundId: 10, anchor: 4410, rate: 44100 });
    expect(applyChange(swapped, invert(edit).changes[0])).toEqual(cue);
    expect(swapSound(swapped, other)).toEqual([]);
  });

  test('alternates: shared words before unlike ones, near lengths before far ones, never the sound itself', () => {
    const named = (id: number, fxName: string, frames: number) => soundOf(id, { fxName }, frames);
    const own = named(1, 'Winch pawl clack 04', 40_000);
    const others = [
      named(2, 'Capstan groan', 40_000),
      own,
      named(3, 'Winch pawl clack 01', 90_000),
      named(4, 'Winch pawl clack 07', 41_000),
      named(5, 'Winch crank', 40_000),
      named(6, 'Foghorn', 640_000),
    ];
    expect(rankAlternates(own, others).map((s) => s.id)).toEqual([4, 3, 5, 2, 6]);
  });

  test('mute silences, solo silences all others, mute wins', () => {
    const own = tracks.map((t) => ({ ...t }));
    own[1].solo = true;
    expect(own.map((t) => isHeard(t, own))).toEqual([false, true, false, false, false]);
    own[1].mute = true;
    expect([...planOf(own, []).lines.values()].map((l) => l.open)).toEqual([false, false, false, false, false, true]);
    const quiet = tracks.map((t) => ({ ...t, gain: -3 }));
    const plan = planOf(quiet, [cueOf({ gain: -2 }), cueOf({ id: 9, mute: true })]);
    expect([...plan.lines.values()].map((l) => l.gain)).toEqual([-3, -3, -3, -3, -3, 0]);
    expect([...plan.clips].map(([id, { clip }]) => [id, clip.gain])).toEqual([[1, -2]]);
  });

  test('what was auditioned is what is spotted: the shape of a sound goes into its cue, and lies where it is heard', () => {
    const shaped = soundOf(10, {}, 48_000);
    shaped.marks = {
      anchor: 9600,
      region: { start: 4800, end: 48_000 },
      shape: { ...plainShape, speed: 2, direction: 'backward', gain: -3, fadeOut: 0.5, fade: 'soft' },
    };
    const { after } = placeCue(4, scene, 2, shaped, 96_000);
    const cue = after as unknown as Cue;
    expect(cue).toMatchObject({ shape: shaped.marks.shape, fadeIn: 0.002, fadeOut: 0.5 });
    // Backward and twice as fast: what lies behind the anchor comes first.
    expect(spanOf(cue, RATE)).toEqual({ start: 96_000 - (48_000 - 1 - 9600) / 2, end: 96_000 + (9600 + 1 - 4800) / 2 });
    const { clip } = planOf(tracks, [{ ...cue, trackId: 1 }]).clips.get(4)!;
    expect(clip).toMatchObject({
      gain: 0,
      shape: { speed: 2, direction: 'backward', gain: -3, fade: 'soft', fadeOut: 0.5 },
    });
    const stretched = { ...cue, trackId: 1, shape: { length: 1.5 } };
    expect(spanOf(stretched, RATE)).toEqual({ start: 96_000 - 7200, end: 96_000 - 14_400 + 72_000 });
  });
});

describe('delivery', () => {
  const at = frameToSample(312, frameRate('24'), RATE);
  const cues = [
    cueOf({ at }),
    cueOf({ id: 2, trackId: 1, at: 500, anchor: 1200, name: 'Water, =1+1' }),
    cueOf({ id: 3, trackId: 2, at: at + 4000, rate: 44100 }),
    cueOf({ id: 4, trackId: 5, at, soundId: 10, name: 'Żuraw 😀' }),
  ];
  const fileOf = (cue: Cue) => `Tidewrack/Boats & gear/${cue.name}.wav`;

  test('the mix has the transient on its sample, the right TimeReference and length', async () => {
    const materials = new Map([
      [9, Material.of([clicks(9600, [1200])], RATE)],
      [10, Material.of([clicks(9600, [1200], 0.8)], RATE)],
    ]);
    const scene = sceneOf();
    const made = (some: Cue[], own: Scene = scene, depth = mixDepths[0]) => {
      const mixdown = new Mixdown(own, planOf(tracks, some), lengthOfScene(own, some), materials, depth);
      const steps: number[] = [];
      const parts: Uint8Array[] = [];
      for (let part = mixdown.next(); part; part = mixdown.next()) {
        parts.push(part);
        steps.push(mixdown.share);
      }
      const { head, tail } = mixdown.around(new Date('2026-11-23T10:00:00Z'));
      return { wav: new Uint8Array(Buffer.concat([head, ...parts, tail])), steps, mixdown };
    };
    const { wav, steps, mixdown } = made(cues.slice(0, 1));
    const { clipped, peak } = mixdown;
    const file = await readAudioFile(memorySource(wav));
    const length = lengthOfScene(scene, cues.slice(0, 1));
    expect(file.format).toMatchObject({ rate: RATE, bits: 24, channels: 2, frames: length });
    expect(length).toBeGreaterThan(at);
    expect(file.labels.get('bext.TimeReference')).toBe(String(3600 * RATE));
    expect(file.labels.get('bext.OriginationDate')).toBe('2026-11-23');
    const [left] = await readFrames(memorySource(wav), file.format, 0, length);
    expect(left.findIndex((x) => Math.abs(x) > 0.5)).toBe(at);
    expect([clipped, peak.toFixed(2), steps[steps.length - 1]]).toEqual([0, '0.90', 1]);
    expect(mixdown.levels().truePeak).toBeGreaterThanOrEqual(20 * Math.log10(peak) - 0.01);
    const loud = made([cueOf({ at }), cueOf({ id: 7, at, soundId: 10 })]).mixdown;
    expect(loud.clipped).toBe(2);
    expect(loud.peak).toBeCloseTo(1.7, 3);
    // Of any depth the same is heard: floats keep what is above full scale, 16 bit has noise where nothing is.
    for (const depth of mixDepths.filter((d) => !d.flac)) {
      const { wav: bytes, mixdown: of } = made([cueOf({ at }), cueOf({ id: 7, at, soundId: 10 })], scene, depth);
      const read = await readAudioFile(memorySource(bytes));
      expect(read.format).toMatchObject({ rate: RATE, bits: depth.bits, channels: 2, frames: length });
      const [plane] = await readFrames(memorySource(bytes), read.format, 0, length);
      expect(plane[at]).toBeCloseTo(depth.float ? 1.7 : 1, 3);
      expect(of.clipped).toBe(depth.float ? 0 : 2);
      const rest = rms(plane.subarray(0, at));
      if (depth.bits === 16) expect(20 * Math.log10(rest)).toBeCloseTo(-96.3, -1);
      else expect(rest).toBe(0);
    }
  });

  test('stems together have every cue that is heard, once, each under a name of its own', () => {
    const [group, name] = [fc.constantFrom(undefined, 'Feet', 'Air'), fc.constantFrom('Deck', 'deck', 'Feet', 'Air')];
    const line = fc.record({ group, name, mute: fc.boolean(), solo: fc.boolean() });
    const placedOn = fc.record({ line: fc.nat(), mute: fc.boolean() });
    fc.assert(
      fc.property(fc.array(line, { minLength: 1, maxLength: 6 }), fc.array(placedOn), (lines, list) => {
        const own = lines.map((l, i): Track => ({ id: i + 1, sceneId: 1, order: i, gain: 0, ...l }));
        const all = list.map((c, i) => cueOf({ id: i + 1, trackId: 1 + (c.line % lines.length), mute: c.mute }));
        const heard = [...planOf(own, all).clips]
          .filter(([, { line: of }]) => isHeard(own[of - 1], own))
          .map(([id]) => id);
        for (const by of stemKinds) {
          const stems = stemsOf(own, all, by);
          expect(stems.flatMap((s) => s.cues.map((c) => c.id)).sort((a, b) => a - b)).toEqual(heard);
          const names = stems.map((s) => s.name.toLowerCase());
          expect(new Set(names).size).toBe(names.length);
          const clips = stems.flatMap((s) => [...planOf(s.tracks, s.cues).clips.keys()]);
          expect(clips.sort((a, b) => a - b)).toEqual(heard);
          for (const s of stems) for (const t of s.tracks) expect(isHeard(t, s.tracks)).toBe(true);
        }
      }),
    );
    // Tracks of a group are one stem, whatever lies between them.
    const feet = ['Feet', undefined, 'Feet'].map((g, i) => ({ ...tracks[i], group: g }));
    const some = feet.map((t, i) => cueOf({ id: i + 1, trackId: t.id }));
    expect(stemsOf(feet, some, 'group').map((s) => s.cues.map((c) => c.id))).toEqual([[1, 3], [2]]);
    expect(stemsOf(feet, some, 'track')).toHaveLength(3);
  });

  test('the mix is measured as it was rendered, and brought to a target by what it misses', () => {
    // A kilohertz at -23 dBFS on both sides is -23 LUFS (EBU Tech 3341, case 1).
    const tone = sine(1000, RATE, 10 * RATE, 10 ** (-23 / 20));
    const materials = new Map([[9, Material.of([tone, tone], RATE)]]);
    const whole = cueOf({ at: 0, anchor: 0, start: 0, end: 10 * RATE, rate: RATE });
    const measured = (gain: number) => {
      const lines = tracks.map((t) => ({ ...t, gain }));
      const mixdown = new Mixdown({ ...sceneOf(), length: 10 * RATE }, planOf(lines, [whole]), 10 * RATE, materials);
      while (mixdown.next());
      return mixdown.levels();
    };
    const plain = measured(0);
    expect(plain.loudness).toBeCloseTo(-23, 1);
    expect(plain.range).toBeCloseTo(0, 1);
    expect(plain.truePeak).toBeCloseTo(-23, 1);
    for (const target of loudnessTargets) {
      const { by, missed } = missOf(measured(-7.5), target);
      expect(missed).toBe(true);
      const then = measured(-7.5 + by);
      expect(then.loudness).toBeCloseTo(target.loudness, 1);
      expect(missOf(then, target)).toMatchObject({ missed: false, over: 0 });
    }
    // A bus is measured as it flows out: the half of it that goes through it, at its gain.
    const lines = [...tracks, { ...tracks[0], id: 9, name: 'Far', bus: true, gain: -12 }];
    const half = { ...whole, id: 2, trackId: 3 };
    const into = lines.map((t) => (t.id === 3 ? { ...t, into: 9 } : t));
    const both = new Mixdown({ ...sceneOf(), length: 10 * RATE }, planOf(into, [whole, half]), 10 * RATE, materials);
    both.watch([9, 77]);
    while (both.next());
    const [[id, far], none] = [...both.measuredLines()];
    expect([id, none]).toEqual([9, undefined]);
    expect(far.levels.loudness).toBeCloseTo(-35, 1);
    expect(far.levels.truePeak).toBeCloseTo(-35, 1);
    expect(far.course.at(-1)).toBeCloseTo(-35, 1);
    expect(both.levels().loudness).toBeCloseTo(-23 + 20 * Math.log10(1 + 10 ** (-12 / 20)), 1);
    const peaky = missOf({ loudness: -20, range: 3, truePeak: -0.5 }, loudnessTargets[0]);
    expect(peaky).toEqual({ by: -3, missed: true, over: 0.5, overThen: 0 });
    const quiet = missOf({ loudness: -30, range: 3, truePeak: -5 }, loudnessTargets[0]);
    expect(quiet).toEqual({ by: 7, missed: true, over: 0, overThen: 3 });
    expect(missOf({ loudness: -Infinity, range: 0, truePeak: -Infinity }, loudnessTargets[0])).toMatchObject({
      by: 0,
      over: 0,
    });
  });

  test('TimeReference counts real samples, at fractional rates too', () => {
    expect(timeReference(sceneOf('23.976'))).toBe(172972800n);
    expect(timeReference(sceneOf('29.97 drop'))).toBe(172799827n);
  });

  test('edit lists read back to the frames they were written from', () => {
    const scene = sceneOf();
    const lists = writeEdls(scene, tracks, cues, fileOf);
    expect(lists.map((l) => l.tracks)).toEqual([
      [1, 4],
      [5, 5],
    ]);
    const events = lists.flatMap((l) => readEdl(l.text, frameRate('24')).events);
    expect(events.map((e) => [e.name, e.channel])).toEqual([
      ['Water, =1+1', 1],
      ['Clack', 2],
      ['Clack', 2],
      ['Zuraw', 1],
    ]);
    const clack = events[1];
    expect(timecodeAt(scene, clack.recordIn - scene.startFrame)).toBe('01:00:12:23');
    expect(clack.recordOut - clack.recordIn).toBe(clack.sourceOut - clack.sourceIn);
    expect(clack.file).toBe('Tidewrack/Boats & gear/Clack.wav');
    expect(lists[0].text).toMatch(/^TITLE: Last Ferry\r\nFCM: NON-DROP FRAME/);
    for (const line of lists[0].text.split('\r\n')) expect(line).toMatch(/^[\x20-\x7e]*$/);
    expect(() => readEdl('001 what is this', frameRate('24'))).toThrow(/Line 1/);
  });

  test('timelines read back to the samples they were written from, overlaps on lanes of their own', () => {
    const scene = sceneOf();
    const { name, clips } = readOtio(writeOtio(scene, tracks, cues, fileOf));
    expect(name).toBe('Last Ferry');
    expect(clips.map((c) => [c.track, c.start])).toEqual([
      ['Water', 0],
      ['Winch', at - 1200],
      ['Winch (2)', Math.ceil(at + 4000 - (1200 * RATE) / 44100)],
      ['Pier', at - 1200],
    ]);
    expect(clips[0].sourceStart * RATE).toBeCloseTo(700, 6);
    expect(decodeURI(clips[3].url)).toBe('Tidewrack/Boats & gear/Żuraw 😀.wav');
    const marked = [
      { id: 1, sceneId: 1, at: 4801, name: 'Tür zu' },
      { id: 2, sceneId: 1, at: 96_000, name: 'Horn', colour: 'plum' as const },
    ];
    const { tracks: stack } = JSON.parse(writeOtio(scene, tracks, cues, fileOf, marked)) as {
      tracks: { markers: { name: string; color: string; marked_range: { start_time: object } }[] };
    };
    expect(stack.markers.map((m) => [m.name, m.color, m.marked_range.start_time])).toMatchObject([
      ['Tür zu', 'WHITE', { value: 4801, rate: RATE }],
      ['Horn', 'PURPLE', { value: 96_000, rate: RATE }],
    ]);
    expect(() => readOtio('{"OTIO_SCHEMA":"Clip.2"}')).toThrow(/OpenTimelineIO timeline is not as expected/);
  });
});
