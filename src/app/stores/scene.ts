import type { Change, Patch, Sound } from '@core/library';
import { changeOf, nameOf } from '@core/library';
import type { ProjectFile } from '@core/schemas';
import { checked, validators } from '@core/schemas';
import type { Cue, PictureRef, Scene, Track } from '@core/scene';
import {
  frameRate,
  frameToSample,
  fromTimecode,
  inOrder,
  nearestRate,
  placeCue,
  planOf,
  sampleToFrame,
  swapSound,
  takeOf,
  timecodeAt,
} from '@core/scene';
import { RATE, type Loadable, type RootRecord } from '@platform/index';
import { useDebounceFn, useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useAudition } from './audition';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { usePrefs } from './prefs';
import { catalogue, film } from './workers';

/** Another sound that is being tried in a cue's place, not kept yet. */
interface Trial {
  cueId: number;
  sound: Sound;
}

/** The scene: its tracks and cues, the playhead, and what the engine plays of it. */
export const useScene = defineStore('scene', () => {
  const library = useLibrary();
  const prefs = usePrefs();
  const audition = useAudition();
  const intake = useIntake();
  const scenes = shallowRef<Scene[]>([]);
  const allTracks = shallowRef<Track[]>([]);
  const cues = shallowRef<Cue[]>([]);
  const currentId = useLocalStorage('scene', 0);
  const trackId = useLocalStorage('track', 0);
  const cueId = ref<number>();
  const trial = shallowRef<Trial>();
  const opened = ref(false);

  const current = computed(() => scenes.value.find((s) => s.id === currentId.value) ?? scenes.value[0]);
  const rate = computed(() => frameRate(current.value?.fps ?? '24'));
  const tracks = computed(() => inOrder(allTracks.value.filter((t) => t.sceneId === current.value?.id)));
  const own = computed(() => cues.value.filter((c) => c.sceneId === current.value?.id));
  /** The cues as they are heard now: with the sound that is being tried. */
  const heard = computed(() => {
    const t = trial.value;
    return t ? own.value.map((c) => (c.id === t.cueId ? { ...c, ...takeOf(t.sound) } : c)) : own.value;
  });
  const cue = computed(() => own.value.find((c) => c.id === cueId.value));
  const track = computed(() => tracks.value.find((t) => t.id === trackId.value) ?? tracks.value[0]);
  const frames = computed(() =>
    current.value ? Math.ceil((current.value.length * rate.value.num) / (rate.value.den * RATE)) : 0,
  );
  const frame = computed(() => sampleToFrame(audition.scenePosition, rate.value, RATE));
  const timecode = computed(() => (current.value ? timecodeAt(current.value, frame.value) : ''));

  /** What is done in a scene is taken back there, and nowhere else. */
  const scope = computed(() => (current.value ? `scene ${current.value.id}` : 'library'));
  const edit = (label: string, changes: (Change | undefined)[]) =>
    library.edit(label, changes, true, undefined, scope.value);
  const patch = (label: string, table: 'scenes' | 'tracks' | 'cues', row: { id: number }, after: Patch) =>
    library.patch(label, table, row, after, true, scope.value);

  async function load(): Promise<void> {
    const [s, t, c] = await Promise.all([catalogue.all('scenes'), catalogue.all('tracks'), catalogue.all('cues')]);
    scenes.value = s as Scene[];
    allTracks.value = t as Track[];
    cues.value = c as Cue[];
  }

  async function open(): Promise<void> {
    await load();
    library.onChange((tables) => {
      if (tables.some((t) => t === 'scenes' || t === 'tracks' || t === 'cues')) void load();
    });
    opened.value = true;
  }

  async function itemsOf(list: readonly Cue[]): Promise<Loadable[]> {
    const ids = [...new Set(list.map((c) => c.soundId))];
    return (await library.need(ids)).flatMap((s) => library.loadable(s) ?? []);
  }

  const sendMix = useDebounceFn(async () => {
    if (!current.value) return;
    await audition.setScene(planOf(tracks.value, heard.value), await itemsOf(heard.value));
  }, 20);
  let used = false;
  watch([current, tracks, heard], () => used && void sendMix());
  watch(current, (scene) => (audition.forScene = scene?.id), { immediate: true });

  /** Loads the scene's sounds into the engine; until a scene is looked at this is not done. */
  function use(): void {
    used = true;
    void sendMix();
  }

  /** Tracks of a scene that is being made. */
  async function newTracks(sceneId: number, wanted: readonly { name: string; gain: number }[]): Promise<Track[]> {
    const ids = await catalogue.newIds('tracks', wanted.length);
    return wanted.map((t, i) => ({ id: ids[i], sceneId, order: i, name: t.name, gain: t.gain, mute: false, solo: false }));
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
    const made = lines.map((t): Change => ({ table: 'tracks', id: t.id, after: { ...t } }));
    await library.edit(`Make the scene ${name}`, [{ table: 'scenes', id, after: { ...scene } }, ...made]);
    await load();
    currentId.value = id;
    return scene;
  }

  /** Sets the picture of the current scene, or makes a scene for it; its rate and length are measured. */
  async function setPicture(root: RootRecord, path: string, size: number): Promise<void> {
    const facts = await film.facts(root, path, size);
    const fps = nearestRate(facts.fps).name;
    const picture: PictureRef = { rootId: root.id, path, name: path.split('/').pop()!, frames: facts.frames };
    if (!current.value) return void (await create(picture.name.replace(/\.\w+$/, ''), picture, fps));
    const length = frameToSample(facts.frames, frameRate(fps), RATE);
    await patch(`Set the picture ${picture.name}`, 'scenes', current.value, {
      picture,
      fps,
      length: Math.max(length, current.value.length),
    });
  }

  /** Runs or stops the scene. */
  function toggle(): void {
    use();
    audition.transport(!audition.scenePlaying, undefined, current.value?.loop ?? null);
  }

  /** Moves the playhead to a frame. */
  function seekFrame(to: number): void {
    const held = Math.max(0, Math.min(frames.value, to));
    audition.transport(audition.scenePlaying, frameToSample(held, rate.value, RATE));
  }

  /** Steps by frames; the scene stops for it. */
  function step(by: number): void {
    if (audition.scenePlaying) audition.transport(false);
    seekFrame(frame.value + by);
  }

  function setLoop(edge: 'start' | 'end'): void {
    if (!current.value) return;
    const loop = { ...(current.value.loop ?? { start: 0, end: current.value.length }), [edge]: audition.scenePosition };
    if (loop.end - loop.start < RATE / 10)
      Object.assign(loop, edge === 'start' ? { end: current.value.length } : { start: 0 });
    void patch(edge === 'start' ? 'Set in' : 'Set out', 'scenes', current.value, { loop });
    audition.transport(audition.scenePlaying, undefined, loop);
  }

  function clearLoop(): void {
    if (!current.value) return;
    void patch('Clear in and out', 'scenes', current.value, { loop: undefined });
    audition.transport(audition.scenePlaying, undefined, null);
  }

  /** Places a sound so that its anchor lands on the playhead; makes a scene when there is none yet. */
  async function spot(chosen: Sound | undefined): Promise<void> {
    if (!chosen) return tell.info('Choose a sound first: its anchor will land on the playhead');
    const [sound = chosen] = await intake.ensureMeasured([chosen]);
    const scene = current.value ?? (await create('Untitled scene'));
    const onto = track.value ?? (await addTrack());
    if (!onto) return;
    const [id] = await catalogue.newIds('cues', 1);
    const at = frameToSample(frame.value, frameRate(scene.fps), RATE);
    // Selected before it is there: whoever sees the new cue may already ask for its alternates.
    cueId.value = id;
    if (await edit(`Spot ${nameOf(sound)}`, [placeCue(id, scene, onto.id, sound, at)])) {
      tell.done(`${nameOf(sound)} is at ${timecodeAt(scene, frame.value)} on ${onto.name}`);
    }
  }

  function editCue(label: string, of: Cue, after: Partial<Cue>): void {
    void patch(`${label} ${of.name}`, 'cues', of, after);
  }

  function moveCue(of: Cue, byFrames: number): void {
    const to = of.at + frameToSample(byFrames, rate.value, RATE);
    if (to >= 0) editCue('Move', of, { at: to });
  }

  function removeCue(of: Cue): void {
    if (cueId.value === of.id) cueId.value = undefined;
    void edit(`Remove ${of.name}`, [{ table: 'cues', id: of.id, before: { ...of } }]);
  }

  function editTrack(of: Track, label: string, after: Partial<Track>): void {
    void patch(label, 'tracks', of, after);
  }

  async function addTrack(): Promise<Track | undefined> {
    const scene = current.value;
    if (!scene) return undefined;
    const [made] = await newTracks(scene.id, [{ name: `Track ${tracks.value.length + 1}`, gain: 0 }]);
    made.order = Math.max(-1, ...tracks.value.map((t) => t.order)) + 1;
    if (!(await edit('Add a track', [{ table: 'tracks', id: made.id, after: { ...made } }]))) return undefined;
    await load();
    return made;
  }

  /** Hears another sound in the selected cue's place; the anchor stays where it is. */
  function tryOut(sound: Sound): void {
    if (cue.value) trial.value = sound.id === cue.value.soundId ? undefined : { cueId: cue.value.id, sound };
  }

  /** Keeps the sound that is being tried. */
  async function keepTrial(): Promise<void> {
    const t = trial.value;
    const of = t && own.value.find((c) => c.id === t.cueId);
    if (!t || !of) return;
    const name = nameOf(t.sound);
    if (await edit(`Put ${name} in place of ${of.name}`, swapSound(of, t.sound)))
      tell.done(`${name} took the place of ${of.name}`);
    await load();
    trial.value = undefined;
  }

  /** Returns to the cue's own sound. */
  function dropTrial(): void {
    trial.value = undefined;
  }

  async function select(id: number | undefined): Promise<void> {
    if (trial.value && trial.value.cueId !== id) await keepTrial();
    cueId.value = id;
    const of = own.value.find((c) => c.id === id);
    if (of) trackId.value = of.trackId;
  }

  /** At the first start, opens the project that the server offers. */
  async function openProject(): Promise<void> {
    if (scenes.value.length > 0 || library.pulls.length > 1) return;
    const response = await fetch('/api/project').catch(() => undefined);
    if (response?.status !== 200) return;
    const project = checked<ProjectFile>(await response.json(), validators.projectFile, 'the project');
    const changes = await projectChanges(project);
    await library.edit(`Open ${project.name}`, changes, false);
    await load();
    const made = changes.find((c) => c.table === 'scenes');
    if (made) currentId.value = made.id;
    // Whoever is shown something to try is told where one could begin.
    prefs.firstSteps = { shown: true, done: [] };
  }

  async function projectChanges(project: ProjectFile): Promise<Change[]> {
    const byPlace = new Map<string, Sound>();
    for (const root of library.roots) {
      for (const sound of await catalogue.soundsOf(root.id)) byPlace.set(`${root.name}/${sound.path}`, sound);
    }
    const find = (p: { root: string; path: string }) => byPlace.get(`${p.root}/${p.path}`);
    // A cue hangs on its sound's anchor: those that are spotted are measured before all others.
    const spotted = project.scenes.flatMap((s) => s.cues.flatMap((c) => find(c) ?? []));
    for (const sound of await intake.ensureMeasured([...new Set(spotted)])) {
      byPlace.set(`${library.rootById.get(sound.rootId)?.name}/${sound.path}`, sound);
    }
    const idsOf = (list: { root: string; path: string }[]) => list.flatMap((p) => find(p)?.id ?? []);
    const changes: (Change | undefined)[] = [
      library.tray && changeOf('pulls', library.tray, { soundIds: idsOf(project.tray) }),
    ];
    const pullIds = await catalogue.newIds('pulls', project.pulls.length);
    project.pulls.forEach(({ name, sounds }, i) => {
      changes.push({
        table: 'pulls',
        id: pullIds[i],
        after: { id: pullIds[i], name, soundIds: idsOf(sounds), created: Date.now() },
      });
    });
    for (const s of project.scenes) {
      const [id] = await catalogue.newIds('scenes', 1);
      const r = frameRate(s.fps);
      const root = library.roots.find((x) => x.name === s.picture?.root);
      const picture = s.picture &&
        root && { rootId: root.id, path: s.picture.path, name: s.picture.name, frames: s.picture.frames };
      const lines = await newTracks(id, s.tracks);
      for (const t of lines) changes.push({ table: 'tracks', id: t.id, after: { ...t } });
      const at = (frameNumber: number) => frameToSample(frameNumber, r, RATE);
      const loop = s.loop && { start: at(s.loop.start), end: at(s.loop.end) };
      const scene: Scene = {
        id,
        name: s.name,
        fps: s.fps,
        startFrame: fromTimecode(s.start, r),
        sampleRate: RATE,
        picture,
        length: at(s.picture?.frames ?? r.nominal * 60),
        loop,
      };
      changes.push({ table: 'scenes', id, after: { ...scene } });
      const cueIds = await catalogue.newIds('cues', s.cues.length);
      s.cues.forEach((c, i) => {
        const sound = find(c);
        const onto = lines.find((t) => t.name === c.track);
        if (!sound || !onto) return;
        const change = placeCue(cueIds[i], scene, onto.id, sound, at(c.frame));
        changes.push({ ...change, after: { ...change.after, gain: c.gain ?? 0 } });
      });
    }
    return changes.filter((c) => c !== undefined);
  }

  return {
    scenes,
    scope,
    current,
    rate,
    tracks,
    cues: own,
    heard,
    cue,
    cueId,
    track,
    trackId,
    trial,
    frames,
    frame,
    timecode,
    opened,
    open,
    openProject,
    use,
    create,
    setPicture,
    toggle,
    seekFrame,
    step,
    setLoop,
    clearLoop,
    spot,
    editCue,
    moveCue,
    removeCue,
    editTrack,
    addTrack,
    tryOut,
    keepTrial,
    dropTrial,
    select,
    itemsOf,
  };
});
