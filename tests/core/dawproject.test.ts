import { fromDb } from '@core/audio';
import type { Sound } from '@core/library';
import {
  cueOfClip,
  readDawproject,
  soundFor,
  spanOf,
  writeDawproject,
  writeDawprojectFacts,
  type Cue,
  type LineEffect,
  type Scene,
  type Track,
} from '@core/scene';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { anyCue } from '../helpers/cues';

// DAWproject 1.0. What is written is read here by a few expressions of our own; what others write comes from its published examples' form.

const RATE = 48_000;
const scene: Scene = {
  ...{ id: 5, name: 'Fähre & <Pier>', fps: '24', startFrame: 86_400, sampleRate: RATE, length: 60 * RATE },
  main: { gain: -3 },
};
const line = (id: number, name: string, more: Partial<Track> = {}): Track => ({
  ...{ id, sceneId: 5, order: id, name, gain: 0, mute: false, solo: false },
  ...more,
});
const tracks = [
  line(1, 'Steps "near"', { gain: -6, place: -0.5, colour: 'moss', into: 3 }),
  line(2, 'Water', {
    mute: true,
    points: {
      gain: [
        { at: 0, value: 0 },
        { at: RATE, value: -20 },
      ],
    },
  }),
  line(3, 'All', { bus: true, solo: true }),
];
const effects: LineEffect[] = [
  { id: 9, sceneId: 5, lineId: 2, order: 0, kind: 'send', on: true, line: 3, values: { gain: -12 } },
];
const sounds = new Map<number, Sound>(
  [7, 8].map((id) => [id, soundOf(id, { folder: 'A', file: `s ${id} &.wav` }, 500_000)]),
);
const mediaOf = (cue: Cue) => ({
  path: `audio/s ${cue.soundId} &.wav`,
  channels: 2,
  rate: RATE,
  frames: 500_000,
  from: cue.start,
});
const cue = anyCue(
  fc.integer({ min: -600, max: 120 }).map((n) => n / 10),
  ['step', 'a "b" & <c>', 'ż'],
);
const cues = fc.array(cue, { minLength: 1, maxLength: 10 }).map((all) => all.map((c, id) => ({ ...c, id })));

/** Elements of a name with their attributes, whatever they stand in. */
const elements = (xml: string, name: string) =>
  [...xml.matchAll(new RegExp(`<${name}((?:\\s+[\\w]+="[^"]*")*)\\s*/?>`, 'g'))].map((m) =>
    Object.fromEntries([...m[1].matchAll(/(\w+)="([^"]*)"/g)].map(([, k, v]) => [k, v])),
  );

test('clips stand to the sample, with name, fades, gain and what is muted, and come back as the same cues', () => {
  fc.assert(
    fc.property(cues, (all) => {
      const xml = writeDawproject(scene, { tracks, effects }, all, [], mediaOf, '1');
      const clips = elements(xml, 'Clip');
      const told = clips.map((c) => Math.round(Number(c.time) * RATE)).sort((a, b) => a - b);
      expect(told).toEqual(all.map((c) => spanOf(c, RATE).start).sort((a, b) => a - b));
      for (const c of clips) {
        expect(Number(c.time) * RATE).toBeCloseTo(Math.round(Number(c.time) * RATE), 3);
        expect(Number(c.fadeInTime)).toBe(0.25);
      }
      const list = readDawproject(xml, 'x', RATE);
      const kept = ({ soundId, at, anchor, start, end, gain, mute, name }: Cue) =>
        JSON.stringify({ soundId, at: at - anchor + start, start, end, gain, mute, name });
      const own = { id: 1, sceneId: 5, trackId: 2, made: 7 };
      const back = list.clips.map((c) => cueOfClip(c, soundFor(c, [...sounds.values()])!, own, RATE)!);
      expect(back.map(kept).sort()).toEqual(all.map(kept).sort());
      const names = new Map(tracks.map((t) => [t.id, t.name]));
      expect(list.clips.map((c) => c.track).sort()).toEqual(all.map((c) => names.get(c.trackId)!).sort());
    }),
  );
});

test('lines flow where they did, as loud as they were; what refers to something refers to what is there', () => {
  const markers = [{ id: 1, sceneId: 5, at: 96_001, name: 'Horn', colour: 'plum' as const }];
  const xml = writeDawproject(scene, { tracks, effects }, [], markers, mediaOf, '1');
  const ids = [...xml.matchAll(/ id="([^"]*)"/g)].map((m) => m[1]);
  expect(new Set(ids).size).toBe(ids.length);
  for (const [, to] of xml.matchAll(/ (?:destination|track|parameter)="([^"]*)"/g)) expect(ids).toContain(to);
  const channels = elements(xml, 'Channel');
  expect(channels.map((c) => c.role)).toEqual(['regular', 'regular', 'submix', 'master']);
  const idOf = (role: string) => channels.find((c) => c.role === role)!.id;
  expect(channels.map((c) => c.destination)).toEqual([idOf('submix'), idOf('master'), idOf('master'), undefined]);
  expect(elements(xml, 'Send').map((s) => s.destination)).toEqual([idOf('submix')]);
  const volumes = elements(xml, 'Volume').map((v) => Number(v.value));
  [-6, -12, 0, 0, -3].forEach((db, i) => expect(volumes[i]).toBeCloseTo(fromDb(db), 6));
  expect(elements(xml, 'Pan').map((p) => Number(p.value))).toEqual([0.25, 0.5, 0.5, 0.5]);
  expect(elements(xml, 'Mute').map((m) => m.value)).toEqual(['false', 'true', 'false', 'false']);
  // Twenty decibels in a second: half of the way is ten.
  const points = elements(xml, 'RealPoint').map((p) => [Number(p.time), Number(p.value)]);
  expect(points.find(([time]) => Math.abs(time - 0.5) < 1e-6)![1]).toBeCloseTo(fromDb(-10), 6);
  expect(readDawproject(xml, 'x', RATE).markers).toEqual([{ at: 96_001, name: 'Horn', colour: 'plum' }]);
  expect(writeDawprojectFacts(scene)).toMatch(/Fähre &amp; &lt;Pier&gt;[^]*Begins at 01:00:00:00, at 24 frames/);
});

const foreign = (lanes: string, more = '') => `<?xml version="1.0"?>
<Project version="1.0"><Transport><Tempo value="120"/></Transport>
<Structure><Track id="g" name="Group"><Track id="t" name="Drums" contentType="audio"><Channel><Devices><Equalizer/><Device/></Devices></Channel></Track></Track></Structure>
<Arrangement><Lanes timeUnit="beats">${lanes}</Lanes>${more}</Arrangement></Project>`;

test('projects of other hands: beats, clips within clips, cut at either end, warps, levels in decibels', () => {
  // At 120 beats a minute a beat is half a second.
  const audio = (path: string) => `<Audio channels="2" duration="4" sampleRate="48000"><File path="${path}"/></Audio>`;
  const xml = foreign(
    `<Lanes track="t"><Clips>
      <Clip time="4" duration="8" playStart="2"><Clips>
        <Clip time="0" duration="4" contentTimeUnit="seconds" playStart="0.5">${audio('audio/early.wav')}</Clip>
        <Clip time="8" duration="40" contentTimeUnit="seconds" enable="false"><Warps>${audio('audio/late.wav')}<Warp time="0" contentTime="0"/></Warps></Clip>
      </Clips></Clip>
      <Clip time="40" duration="2" contentTimeUnit="seconds"><Lanes>${audio('../../etc/passwd')}<Points unit="decibel"><Target expression="gain"/><RealPoint time="0" value="-7.5"/></Points></Lanes></Clip>
      <Clip time="50" duration="2"><Notes><Note/></Notes></Clip>
    </Clips><Points><Target parameter="x"/></Points></Lanes>`,
    '<Markers><Marker time="6" name="Turn" color="#123456"/></Markers>',
  );
  const { clips, markers, problems } = readDawproject(xml, 'x', RATE);
  expect(clips).toMatchObject([
    // It begins a beat before what is seen of the one that holds it.
    { track: 'Drums', file: 'audio/early.wav', start: 2 * RATE, end: 3 * RATE, from: 1.5, mute: false, gain: 0 },
    { file: 'audio/late.wav', start: 5 * RATE, end: 6 * RATE, from: 0, mute: true },
    { file: '../../etc/passwd', start: 20 * RATE, end: 21 * RATE, gain: -7.5 },
  ]);
  expect(markers).toEqual([{ at: 3 * RATE, name: 'Turn' }]);
  expect(problems.join('\n')).toMatch(/effects are not taken over[^]*warped[^]*notes[^]*curves/);
});

test.each([
  ['', /holds no project/],
  ['<Project', /not well-formed|holds no project/],
  ['<!DOCTYPE x [<!ENTITY a "b">]><Project/>', /declares entities/],
  ['<x/>', /holds no project/],
])('what is no project is refused in words: %s', (xml, words) => {
  expect(() => readDawproject(xml, 'x')).toThrow(words);
});
