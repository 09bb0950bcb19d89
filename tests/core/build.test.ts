import {
  allStruck,
  anchorOf,
  buildOfCues,
  inWords,
  intoScene,
  labelsFrom,
  LayerDealer,
  layerOf,
  layersOf,
  newBuild,
  noticed,
  playedLines,
  rolled,
  rolledStroke,
  rowsFor,
  soundMade,
  soundsByKey,
  spanOfLayers,
  strokeOf,
  withPart,
} from '@core/build';
import { fromDb } from '@core/audio';
import { BLOCK, clipSpan, Engine, Material, type StruckClip } from '@core/engine';
import type { Change } from '@core/library';
import {
  planOf,
  spanOf,
  type Cue,
  type LineEffect,
  type Scene,
  type SceneState,
  type Track,
  type ValueRange,
} from '@core/scene';
import { Random } from '@core/synth';
import fc from 'fast-check';
import { soundOf } from '../helpers/catalogue';
import { cueOf } from '../helpers/cues';
import { clip, give, heard, line, play, RATE } from '../helpers/scene-graph';
import { apart, clicks, firstAbove, hit, noise, sine } from '../helpers/signals';

// Builds: sounds that lie on one anchor, what is said of them, what comes of them, and how keys play them.

const build = newBuild(5, 'Hull', RATE);
const track = (id: number, more: Partial<Track> = {}): Track => ({
  ...{ id, sceneId: 5, order: id, name: `Layer ${id}`, gain: 0, mute: false, solo: false },
  ...more,
});
const layer = (id: number, more: Partial<Cue> = {}): Cue =>
  cueOf({ id, trackId: id, soundId: id, at: anchorOf(build), anchor: 1000, start: 0, end: 9000, ...more });
const stateOf = (cues: Cue[], effects: LineEffect[] = [], tracks = cues.map((c) => track(c.trackId))): SceneState => ({
  ...{ tracks: [...new Map(tracks.map((t) => [t.id, t])).values()], cues, effects, markers: [] },
});
const shaped = fc.record({
  speed: fc.constantFrom(0.5, 1, 1.5, 2),
  direction: fc.constantFrom('forward' as const, 'backward' as const, 'both ways' as const),
});

describe('layers', () => {
  test('a sound becomes one with its anchor on that of the build; a bus and a track without sounds are none', () => {
    const changes = layerOf(build, { ...soundOf(7), marks: { anchor: 400 } }, { track: 2, cue: 3 }, 4);
    const [made, cue] = changes.map((c: Change) => c.after as unknown as Track & Cue);
    expect([made.order, cue.trackId, cue.at, cue.anchor]).toEqual([4, 2, anchorOf(build), 400]);
    const tracks = [track(1), track(2, { bus: true }), track(3)];
    const found = layersOf(tracks, [layer(1, { id: 9, mute: true }), layer(1), layer(2)]);
    expect(found.map((l) => [l.track.id, l.cues.map((c) => c.id)])).toEqual([[1, [1, 9]]]);
  });

  test('cues of a scene become layers as they stood there: the first on the anchor, the others as far beside it', () => {
    const there = [
      layer(1, { id: 31, at: 90_000, gain: -4, place: 0.3 }),
      layer(2, { id: 30, at: 88_000, mute: true }),
    ];
    const ids = { tracks: [41, 42], cues: [51, 52] };
    const changes = buildOfCues(9, 'Landing', there, ids, RATE);
    const of = <T>(table: string) => changes.filter((c) => c.table === table).map((c) => c.after as unknown as T);
    expect(of<Scene>('scenes')[0].build).toEqual({ anchor: anchorOf(build) });
    expect(of<Track>('tracks').map((t) => [t.gain, t.place, t.mute])).toEqual([
      [0, undefined, true],
      [-4, 0.3, false],
    ]);
    const cues = of<Cue>('cues');
    expect(cues.map((c) => [c.soundId, c.at - anchorOf(build), c.gain, c.mute, c.trackId])).toEqual([
      [2, 0, 0, false, 41],
      [1, 2000, 0, false, 42],
    ]);
  });

  test('their span is that of all of them about the anchor, whatever is done to each', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(shaped, fc.integer({ min: -2000, max: 2000 })), { minLength: 1, maxLength: 4 }),
        (list) => {
          const cues = list.map(([shape, late], i) => layer(i + 1, { shape, at: anchorOf(build) + late }));
          const { start, end } = spanOfLayers(
            layersOf(
              cues.map((c) => track(c.trackId)),
              cues,
            ),
            build,
          );
          const spans = cues.map((c) => spanOf(c, RATE));
          expect(start + anchorOf(build)).toBe(Math.floor(Math.min(...spans.map((s) => s.start))));
          expect(end + anchorOf(build)).toBe(Math.ceil(Math.max(...spans.map((s) => s.end))));
        },
      ),
    );
    expect(spanOfLayers([], build)).toEqual({ start: 0, end: 0 });
  });

  test.each([
    [{}, 'As it is'],
    [{ shape: { speed: 0.5 }, start: 14_880 }, 'An octave down, from 0.31 s'],
    [{ shape: { direction: 'both ways' as const }, at: anchorOf(build) + 1920 }, 'Both ways, 40 ms later'],
    [{ shape: { direction: 'backward' as const, speed: 2 ** (-3.2 / 12) } }, 'Backward, −3.20 semitones'],
    [{ shape: { pitch: 12, length: 1.5 } }, 'An octave up at the same length, 150 % long'],
    [{ at: anchorOf(build) - 24, shape: { channels: 1 } }, '0.5 ms earlier, channel 2 alone'],
    [{ end: 4800 }, 'To 0.10 s'],
  ])('%j is said as “%s”', (more, said) => {
    expect(inWords(layer(1, { end: 48_000, ...more }), build, 48_000)).toBe(said);
  });

  test('another part of the sound begins and ends without a click, and never outside of it', () => {
    fc.assert(
      fc.property(fc.integer({ min: -500, max: 12_000 }), fc.integer({ min: -500, max: 12_000 }), (start, end) => {
        const made = withPart(layer(1), { start, end }, 9000);
        expect(made.start >= 0 && made.end <= 9000 && made.start < made.end).toBe(true);
        expect([made.start > 0, made.end < 9000]).toEqual([made.fadeIn > 0, made.fadeOut > 0]);
        expect(made.at).toBe(layer(1).at);
      }),
    );
  });
});

describe('what comes of a build', () => {
  const sound = (id: number, fields: Record<string, unknown>) => ({ ...soundOf(id, fields as never) });
  test('its category is that which is heard most, its words are all of theirs, its licence only one that all have', () => {
    const boats = sound(1, {
      fxName: 'Hull',
      catId: 'BOATMech',
      category: 'BOATS',
      keywords: ['hull'],
      licence: 'Owned',
    });
    const wood = sound(2, {
      fxName: 'Plank',
      catId: 'WOODImpt',
      category: 'WOOD',
      keywords: ['wood', 'hull'],
      licence: 'Owned',
    });
    const { fields, from } = labelsFrom('Landing', [
      { sound: wood, gain: -12 },
      { sound: boats, gain: 0 },
    ]);
    expect(fields).toMatchObject({ fxName: 'Landing', catId: 'BOATMech', category: 'BOATS', licence: 'Owned' });
    expect(fields.keywords).toEqual(['wood', 'hull']);
    expect(fields.description).toBe('Built from Plank and Hull');
    expect([from.fxName, from.catId]).toEqual(['typed', 'suggested']);
    const mixed = labelsFrom('x', [
      { sound: boats, gain: 0 },
      { sound: sound(3, { fxName: 'Rope', licence: 'CC BY 4.0' }), gain: 0 },
    ]);
    expect(mixed.fields.licence).toBeUndefined();
    const file = { rootId: 2, rootName: 'Own', path: 'Built/Landing.wav', size: 9, anchor: 77, now: 5 };
    const format = { ...soundOf(1).format, frames: 96_000, rate: 48_000, channels: 2 };
    const made = soundMade(
      labelsFrom('Landing', [{ sound: boats, gain: 0 }]),
      { ...file, format },
      { built: { of: [1], build: 5 } },
    );
    expect(made).toMatchObject({ marks: { anchor: 77 }, built: { of: [1], build: 5 } });
    expect(made.fields).toMatchObject({ length: 2, folder: 'Built', file: 'Landing.wav', library: 'Own' });
  });

  test('laid into a scene it sounds the same there, with its effects, at any instant', () => {
    const scene: Scene = { ...newBuild(8, 'Scene', RATE), build: undefined };
    const materials = new Map([1, 2].map((id) => [id, Material.of([noise(9000, 0.3, id)], RATE)]));
    const effects: LineEffect[] = [
      { id: 1, sceneId: 5, lineId: 1, order: 0, kind: 'saturation', on: true, values: { drive: 12 } },
      { id: 2, sceneId: 5, lineId: 0, order: 0, kind: 'saturation', on: true, values: { drive: 20 } },
    ];
    fc.assert(
      fc.property(
        shaped,
        fc.integer({ min: 0, max: 900 }),
        fc.integer({ min: 20_000, max: 90_000 }),
        (shape, late, at) => {
          const cues = [layer(1, { shape }), layer(2, { at: anchorOf(build) + late })];
          const state = { ...stateOf(cues, effects), main: { gain: -9 } };
          const count = rowsFor(state);
          const ids = (n: number, from: number) => Array.from({ length: n }, (_, i) => from + i);
          const fresh = { tracks: ids(count.tracks, 50), cues: ids(count.cues, 60), effects: ids(count.effects, 70) };
          const rows = intoScene(build, state, scene, at, 3, fresh);
          const of = <T>(table: string) => rows.filter((c) => c.table === table).map((c) => c.after as unknown as T);
          const plan = planOf(of<Track>('tracks'), of<Cue>('cues'), of<LineEffect>('effects'));
          const own = planOf(state.tracks, state.cues, effects, state.main);
          const from = Math.floor(Math.min(...cues.map((c) => spanOf(c, RATE).start)));
          const there = heard(plan, materials, 4096, from - anchorOf(build) + at);
          const here = heard(own, materials, 4096, from);
          for (const c of [0, 1]) expect(apart(there[c], here[c])).toBeLessThan(1e-6);
          expect(Math.max(...here[0].map(Math.abs))).toBeGreaterThan(0.01);
        },
      ),
      { numRuns: 12 },
    );
  });
});

describe('rolls', () => {
  const state = stateOf(
    [layer(1), layer(1, { id: 21, mute: true }), layer(2)],
    [{ id: 1, sceneId: 5, lineId: 1, order: 0, kind: 'filter', on: true, values: { freq: 500 } }],
  );
  const ranges: ValueRange[] = [
    { of: 'layer', id: 1, key: 'pitch', least: -3, most: 5 },
    { of: 'layer', id: 2, key: 'later', least: 10, most: 30 },
    { of: 'layer', id: 2, key: 'gain', least: -6, most: -2 },
    { of: 'effect', id: 1, key: 'freq', least: 400, most: 900 },
    { of: 'effect', id: 1, key: 'nothing', least: 1, most: 2 },
    { of: 'effect', id: 99, key: 'freq', least: 1, most: 2 },
    { of: 'layer', id: 98, key: 'pitch', least: 1, most: 2 },
  ];

  test('each takes every value within its range, any sound of a layer, and leaves all else as it was', () => {
    const firsts = new Set<number>();
    fc.assert(
      fc.property(fc.integer(), (seed) => {
        const random = new Random(seed);
        const made = rolled(build, state, ranges, () => random.next());
        const semitones = made.cues.filter((c) => c.trackId === 1).map((c) => 12 * Math.log2(c.shape?.speed ?? 1));
        for (const s of semitones) expect(s >= -3 && s <= 5).toBe(true);
        const second = made.cues.find((c) => c.trackId === 2)!;
        const late = (second.at - anchorOf(build)) / 48;
        expect(late >= 9.9 && late <= 30.1).toBe(true);
        expect(made.tracks[1].gain >= -6 && made.tracks[1].gain <= -2).toBe(true);
        const { freq } = made.effects![0].values;
        expect(freq >= 400 && freq <= 900).toBe(true);
        expect(Object.keys(made.effects![0].values)).toEqual(['freq']);
        const heardOf1 = made.cues.filter((c) => c.trackId === 1 && !c.mute);
        expect(heardOf1).toHaveLength(1);
        firsts.add(heardOf1[0].id);
        expect(second).toMatchObject({ soundId: 2, gain: 0, mute: false, start: 0, end: 9000 });
        expect(made.tracks[0]).toEqual(state.tracks[0]);
      }),
    );
    expect(firsts).toEqual(new Set([1, 21]));
    expect(rolled(build, state, [], () => 0)).toEqual(state);
  });

  test('a stroke takes what is its layer’s; how far apart two sounds are is counted in what one just notices', () => {
    const struck = strokeOf(
      layersOf(state.tracks, state.cues),
      [],
      { next: ({ cues }) => cues[0] },
      { ratio: 1, gain: 0 },
      RATE,
    );
    const [one, two] = rolledStroke(struck, ranges, () => 1, RATE);
    expect([one.clip.shape.speed, two.clip.gain]).toEqual([2 ** (5 / 12), -2]);
    expect(two.clip.at - struck[1].clip.at).toBeCloseTo(0.03 * RATE, 6);
    const a = new Int8Array(16);
    const b = Int8Array.from(a, (_, i) => (i === 3 ? 36 : 0));
    expect([noticed(a, a), noticed(a, b)]).toEqual([0, 3]);
  });
});

describe('strokes', () => {
  const dealt = { next: ({ cues }: { cues: readonly Cue[] }) => cues[0] };

  test('all anchors of a stroke meet at every key, and the first of its sounds begins at once', () => {
    fc.assert(
      fc.property(
        fc.array(shaped, { minLength: 1, maxLength: 4 }),
        fc.constantFrom(0.5, 0.75, 1, 1.26, 2),
        (shapes, ratio) => {
          const cues = shapes.map((shape, i) => layer(i + 1, { shape, anchor: 500 + 700 * i }));
          const layers = layersOf(
            cues.map((c) => track(c.trackId)),
            cues,
          );
          const struck = strokeOf(layers, [], dealt, { ratio, gain: -6 }, RATE);
          for (const { clip: made } of struck) expect(made.at).toBeCloseTo(struck[0].clip.at, 6);
          expect(Math.min(...struck.map((s) => clipSpan(s.clip, RATE).start))).toBeCloseTo(0, 6);
          struck.forEach(({ clip: made }, i) => expect(made.shape.speed).toBeCloseTo(shapes[i].speed * ratio));
        },
      ),
    );
  });

  test('of several sounds of a layer each stroke takes another, all before any again; muted layers stay silent', () => {
    const dealer = new LayerDealer();
    const cues = [layer(1), layer(1, { id: 21, mute: true }), layer(1, { id: 22, mute: true })];
    const [own] = layersOf([track(1)], cues);
    const taken = Array.from({ length: 12 }, () => dealer.next(own).id);
    for (let i = 0; i < 12; i += 3) expect(new Set(taken.slice(i, i + 3)).size).toBe(3);
    for (let i = 1; i < 12; i++) expect(taken[i]).not.toBe(taken[i - 1]);
    // Where keys are sounds, each key has its own, over the whole keyboard.
    const byKey = [60, 61, 62, 63, 59, 0].map((key) => soundsByKey(key).next(own).id);
    expect(byKey).toEqual([1, 21, 22, 1, 22, 1]);
    const layers = layersOf([track(1, { mute: true }), track(2)], [layer(1), layer(2)]);
    expect(strokeOf(layers, [], dealt, { ratio: 1, gain: 0 }, RATE).map((s) => s.line)).toEqual([2]);
    expect([...allStruck(layers).keys()]).toEqual([1, 2]);
    // Nothing of a timeline is left in lines that are played.
    const points = { gain: [{ at: 0, value: -9 }] };
    expect(playedLines([track(2, { points })], [], undefined).get(2)).not.toHaveProperty('points');
  });

  const engine = (planes: Float32Array[][]): Engine => {
    const made = new Engine(RATE);
    planes.forEach((p, i) => give(made, i + 1, p));
    made.handle({ type: 'build', changes: [{ do: 'line', line: line(1) }] });
    return made;
  };
  const struck = (more: Parameters<typeof clip>[0] = {}): StruckClip[] => [
    { line: 1, clip: clip({ at: 0, anchor: 0, ...more }) },
  ];

  test('a stroke is what the timeline plays, from the block in which it came; a higher one is over sooner', () => {
    const sound = hit(RATE, 0.3);
    const own = engine([[sound]]);
    play(own, 5 * BLOCK);
    own.handle({ type: 'strike', key: 60, clips: struck({ region: { start: 0, end: sound.length } }) });
    const [made] = play(own, 9000);
    expect(apart(made, sound.subarray(0, 9000))).toBe(0);
    expect(own.status().keys).toEqual([60]);
    play(own, sound.length);
    expect(own.status().keys).toEqual([]);
    const high = struck({ region: { start: 0, end: sound.length }, shape: { speed: 2 } });
    own.handle({ type: 'strike', key: 72, clips: high });
    play(own, sound.length / 2 + BLOCK);
    expect(own.status().keys).toEqual([]);
  });

  test('a stroke that is there before its build waits for it, and is heard with all in its place', () => {
    const sound = hit(RATE, 0.3);
    const own = new Engine(RATE);
    give(own, 1, [sound]);
    own.handle({ type: 'strike', key: 60, clips: struck({ region: { start: 0, end: sound.length } }) });
    play(own, 8 * BLOCK);
    own.handle({ type: 'build', changes: [{ do: 'line', line: { ...line(1), gain: -12 } }] });
    const soft = fromDb(-12);
    const [made] = play(own, 40 * BLOCK);
    expect(
      apart(
        made,
        Float32Array.from(sound.subarray(0, made.length), (x) => x * soft),
      ),
    ).toBeLessThan(1e-6);
    // What is changed while it is heard gets there without a step; one that is never told of is let go of.
    own.handle({ type: 'build', changes: [{ do: 'line', line: { ...line(1), gain: 0 } }] });
    const [next] = play(own, BLOCK);
    expect(next[0]).toBeCloseTo(sound[40 * BLOCK] * soft, 3);
    own.handle({ type: 'strike', key: 61, clips: [{ ...struck({})[0], line: 9 }] });
    play(own, RATE);
    expect(own.status().keys).toEqual([]);
  });

  test('one too many ends the first or the quietest; what is cut short never steps more than the signal did', () => {
    const loud = sine(110, RATE, RATE, 0.8);
    const soft = sine(110, RATE, RATE, 0.01);
    const least = (x: Float32Array) =>
      x.reduce((most, v, i) => (i === 0 ? 0 : Math.max(most, Math.abs(v - x[i - 1]))), 0);
    for (const gives of ['first', 'quietest'] as const) {
      const own = engine([[loud], [soft], [loud]]);
      own.handle({ type: 'strikes', limit: 2, gives });
      const region = { start: 0, end: RATE };
      for (const id of [1, 2]) own.handle({ type: 'strike', key: id, clips: struck({ material: id, region }) });
      const before = play(own, 4000)[0];
      own.handle({ type: 'strike', key: 3, clips: struck({ material: 3, region }) });
      const after = play(own, 4000)[0];
      expect(own.status().keys).toEqual(gives === 'first' ? [2, 3] : [1, 3]);
      // One sine more, and one that falls within 5 ms.
      expect(least(after)).toBeLessThan(2.2 * least(before));
    }
  });

  test('a key that goes up ends its stroke softly or lets it play on; silence ends all', () => {
    const own = engine([[sine(200, RATE, RATE, 0.5)]]);
    const region = { start: 0, end: RATE };
    const strike = (key: number) => own.handle({ type: 'strike', key, clips: struck({ region }) });
    strike(1);
    play(own, 2048);
    own.handle({ type: 'strike off', key: 1, lasts: true });
    play(own, 9600);
    expect(own.status().keys).toEqual([1]);
    own.handle({ type: 'strikes off' });
    play(own, 2048);
    expect(Math.max(...play(own, 512)[0].map(Math.abs))).toBe(0);
    strike(2);
    play(own, 2048);
    own.handle({ type: 'strike off', key: 2, lasts: false });
    const fallen = play(own, 9600)[0];
    expect(Math.abs(fallen[1000])).toBeGreaterThan(0.001);
    expect(Math.max(...fallen.subarray(4000).map(Math.abs))).toBe(0);
  });

  test('a stroke whose audio is on its way begins when it is there, whole; one that comes too late does not', () => {
    const own = new Engine(RATE);
    own.handle({ type: 'build', changes: [{ do: 'line', line: line(1) }] });
    own.handle({ type: 'strike', key: 1, clips: struck() });
    expect(firstAbove(play(own, 4096)[0], 0)).toBe(-1);
    give(own, 1, [clicks(2000, [0, 1500])]);
    const [made] = play(own, 2048);
    expect([made[0] > 0.8, made[1500] > 0.8]).toEqual([true, true]);
    own.handle({ type: 'strike', key: 2, clips: struck({ material: 9 }) });
    play(own, RATE);
    give(own, 9, [clicks(2000, [0])]);
    expect(firstAbove(play(own, 4096)[0], 0)).toBe(-1);
  });

  test('a build in place of another is silent at once, and strokes on lines that are gone are nothing', () => {
    const own = engine([[sine(200, RATE, RATE, 0.5)]]);
    own.handle({ type: 'strike', key: 1, clips: struck({ region: { start: 0, end: RATE } }) });
    play(own, 1024);
    own.handle({ type: 'build', changes: [{ do: 'line', line: line(2) }], anew: true });
    own.handle({ type: 'strike', key: 2, clips: struck() });
    expect(Math.max(...play(own, 2048)[0].map(Math.abs))).toBe(0);
  });
});
