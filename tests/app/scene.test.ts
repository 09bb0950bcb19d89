import 'fake-indexeddb/auto';
import type { Cue, Scene, Track } from '@core/scene';
import { Catalogue } from '@platform/catalogue/catalogue';
import fc from 'fast-check';
import { createPinia, disposePinia, setActivePinia, type Pinia } from 'pinia';
import { emptyStore, likeABrowser } from '../helpers/browser';
import { soundOf } from '../helpers/catalogue';

// Scenes over a real catalogue, as keys and hands change them; only the output and intake are stand-ins.

const told: string[] = [];
jest.mock('@app/shell/notice', () => {
  const say = (text: string) => void told.push(text);
  return { tell: { info: say, done: say, error: say } };
});
const transport = { position: 0, playing: false, speed: 1 };
const run = (playing: boolean, position = transport.position) => void Object.assign(transport, { playing, position });
jest.mock('@app/stores/audition', () => ({ useAudition: () => ({ forScene: 0 }) }));
jest.mock('@app/stores/transport', () => ({
  useTransport: () =>
    Object.assign(transport, {
      run,
      stop: () => run(false),
      seek: (to: number) => run(transport.playing, to),
      goRound: () => undefined,
      send: () => Promise.resolve(),
    }),
}));
const watched: unknown[] = [];
jest.mock('@app/stores/output', () => ({
  useOutput: () => ({ onStatus: () => undefined, player: { meters: (...of: unknown[]) => void watched.push(of) } }),
}));
jest.mock('@app/stores/intake', () => ({
  useIntake: () => ({ ensureMeasured: (list: unknown[]) => Promise.resolve(list) }),
}));

const RATE = 48_000;
function storage() {
  const kept = new Map<string, string>();
  return {
    getItem: (key: string) => kept.get(key) ?? null,
    setItem: (key: string, value: string) => void kept.set(key, value),
    removeItem: (key: string) => void kept.delete(key),
  };
}
let catalogue: Catalogue;
let pinia: Pinia;
/** Ends a page: what it still had to write is written. */
async function leave(): Promise<void> {
  await new Promise((done) => setImmediate(done));
  disposePinia(pinia);
  catalogue.close();
}
beforeAll(() => {
  likeABrowser();
  Object.assign(globalThis, { sessionStorage: storage(), localStorage: storage() });
});
afterEach(() => leave());

/** Ten steps of rising force in one category. */
const sounds = Array.from({ length: 10 }, (_, i) =>
  soundOf(i + 1, { fxName: `Step ${i}`, catId: 'FEETMisc', force: i * 10 }, 12_000),
);
const tracks: Track[] = ['Deck', 'Air'].map((name, order) => ({
  id: order + 1,
  sceneId: 1,
  order,
  name,
  gain: 0,
  mute: false,
  solo: false,
}));
const cues: Cue[] = Array.from({ length: 6 }, (_, i) => ({
  ...{
    id: i + 1,
    sceneId: 1,
    trackId: 1 + (i % 2),
    soundId: i + 1,
    name: `Step ${i}`,
    at: 10_000 + i * 9000,
    anchor: 100,
  },
  ...{ start: 0, end: 12_000, rate: RATE, gain: 0, mute: false, fadeIn: 0, fadeOut: 0 },
}));
const scene: Scene = { id: 1, name: 'Ferry', fps: '24', startFrame: 86_400, sampleRate: RATE, length: RATE * 10 };

async function desk() {
  emptyStore();
  Object.assign(globalThis, { sessionStorage: storage(), localStorage: storage() });
  run(false, 0);
  told.length = 0;
  const { handWorkers } = await import('@app/stores/workers');
  catalogue = new Catalogue();
  handWorkers(catalogue as never);
  pinia = createPinia();
  setActivePinia(pinia);
  const library = (await import('@app/stores/library')).useLibrary();
  await library.open();
  const made = (table: 'sounds' | 'scenes' | 'tracks' | 'cues', row: { id: number }) => ({
    table,
    id: row.id,
    after: { ...row },
  });
  const rows = [
    ...sounds.map((s) => made('sounds', s)),
    made('scenes', scene),
    ...tracks.map((t) => made('tracks', t)),
    ...cues.map((c) => made('cues', c)),
  ];
  await library.edit('Make', rows, false);
  // What is made from now on has ids that these have not.
  for (const table of ['scenes', 'tracks', 'cues'] as const) await catalogue.newIds(table, 20);
  const store = (await import('@app/stores/scene')).useScene();
  await store.open();
  await library.undoIn(store.scope);
  return {
    library,
    scene: store,
    hands: (await import('@app/stores/hands')).useHands(),
    trials: (await import('@app/stores/trials')).useTrials(),
    placing: (await import('@app/stores/placing')).usePlacing(),
    versions: await import('@app/stores/versions'),
    markers: await import('@app/stores/markers'),
    tracks: await import('@app/stores/tracks'),
    scenes: await import('@app/stores/scenes'),
    mix: (await import('@app/stores/mix')).useMix(),
  };
}
type Desk = Awaited<ReturnType<typeof desk>>;

const tables = ['scenes', 'tracks', 'effects', 'cues', 'markers', 'versions'] as const;
const all = async () =>
  JSON.stringify(
    await Promise.all(
      tables.map(async (t) => ((await catalogue.all(t)) as { id: number }[]).sort((a, b) => a.id - b.id)),
    ),
  );
/** Where undo stands: what it would take back. */
const pool = () => Promise.resolve(sounds);

/** What a hand may do, each as one step or none. */
const acts: Record<string, (d: Desk, n: number) => Promise<unknown> | unknown> = {
  move: ({ hands }, n) => hands.move(n * 400 - 2000),
  gain: ({ hands }, n) => hands.gain(n % 2 ? 1 : -1.5),
  mute: ({ hands }) => hands.mute(),
  trim: ({ hands }, n) => hands.trim(n % 2 ? 'start' : 'end', 9000 + n * 4000),
  fade: ({ hands }, n) => hands.fade('fadeIn', n / 100),
  cut: ({ hands }) => hands.cut(),
  duplicate: ({ hands }) => hands.duplicate(),
  crossFade: ({ hands }) => hands.crossFade(),
  remove: ({ hands }) => hands.remove(),
  lock: ({ hands }) => hands.lock(),
  'end at the next hit': ({ placing }) => placing.endAtNext(),
  marker: ({ markers }) => markers.addMarker(),
  version: ({ versions }) => versions.keepVersion(versions.nextName()),
  return: async ({ scene: s, versions }, n) =>
    s.versions.length > 0 && versions.returnTo(s.versions[n % s.versions.length]),
  'gain of a track': ({ scene: s, tracks: t }, n) => t.setTracks(s.tracks[n % 2], 'Gain', { gain: -n }),
  'order of tracks': ({ scene: s, tracks: t }) => t.orderTracks([...s.tracks].reverse()),
  bus: ({ mix }) => mix.addBus(),
  effect: ({ mix, scene: s }, n) => {
    const lines = [0, ...s.lines.map((t) => t.id)];
    const bus = s.lines.find((t) => t.bus && t.id !== lines[n % lines.length]);
    const kind = ['equaliser', 'limiter', 'send'][n % 3];
    return mix.add(lines[n % lines.length], kind, kind === 'send' ? bus?.id : undefined);
  },
  'change of an effect': async ({ mix, scene: s }, n) => {
    const one = s.effects[n % Math.max(1, s.effects.length)];
    if (!one) return;
    if (n % 4 === 0) await mix.flip(one);
    else if (n % 4 === 1) await mix.move(one, n % 8 === 1 ? 1 : -1);
    else if (n % 4 === 2) await mix.preset(one, 'Broadcast');
    else await mix.remove(one);
  },
  flow: ({ mix, scene: s }, n) => mix.flowInto(s.lines[n % s.lines.length], s.lines.find((t) => t.bus)?.id),
  'removal of a line': ({ tracks: t, scene: s }, n) => s.lines.length > 2 && t.removeTrack(s.lines[n % s.lines.length]),
  level: ({ tracks: t }, n) => t.levelMix(n - 4, 'Bring the mix to it'),
  place: ({ placing }, n) => placing.place([sounds[n % 10], sounds[(n + 3) % 10]]),
  exchange: async ({ trials }, n) => {
    await trials.dealOut(n % 2 ? { by: 1 } : { force: 'harder' }, pool);
    await trials.keep();
  },
};

test('whatever is done to a scene by keys and hands, undo leads back to every state that was, and redo on again', async () => {
  await fc.assert(
    fc.asyncProperty(
      fc.array(
        fc.record({
          act: fc.constantFrom(...Object.keys(acts)),
          n: fc.nat(9),
          select: fc.uniqueArray(fc.nat(5), { maxLength: 4 }),
        }),
        { minLength: 1, maxLength: 8 },
      ),
      async (script) => {
        const d = await desk();
        try {
          const states = [await all()];
          for (const { act, n, select } of script) {
            transport.position = n * 6000;
            const there = d.scene.cues;
            await d.hands.select(select.flatMap((i) => there[i % Math.max(1, there.length)]?.id ?? []));
            await acts[act](d, n);
            await d.scene.load();
            const now = await all();
            if (now !== states[states.length - 1]) states.push(now);
          }
          for (let i = states.length - 2; i >= 0; i--) {
            await d.library.undo();
            expect(await all()).toBe(states[i]);
          }
          for (let i = 1; i < states.length; i++) {
            await d.library.redo();
            expect(await all()).toBe(states[i]);
          }
        } finally {
          await leave();
        }
      },
    ),
    { numRuns: 25 },
  );
});

test('other sounds are only heard until they are kept: dropped, the cue is what it was and remembers them', async () => {
  const d = await desk();
  await d.hands.select([1, 2, 3]);
  await d.trials.dealOut({ by: 1 }, pool);
  expect(d.scene.trial.size).toBe(3);
  const heard = d.scene.heard.filter((c) => c.id <= 3);
  expect(heard.map((c) => c.at)).toEqual(cues.slice(0, 3).map((c) => c.at));
  expect(new Set(heard.map((c) => c.soundId)).size).toBe(3);
  d.trials.drop();
  expect(d.scene.heard.map((c) => c.soundId)).toEqual(cues.map((c) => c.soundId));
  const remembered = async () => ((await catalogue.all('cues')) as Cue[]).filter((c) => c.tried?.length === 1).length;
  while ((await remembered()) < 3) await new Promise((done) => setImmediate(done));
  await d.library.undo();
  expect(told.at(-1)).toBe('There is nothing to take back');
});

test('a locked cue, and one on a locked track, is neither exchanged nor moved, and that is said', async () => {
  const d = await desk();
  await d.library.edit(
    'Lock',
    [{ table: 'tracks', id: 2, before: {}, after: { locked: true } }],
    true,
    undefined,
    d.scene.scope,
  );
  await d.scene.load();
  await d.hands.select([2]);
  await d.hands.move(4000);
  await d.trials.dealOut({ by: 1 }, pool);
  expect(told).toEqual(['What is selected is locked', 'What is selected is locked']);
  expect(d.scene.cues.find((c) => c.id === 2)).toEqual(cues[1]);
});

test('while a version is heard, it is what is seen and played, and nothing is changed', async () => {
  const d = await desk();
  await d.versions.keepVersion('First');
  await d.hands.select([1]);
  await d.hands.move(4000);
  const [first] = d.scene.versions;
  d.versions.compare(first);
  expect(d.scene.heard.find((c) => c.id === 1)!.at).toBe(10_000);
  const before = await all();
  await d.hands.select([1]);
  await d.hands.move(4000);
  await d.markers.addMarker();
  await d.placing.place([sounds[0]]);
  expect(await all()).toBe(before);
  expect(told.at(-1)).toMatch(/^You are hearing First/);
  d.versions.compare(undefined);
  expect(d.scene.heard.find((c) => c.id === 1)!.at).toBe(14_000);
});

test('a scene is copied and removed with all that it has, what only a version still has among it, and comes back whole', async () => {
  const d = await desk();
  await d.markers.addMarker();
  await d.versions.keepVersion('First');
  await d.hands.select([1, 2]);
  await d.hands.remove();
  const before = await all();
  const [of] = d.scene.scenes;
  await d.scenes.copyScene(of);
  const rows = async (table: 'tracks' | 'cues' | 'markers' | 'versions', sceneId: number) =>
    ((await catalogue.all(table)) as { id: number; sceneId: number }[]).filter((r) => r.sceneId === sceneId);
  const copy = d.scene.current!;
  expect(copy.id).not.toBe(of.id);
  for (const table of ['tracks', 'cues', 'markers', 'versions'] as const) {
    const [old, fresh] = [await rows(table, of.id), await rows(table, copy.id)];
    expect([table, fresh.length]).toEqual([table, old.length]);
    for (const { id } of fresh) expect(old.map((r) => r.id)).not.toContain(id);
  }
  // The version of the copy leads back to its own cues, tracks and markers, and to none of the first scene's.
  const first = JSON.stringify(await Promise.all((['tracks', 'cues', 'markers'] as const).map((t) => rows(t, of.id))));
  await d.versions.returnTo(d.scene.versions[0]);
  expect(await rows('cues', copy.id)).toHaveLength(cues.length);
  expect(JSON.stringify(await Promise.all((['tracks', 'cues', 'markers'] as const).map((t) => rows(t, of.id))))).toBe(
    first,
  );
  await d.library.undoIn(d.scene.scope);
  await d.library.undo();
  await d.library.undoIn('library');
  const whole = await all();
  await d.scenes.removeScene(d.scene.current!);
  expect(await all()).toBe(before);
  await d.library.undo();
  expect(await all()).toBe(whole);
});

test('what lies over one scene is gone in another: a version that is heard, sounds that are tried, hands', async () => {
  const d = await desk();
  await d.versions.keepVersion('First');
  d.versions.compare(d.scene.versions[0]);
  d.scene.pending = [{ ...cues[0], id: 99 }];
  await d.scenes.newScene();
  expect([d.scene.comparing, d.scene.heard, d.scene.tracks.length]).toEqual([undefined, [], 3]);
  await d.scenes.openScene(1);
  d.versions.compare(d.scene.versions[0]);
  // One that undo takes away is heard no longer.
  await d.library.undoIn('scene 1');
  await d.library.undo();
  await d.scene.load();
  expect([d.scene.versions, d.scene.comparing]).toEqual([[], undefined]);
});

test('values that a hand turns quickly are heard at once and are one step; what else is done in between comes after', async () => {
  const d = await desk();
  await d.mix.add(1, 'compressor');
  const [one] = d.scene.effects;
  expect(d.mix.chosen).toMatchObject({ kind: 'compressor', lineId: 1, values: {} });
  d.mix.watching = true;
  await new Promise((done) => setImmediate(done));
  expect(watched[watched.length - 1]).toEqual([true, one.id]);
  d.mix.turn(one, 'ratio', 4);
  d.mix.turn(d.scene.effects[0], 'threshold', -30);
  d.mix.turn(d.scene.effects[0], 'ratio', 6);
  expect(d.scene.effects[0].values).toEqual({ ratio: 6, threshold: -30 });
  expect(((await catalogue.all('effects')) as { values: object }[])[0].values).toEqual({});
  // Hearing it without does not wait for the hand to rest.
  await d.mix.flip(d.scene.effects[0]);
  const kept = async () => ((await catalogue.all('effects')) as { values: object; on: boolean }[])[0];
  expect(await kept()).toMatchObject({ on: false, values: { ratio: 6, threshold: -30 } });
  await d.library.undo();
  expect(await kept()).toMatchObject({ on: true, values: { ratio: 6, threshold: -30 } });
  await d.library.undo();
  expect(await kept()).toMatchObject({ on: true, values: {} });
  d.mix.watching = false;
  // A place is drawn by hand, and with it the gain: one step of the track.
  d.tracks.turnTrack(d.scene.lines[0], { place: 0.3 });
  d.tracks.turnTrack(d.scene.lines[0], { place: 0.5 });
  expect(d.scene.lines[0].place).toBe(0.5);
  while (d.scene.trackDraft.size > 0) await new Promise((done) => setTimeout(done, 20));
  expect(d.scene.lines[0].place).toBe(0.5);
  await d.library.undo();
  await d.scene.load();
  expect(d.scene.lines[0].place).toBeUndefined();
});
