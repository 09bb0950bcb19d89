import { additionOf, removalOf } from '@core/library';
import { isBuild } from '@core/build';
import type { Mover } from '@core/effects';
import { FASTEST } from '@core/engine';
import type { Change, Patch, Sound, TableName } from '@core/library';
import { changeOf, nameOf } from '@core/library';
import type { Cue, LineEffect, MainLine, Marker, PictureRef, Scene, SceneState, Track, Version } from '@core/scene';
import {
  frameRate,
  frameToSample,
  fromTimecode,
  inOrder,
  movingOf,
  placeCue,
  planOf,
  sampleToFrame,
  takeOf,
  timecodeAt,
} from '@core/scene';
import { RATE, type Changed, type Loadable } from '@platform/index';
import { useLocalStorage, useThrottleFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch, type ShallowRef } from 'vue';
import { tell } from '../shell/notice';
import { useAudition } from './audition';
import { useTransport } from './transport';
import { withGuide } from './guide';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { catalogue } from './workers';

/** Times real time that a scene is run through at the least. */
const SLOWEST = 0.125;

/** More changed rows than this are read with all the others. */
const MANY = 2000;
/** Tables whose rows make up scenes. */
const sceneTables = ['scenes', 'tracks', 'effects', 'cues', 'markers', 'versions'] as const;

/** The scene: its tracks and cues, the playhead, and what the engine plays of it. */
export const useScene = defineStore('scene', () => {
  const library = useLibrary();
  const audition = useAudition();
  const transport = useTransport();
  const intake = useIntake();
  /** Scenes and builds. */
  const all = shallowRef<Scene[]>([]);
  const scenes = computed(() => all.value.filter((s) => !isBuild(s)));
  const builds = computed(() => all.value.filter(isBuild));
  /** Which of them is worked on: what is seen, heard and changed is that one. */
  const work = ref<'scene' | 'build'>('scene');
  const allTracks = shallowRef<Track[]>([]);
  const allEffects = shallowRef<LineEffect[]>([]);
  const cues = shallowRef<Cue[]>([]);
  const currentId = useLocalStorage('scene', 0);
  const buildId = useLocalStorage('build', 0);
  const trackId = useLocalStorage('track', 0);
  const cueId = ref<number>();
  const allMarkers = shallowRef<Marker[]>([]);
  const allVersions = shallowRef<Version[]>([]);
  /** Other sounds that are being tried in the places of cues, by cue, not kept yet. */
  const trial = shallowRef<ReadonlyMap<number, Sound>>(new Map());
  /** Cues that are being tried where there are none yet. */
  const pending = shallowRef<readonly Cue[]>([]);
  /** The version that is seen and heard instead of the scene as it is. */
  const comparingId = ref<number>();
  /** Where the cuts of its picture are, and all its events: what is placed is drawn to them. Samples */
  const cutMarks = shallowRef<readonly number[]>([]);
  const eventMarks = shallowRef<readonly number[]>([]);
  const opened = ref(false);

  const build = computed(() => builds.value.find((s) => s.id === buildId.value) ?? builds.value[0]);
  const spotted = computed(() => scenes.value.find((s) => s.id === currentId.value) ?? scenes.value[0]);
  const current = computed(() => (work.value === 'build' ? build.value : spotted.value));
  const rate = computed(() => frameRate(current.value?.fps ?? '24'));
  /** A scene or a build as it is kept. */
  function stateOf(of: Scene | undefined): SceneState {
    const own = <T extends { sceneId: number }>(rows: readonly T[]): T[] => rows.filter((r) => r.sceneId === of?.id);
    return {
      ...{
        tracks: own(allTracks.value),
        effects: own(allEffects.value),
        main: of?.main,
        movers: of?.movers,
        ranges: of?.ranges,
      },
      ...{ cues: own(cues.value), markers: own(allMarkers.value), loop: of?.loop },
    };
  }
  /** The scene as it is, whatever is seen and heard of it. */
  const state = computed(() => stateOf(current.value));
  const versions = computed(() =>
    allVersions.value.filter((v) => v.sceneId === current.value?.id).sort((a, b) => b.at - a.at),
  );
  /** One that is gone, or of another scene, is heard no longer. */
  const comparing = computed(() => versions.value.find((v) => v.id === comparingId.value));
  const shown = computed<SceneState>(() => comparing.value ?? state.value);
  /** Tracks, effects and the main line as a hand that has not let go yet would have them. */
  const trackDraft = shallowRef<ReadonlyMap<number, Track>>(new Map());
  const effectDraft = shallowRef<ReadonlyMap<number, LineEffect>>(new Map());
  const mainDraft = shallowRef<MainLine>();
  /** Tracks and buses. */
  const lines = computed(() => inOrder(shown.value.tracks.map((t) => trackDraft.value.get(t.id) ?? t)));
  const tracks = computed(() => lines.value.filter((t) => !t.bus));
  const effects = computed(() => (shown.value.effects ?? []).map((e) => effectDraft.value.get(e.id) ?? e));
  const main = computed(() => mainDraft.value ?? shown.value.main ?? { gain: 0 });
  const moverDraft = shallowRef<readonly Mover[]>();
  const movers = computed(() => moverDraft.value ?? shown.value.movers ?? []);
  const own = computed(() => shown.value.cues);
  const markers = computed(() => [...shown.value.markers].sort((a, b) => a.at - b.at));
  /** Cues as a hand that has not let go yet would have them: heard and seen, and not kept. Those that are not there yet are copies. */
  const draft = shallowRef<ReadonlyMap<number, Cue>>(new Map());
  /** What was played by hand in rounds before this one, and is not kept yet. */
  const played = shallowRef<readonly Cue[]>([]);
  /** The cues as they are heard now: with what is drafted, and with the sound that is being tried. */
  const heard = computed(() => {
    const [tried, drafted] = [trial.value, draft.value];
    if (tried.size + drafted.size + pending.value.length + played.value.length === 0) return own.value;
    const known = new Set(own.value.map((c) => c.id));
    const all = own.value.map((c) => drafted.get(c.id) ?? c);
    for (const cue of [...drafted.values(), ...pending.value, ...played.value]) if (!known.has(cue.id)) all.push(cue);
    return all.map((c) => (tried.has(c.id) ? { ...c, ...takeOf(tried.get(c.id)!) } : c));
  });
  /** What was just played by hand: seen, and sounding already. */
  const struck = shallowRef<readonly Cue[]>([]);
  const seen = computed(() => (struck.value.length === 0 ? heard.value : [...heard.value, ...struck.value]));
  const cue = computed(() => own.value.find((c) => c.id === cueId.value));
  const track = computed(() => tracks.value.find((t) => t.id === trackId.value) ?? tracks.value[0]);
  const frames = computed(() =>
    current.value ? Math.ceil((current.value.length * rate.value.num) / (rate.value.den * RATE)) : 0,
  );
  const frame = computed(() => sampleToFrame(transport.position, rate.value, RATE));
  /** The playhead as whole frames count. */
  const playheadSample = computed(() => frameToSample(frame.value, rate.value, RATE));
  const timecode = computed(() => (current.value ? timecodeAt(current.value, frame.value) : ''));

  /** What is done in a scene is taken back there, and nowhere else. */
  const scope = computed(() => (current.value ? `scene ${current.value.id}` : 'library'));
  /** A version is looked at and listened to: nothing is changed meanwhile. @returns whether that is so, having said it */
  function isHeld(): boolean {
    if (!comparing.value) return false;
    tell.info(`You are hearing ${comparing.value.name}. Go back to now first, or return to it`);
    return true;
  }
  const edit = async (label: string, changes: (Change | undefined)[]): Promise<boolean> => {
    if (isHeld() || !(await library.edit(label, changes, true, undefined, scope.value))) return false;
    const ids: Partial<Record<TableName, number[]>> = {};
    for (const { table, id } of changes.filter((c) => c !== undefined)) (ids[table] ??= []).push(id);
    await take(Object.keys(ids) as TableName[], ids);
    return true;
  };
  const patch = async (
    label: string,
    table: 'scenes' | 'tracks' | 'effects' | 'cues' | 'markers',
    row: { id: number },
    after: Patch,
  ): Promise<boolean> => {
    if (isHeld() || !(await library.patch(label, table, row, after, true, scope.value))) return false;
    await take([table], { [table]: [row.id] });
    return true;
  };

  const held = {
    scenes: all,
    tracks: allTracks,
    effects: allEffects,
    cues,
    markers: allMarkers,
    versions: allVersions,
  };
  /** One after another: what is asked for later is newer. */
  let taking: Promise<unknown> = Promise.resolve();
  /** Takes over what has changed: rows that have not stay the very same, and nothing that is known of them is worked out anew. */
  function take(tables: readonly TableName[], ids: Changed['ids']): Promise<void> {
    const done = taking.then(() => takeNow(tables, ids));
    taking = done.catch(() => undefined);
    return done;
  }
  async function takeNow(tables: readonly TableName[], ids: Changed['ids']): Promise<void> {
    for (const table of sceneTables) {
      if (!tables.includes(table)) continue;
      const rows = held[table] as ShallowRef<{ id: number }[]>;
      const changed = ids[table];
      if (!changed || changed.length > MANY) {
        rows.value = (await catalogue.all(table)) as { id: number }[];
        continue;
      }
      const fresh = new Map((await catalogue.some(table, changed)).map((r) => [r.id, r]));
      const concerned = new Set(changed);
      const kept = rows.value.flatMap((r) => {
        if (!concerned.has(r.id)) return [r];
        const now = fresh.get(r.id);
        fresh.delete(r.id);
        return now ? [now] : [];
      });
      rows.value = [...kept, ...fresh.values()];
    }
  }
  const load = () => take(sceneTables, {});

  async function open(): Promise<void> {
    await load();
    library.onChange((tables, ids) => void take(tables, ids));
    opened.value = true;
  }

  /** Ids of the sounds that effects are made of. */
  const answering = computed(() => [...new Set(effects.value.flatMap((e) => e.sound?.id ?? []))]);

  /** What cues, and the effects that are made of sounds, have to be loaded for. */
  async function itemsOf(list: readonly Cue[]): Promise<Loadable[]> {
    const ids = [...new Set([...list.map((c) => c.soundId), ...answering.value])];
    return (await library.need(ids)).flatMap((s) => library.loadable(s) ?? []);
  }

  /** The picture's own sound. */
  const guide = shallowRef<Loadable>();

  // At most so often while a hand moves; what it comes to last is always sent.
  const sendMix = useThrottleFn(
    async () => {
      if (!current.value) return;
      const moving = movingOf({ ...current.value, movers: movers.value }, heard.value);
      const mix = planOf(lines.value, heard.value, effects.value, main.value, moving);
      const plan = withGuide(mix, current.value, lines.value, guide.value);
      await transport.send(plan, [...(await itemsOf(heard.value)), ...(guide.value ? [guide.value] : [])]);
    },
    20,
    true,
  );
  let used = false;
  watch([current, lines, effects, main, movers, heard, guide], () => used && void sendMix());
  watch(current, (scene) => (audition.forScene = scene?.id), { immediate: true });
  // What was laid over one scene has no place in another.
  watch(
    () => current.value?.id,
    () => {
      comparingId.value = undefined;
      pending.value = [];
      trial.value = new Map();
      draft.value = new Map();
      trackDraft.value = new Map();
    },
    { flush: 'sync' },
  );

  /** Loads the scene's sounds into the engine; until a scene is looked at this is not done. */
  function use(): void {
    used = true;
    void sendMix();
  }

  /** Tracks of a scene that is being made. */
  async function newTracks(
    sceneId: number,
    wanted: readonly Pick<Track, 'name' | 'gain' | 'place' | 'colour' | 'group' | 'bus'>[],
  ): Promise<Track[]> {
    const ids = await catalogue.newIds('tracks', wanted.length);
    return wanted.map((t, i) => ({ ...t, id: ids[i], sceneId, order: i, mute: false, solo: false }));
  }

  /** Makes an empty scene. */
  async function create(name: string, picture?: PictureRef, fps = '24', start = '01:00:00:00'): Promise<Scene> {
    const [id] = await catalogue.newIds('scenes', 1);
    const r = frameRate(fps);
    const length = frameToSample(picture?.frames ?? r.nominal * 60, r, RATE);
    const names = ['Backgrounds', 'Effects', 'Steps'];
    const lines = await newTracks(
      id,
      names.map((n) => ({ name: n, gain: 0 })),
    );
    const scene: Scene = {
      id,
      name,
      fps,
      startFrame: fromTimecode(start, r),
      sampleRate: RATE,
      picture,
      length,
    };
    const made = lines.map((t): Change => additionOf('tracks', t));
    await library.edit(`Make the scene ${name}`, [additionOf('scenes', scene), ...made]);
    await load();
    currentId.value = id;
    return scene;
  }

  /** The sample at which the playhead was put, or began to run: what is chosen while it runs is meant for there. */
  const instant = ref(0);

  /** Runs or stops the scene. */
  function toggle(): void {
    use();
    if (!transport.playing) instant.value = transport.position;
    const loop = transport.loopOf(current.value);
    // From behind what is gone round, it begins where that does.
    const behind = !transport.playing && loop !== null && transport.position >= loop.end;
    transport.run(!transport.playing, behind ? loop.start : undefined, loop, transport.playing ? undefined : 1);
  }

  /** Moves the playhead to a frame. */
  function seekFrame(to: number): void {
    const held = Math.max(0, Math.min(frames.value, to));
    instant.value = frameToSample(held, rate.value, RATE);
    transport.seek(frameToSample(held, rate.value, RATE));
  }

  /** Runs faster with each stroke in its direction, and at its own speed first. @param slow half as fast with each stroke instead */
  function shuttle(direction: 1 | -1, slow = false): void {
    use();
    const { playing, speed: now } = transport;
    if (!playing) instant.value = transport.position;
    const same = playing && Math.sign(now) === direction;
    const first = direction * (slow ? 0.5 : 1);
    const next = slow ? Math.max(SLOWEST, Math.abs(now) / 2) : Math.min(FASTEST, Math.max(1, Math.abs(now) * 2));
    transport.run(true, undefined, transport.loopOf(current.value), same ? direction * next : first);
  }

  /** Steps by frames; the scene stops for it. */
  function step(by: number): void {
    if (transport.playing) transport.stop();
    seekFrame(frame.value + by);
  }

  /** Places a sound so that its anchor lands on the playhead; makes a scene when there is none yet. */
  async function spot(chosen: Sound | undefined): Promise<void> {
    if (!chosen) return tell.info('Choose a sound first: its anchor will land on the playhead');
    const [sound = chosen] = await intake.ensureMeasured([chosen]);
    const scene = current.value ?? (await create('Untitled scene'));
    const made = track.value ? [] : await tracksToAdd(1);
    const onto = track.value ?? made[0];
    const [id] = await catalogue.newIds('cues', 1);
    const at = frameToSample(frame.value, frameRate(scene.fps), RATE);
    // Selected before it is there: whoever sees the new cue may already ask for its alternates.
    cueId.value = id;
    if (await edit(`Spot ${nameOf(sound)}`, [...added(made), placeCue(id, scene, onto.id, sound, at)])) {
      tell.done(`${nameOf(sound)} is at ${timecodeAt(scene, frame.value)} on ${onto.name}`);
    }
  }

  function editCue(label: string, of: Cue, after: Partial<Cue>): void {
    void patch(`${label} ${of.name}`, 'cues', of, after);
  }

  /** Keeps cues as they are given, as one edit: those that are there change, others are made. @param onto tracks that are made for them */
  async function keepCues(
    label: string,
    kept: readonly Cue[],
    gone: readonly Cue[] = [],
    onto: readonly Track[] = [],
  ): Promise<boolean> {
    const known = new Map(own.value.map((c) => [c.id, c]));
    const changes = kept.map((cue): Change | undefined => {
      const old = known.get(cue.id);
      if (!old) return additionOf('cues', cue);
      const keys = [...new Set([...Object.keys(cue), ...Object.keys(old)])] as (keyof Cue)[];
      return changeOf('cues', old, Object.fromEntries(keys.filter((k) => cue[k] !== old[k]).map((k) => [k, cue[k]])));
    });
    return edit(label, [...added(onto), ...changes, ...gone.map((c): Change => removalOf('cues', c))]);
  }

  function editTrack(of: Track, label: string, after: Partial<Track>): void {
    void patch(label, 'tracks', of, after);
  }

  /** Tracks that the scene does not have yet, as its last ones. */
  async function tracksToAdd(count: number): Promise<Track[]> {
    const scene = current.value;
    if (!scene || count <= 0) return [];
    const { length } = tracks.value;
    const made = await newTracks(
      scene.id,
      Array.from({ length: count }, (_, i) => ({ name: `Track ${length + 1 + i}`, gain: 0 })),
    );
    const order = Math.max(-1, ...lines.value.map((t) => t.order)) + 1;
    return made.map((track, i) => ({ ...track, order: order + i }));
  }
  const added = (made: readonly Track[]) => made.map((track): Change => additionOf('tracks', track));

  async function addTrack(): Promise<void> {
    const made = await tracksToAdd(1);
    if (made.length > 0) await edit('Add a track', added(made));
  }

  function select(id: number | undefined): void {
    cueId.value = id;
    const of = own.value.find((c) => c.id === id);
    if (of) trackId.value = of.trackId;
  }

  return {
    ...{ scenes, builds, work, build, spotted, buildId, stateOf },
    currentId,
    allTracks,
    scope,
    current,
    rate,
    lines,
    tracks,
    effects,
    main,
    effectDraft,
    mainDraft,
    ...{ movers, moverDraft },
    cues: own,
    heard,
    struck,
    played,
    seen,
    cue,
    cueId,
    track,
    trackId,
    trial,
    pending,
    instant,
    playheadSample,
    state,
    markers,
    versions,
    comparing,
    comparingId,
    cutMarks,
    eventMarks,
    isHeld,
    patch,
    trackDraft,
    ...{ frames, frame, timecode, opened, open, use, create, guide },
    shuttle,
    toggle,
    seekFrame,
    step,
    spot,
    editCue,
    keepCues,
    draft,
    load,
    newTracks,
    edit,
    editTrack,
    tracksToAdd,
    addTrack,
    select,
    itemsOf,
    answering,
  };
});
