import {
  allStruck,
  anchorOf,
  buildOfCues,
  intoScene,
  LayerDealer,
  layerOf,
  layersOf,
  layersOn,
  newBuild,
  plainlyPlayed,
  playedLines,
  rolledStroke,
  rowsFor,
  soundsByKey,
  spanOfLayers,
  strokeOf,
  type Layer,
  type PassStroke,
  type Played,
} from '@core/build';
import { toDb } from '@core/audio';
import type { Note } from '@core/engine';
import { changeOf, nameOf, type Change, type Sound, additionOf, removalOf } from '@core/library';
import {
  effectsOf,
  takeOf,
  timecodeAt,
  type Cue,
  type LayerStruck,
  type PlayedBy,
  type Scene,
  type SceneState,
} from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useInstrument } from './instrument';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useOutput } from './output';
import { useScene } from './scene';
import { freeName, openScene } from './scenes';
import { useTransport } from './transport';
import { catalogue } from './workers';

/** The least that a build goes round, and what it rings on for at most where it does not. Samples */
const [ROUND, RINGS] = [RATE / 4, 2 * RATE];

/** Builds: sounds made of others that lie on one anchor, and are played by keys. */
export const useBuilds = defineStore('builds', () => {
  const scene = useScene();
  const library = useLibrary();
  const intake = useIntake();
  const transport = useTransport();
  const instrument = useInstrument();
  const { player } = useOutput();

  /** The build as it is seen and heard: with what a hand has not let go of yet, where one works on it. */
  const state = computed<SceneState>(() =>
    scene.work === 'build'
      ? {
          tracks: scene.lines,
          effects: scene.effects,
          cues: scene.heard,
          markers: [],
          main: scene.main,
          movers: scene.movers,
        }
      : scene.stateOf(scene.build),
  );
  const layers = computed(() => layersOf(state.value.tracks, state.value.cues));
  /** From where to where it is heard. Samples from the anchor on */
  const span = computed(() => (scene.build ? spanOfLayers(layers.value, scene.build) : { start: 0, end: 0 }));

  // Going in and out: the scene that one comes from stays as it was.
  let left: number | undefined;
  function enter(): void {
    if (transport.playing) transport.stop();
    left ??= transport.position;
    scene.work = 'build';
  }
  function leave(): void {
    if (transport.playing) transport.stop();
    scene.cueId = undefined;
    scene.work = 'scene';
    transport.run(false, left ?? 0, scene.current?.loop ?? null);
    left = undefined;
  }

  async function create(name = 'Untitled build'): Promise<Scene> {
    const [id] = await catalogue.newIds('scenes', 1);
    const made = newBuild(id, freeName(name, 'builds'), RATE);
    await library.edit(`Make the build ${made.name}`, [additionOf('scenes', made)]);
    await scene.load();
    scene.buildId = id;
    if (scene.work === 'build') await openScene(id);
    return made;
  }

  const scopeOf = (build: Scene) => `scene ${build.id}`;
  const keep = async (build: Scene, label: string, changes: readonly (Change | undefined)[]): Promise<boolean> => {
    if (scene.current?.id === build.id && scene.isHeld()) return false;
    if (!(await library.edit(label, [...changes], true, undefined, scopeOf(build)))) return false;
    await scene.load();
    return true;
  };

  /** Adds sounds to the build as layers, each with its anchor on that of all; from any stage. Where there is no build yet, one is made. */
  const add = (chosen: readonly Sound[]): Promise<void> => (adding = adding.then(() => addNow(chosen)));
  /** In turn: a key pressed twice makes one build, and layers one behind another. */
  let adding: Promise<void> = Promise.resolve();
  async function addNow(chosen: readonly Sound[]): Promise<void> {
    const own = chosen.filter((s) => !library.loose.has(s.rootId));
    if (own.length < chosen.length) tell.error('Sounds that are not in the library cannot be layers: add them first');
    if (own.length === 0) return;
    const sounds = await intake.ensureMeasured(own);
    const build = scene.build ?? (await create(sounds.length === 1 ? nameOf(sounds[0]) : undefined));
    const [tracks, cues] = await Promise.all([
      catalogue.newIds('tracks', sounds.length),
      catalogue.newIds('cues', sounds.length),
    ]);
    const order = Math.max(-1, ...scene.stateOf(build).tracks.map((t) => t.order)) + 1;
    const changes = sounds.flatMap((s, i) => layerOf(build, s, { track: tracks[i], cue: cues[i] }, order + i));
    const what = sounds.length === 1 ? nameOf(sounds[0]) : things(sounds.length, 'sound');
    if (!(await keep(build, `Add ${what} to ${build.name}`, changes))) return;
    if (scene.work === 'build') scene.select(cues.at(-1));
    else tell.done(`${what} ${sounds.length === 1 ? 'is a layer' : 'are layers'} of ${build.name}`);
  }

  /** Makes a build of cues of the scene, and works on it from then on. */
  async function ofCues(cues: readonly Cue[]): Promise<boolean> {
    if (cues.length === 0) return false;
    const [[id], trackIds, cueIds] = await Promise.all([
      catalogue.newIds('scenes', 1),
      catalogue.newIds('tracks', cues.length),
      catalogue.newIds('cues', cues.length),
    ]);
    const more = cues.length > 1 ? ` and ${cues.length - 1} more` : '';
    const name = freeName(`${cues[0].name}${more}`, 'builds');
    const changes = buildOfCues(id, name, cues, { tracks: trackIds, cues: cueIds }, RATE);
    if (!(await library.edit(`Make the build ${name}`, changes))) return false;
    await scene.load();
    scene.buildId = id;
    return true;
  }

  /** Adds sounds to a layer, of which each stroke takes another one. */
  async function addTo({ track, cues: [first] }: Layer, chosen: readonly Sound[]): Promise<void> {
    const sounds = await intake.ensureMeasured([...chosen]);
    const ids = await catalogue.newIds('cues', sounds.length);
    const made = sounds.map((s, i): Cue => ({ ...first, tried: undefined, ...takeOf(s), id: ids[i], mute: true }));
    const changes = made.map((c): Change => {
      const kept = Object.fromEntries(Object.entries(c).filter(([, v]) => v !== undefined));
      return { table: 'cues', id: c.id, after: kept };
    });
    await scene.edit(`Add ${things(sounds.length, 'sound')} to ${track.name}`, changes);
  }
  /** Has another sound of a layer be the one that is heard where nobody strikes. */
  async function hearFirst({ cues }: Layer, first: Cue): Promise<void> {
    await scene.edit(
      `Hear ${first.name}`,
      cues.map((c) => changeOf('cues', c, { mute: c.id !== first.id })),
    );
    scene.select(first.id);
  }
  async function takeOut({ track }: Layer, cue: Cue): Promise<void> {
    await scene.edit(`Take ${cue.name} out of ${track.name}`, [removalOf('cues', cue)]);
  }

  /** Makes a layer once more, with its effects, below itself. */
  async function duplicate({ track, cues }: Layer): Promise<void> {
    const build = scene.current;
    if (!build) return;
    const own = effectsOf(track.id, scene.state.effects ?? []);
    const [[trackId], cueIds, effectIds] = await Promise.all([
      catalogue.newIds('tracks', 1),
      catalogue.newIds('cues', cues.length),
      catalogue.newIds('effects', own.length),
    ]);
    const behind = scene.state.tracks.filter((t) => t.order > track.order);
    const done = await scene.edit(`Duplicate ${track.name}`, [
      additionOf('tracks', { ...track, id: trackId, order: track.order + 1 }),
      ...behind.map((t) => changeOf('tracks', t, { order: t.order + 1 })),
      ...cues.map((c, i) => additionOf('cues', { ...c, id: cueIds[i], trackId })),
      ...own.map((e, i) => additionOf('effects', { ...e, id: effectIds[i], lineId: trackId })),
    ]);
    if (done) scene.select(cueIds[0]);
  }

  /** Has the anchor of a layer lie so much beside that of the build. @param ms later, or earlier where negative */
  async function offset({ cues }: Layer, ms: number): Promise<void> {
    const build = scene.current;
    if (!build) return;
    const at = anchorOf(build) + Math.round((ms / 1000) * RATE);
    await scene.edit(
      `Move ${cues[0].name}`,
      cues.map((c) => changeOf('cues', c, { at })),
    );
  }

  /** One thing of how keys play a layer; as they play the whole where it is undefined. */
  async function setStruck<K extends keyof LayerStruck>(
    { track }: Layer,
    key: K,
    value: LayerStruck[K],
  ): Promise<void> {
    await scene.edit(`How keys play ${track.name}`, [changeOf('tracks', track, { [`struck.${key}`]: value })]);
  }

  // Hearing it
  const looping = useLocalStorage('build-loop', false);
  /** What it goes round, or is run through once. */
  const round = computed(() => {
    const from = Math.max(0, anchorOf(scene.build ?? {}) + span.value.start);
    return { start: from, end: Math.max(from + ROUND, anchorOf(scene.build ?? {}) + span.value.end) };
  });
  function toggle(): void {
    scene.use();
    if (transport.playing) transport.stop();
    else if (layers.value.length > 0) transport.run(true, round.value.start, looping.value ? round.value : null, 1);
  }
  watch([looping, round], ([loops, now], [looped, before]) => {
    if (scene.work !== 'build' || !transport.playing) return;
    if (loops !== looped || (loops && (now.start !== before.start || now.end !== before.end)))
      transport.goRound(loops ? now : null);
  });
  watch(
    () => transport.position,
    (at) => {
      if (scene.work === 'build' && transport.playing && !looping.value && at > round.value.end + RINGS)
        transport.stop();
    },
  );

  // Playing it
  const played = computed<PlayedBy>(() => scene.build?.build?.played ?? plainlyPlayed);
  const setPlayed = (after: Partial<PlayedBy>) =>
    scene.build &&
    keep(scene.build, `How ${scene.build.name} is played`, [
      changeOf('scenes', scene.build, { 'build.played': { ...played.value, ...after } }),
    ]);
  const dealer = new LayerDealer();
  /** Whether keys play the build rather than the sound that was chosen last. */
  const isPlayed = ref(false);
  /** Told of each stroke, of keys that go up, and of what hands turn, while somebody records them. */
  const recorder = shallowRef<{
    struck: (stroke: Omit<PassStroke, 'at' | 'lifted'>) => void;
    lifted: (key: number) => void;
    turned: (mover: number, share: number) => void;
  }>();
  /** How hard, and at which pitch, each key that is down was struck: what it leaves behind as it goes up sounds alike. */
  const down = new Map<number, { note: Note; velocity: number }>();
  let struck = 0;
  function strike(key: number, { ratio, gain }: Note, velocity: number, on: 'down' | 'up'): void {
    const bySound = played.value.keys === 'sounds';
    const note = { ratio: bySound ? 1 : ratio, gain: toDb(gain) };
    const deals = bySound ? soundsByKey(key) : dealer;
    const plain = strokeOf(layersOn(layers.value, on), state.value.effects ?? [], deals, note, RATE);
    const clips = rolledStroke(plain, scene.build?.ranges ?? [], Math.random, RATE);
    if (clips.length === 0) return;
    const stroke = { key, id: ++struck, clips, velocity, ...(on === 'up' ? { rings: true } : {}) };
    player.strike(stroke);
    recorder.value?.struck(stroke);
  }
  function press(key: number, note: Note, velocity: number): void {
    down.set(key, { note, velocity });
    strike(key, note, velocity, 'down');
  }
  function lift(key: number): void {
    player.unstrike(key, played.value.keyUp === 'plays on');
    recorder.value?.lifted(key);
    const of = down.get(key);
    if (down.delete(key) && of) strike(key, of.note, of.velocity, 'up');
  }
  watch(
    () => isPlayed.value && scene.build?.name,
    (now) => {
      instrument.other = now
        ? {
            name: now,
            press,
            lift,
            silence() {
              down.clear();
              player.unstrikeAll();
            },
          }
        : undefined;
    },
    { immediate: true },
  );
  // Somebody wants the current sound again, on whatever stage.
  watch(
    () => instrument.other,
    (other) => other || (isPlayed.value = false),
  );
  watch(
    () => [played.value.voices, played.value.gives] as const,
    ([voices, gives]) => player.setStrikes(voices, gives),
    { immediate: true },
  );
  let handed = 0;
  watch(
    () => isPlayed.value && state.value,
    async (now) => {
      const turn = ++handed;
      if (!now) return;
      const items = await scene.itemsOf(now.cues);
      if (turn !== handed) return;
      await player.setBuild(
        {
          lines: playedLines(now.tracks, now.effects ?? [], now.main),
          clips: allStruck(layers.value),
          movers: now.movers,
        },
        items,
      );
    },
    { immediate: true },
  );

  /** Lays the build into the scene as what it is, or as it was played; its anchor on the playhead there. */
  async function toScene(as?: Played): Promise<boolean> {
    const [build, into] = [scene.build, scene.spotted];
    if (!build) return false;
    if (!into) {
      tell.info('There is no scene yet: make one in Spot');
      return false;
    }
    const own = as ?? scene.stateOf(build);
    const count = rowsFor(own);
    const [tracks, cues, effects] = await Promise.all([
      catalogue.newIds('tracks', count.tracks),
      catalogue.newIds('cues', count.cues),
      catalogue.newIds('effects', count.effects),
    ]);
    const at = left ?? 0;
    const order = Math.max(-1, ...scene.stateOf(into).tracks.map((t) => t.order)) + 1;
    const changes = intoScene(build, own, into, at, order, { tracks, cues, effects });
    if (!(await library.edit(`Lay ${build.name} into ${into.name}`, changes, true, undefined, scopeOf(into))))
      return false;
    await scene.load();
    const frame = Math.floor((at / into.sampleRate) * (scene.rate.num / scene.rate.den));
    tell.done(
      `${build.name} is at ${timecodeAt(into, frame)} in ${into.name}, ${as ? 'as it was played' : 'layer by layer'}`,
    );
    return true;
  }

  return {
    ...{
      state,
      layers,
      span,
      round,
      enter,
      leave,
      create,
      add,
      ofCues,
      addTo,
      hearFirst,
      takeOut,
      duplicate,
      offset,
      setStruck,
    },
    ...{ looping, toggle, played, setPlayed, isPlayed, recorder, toScene },
  };
});
