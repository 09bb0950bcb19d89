import { fullShape, levellingGain, plainShape, type Shape, heldBack } from '@core/audio';
import type { Audition, Note, Status } from '@core/engine';
import type { Sound } from '@core/library';
import { changeOf, nameOf } from '@core/library';
import { defineStore } from 'pinia';
import { ref, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { useOutput } from './output';
import { usePrefs } from './prefs';
import { catalogue } from './workers';

/** Seconds that are heard at each place while scrubbing. */
const SCRUBBED = 0.12;
/** Sounds that can be stepped back to. */
const HEARD = 500;

/** Listening: which sound sounds, where it is, and how loud. */
export const useAudition = defineStore('audition', () => {
  const library = useLibrary();
  const prefs = usePrefs();
  const output = useOutput();
  const { player } = output;
  const sound = shallowRef<Sound>();
  const playing = ref(false);
  /** The frame that sounds, of the current sound. */
  const frame = ref(0);
  /** Keys that sound. */
  const keys = shallowRef<number[]>([]);
  /** The scene for which one listens. */
  const forScene = ref<number>();
  let lastFollow = 0;
  /** Sounds in the order in which they were heard, and where one is among them. */
  const heard = ref<number[]>([]);
  const at = ref(-1);
  let stepping = false;
  /** Rises with every sound that is heard, for whoever shows what was. */
  const plays = ref(0);
  /** Rises with every sound that came to its end by itself. */
  const endings = ref(0);
  /** Rises whenever somebody stops what sounds, or is about to. */
  const stops = ref(0);
  /** Whether the sounds of a list play one after another. */
  const through = ref(false);

  /** Whether sounds are heard as they are, to compare them with what their shapes make of them. */
  const plain = ref(false);
  /** The file of the open sound, ready to be dragged out of the window. */
  const carried = shallowRef<{ id: number; name: string; url: string }>();
  /** A shape on its way from one sound to others. */
  const copiedShape = shallowRef<Shape>();

  const wholeOf = (s: Sound) => ({ start: 0, end: s.format.frames });
  function regionOf(s: Sound): { start: number; end: number } {
    return (!prefs.playWhole && s.marks.region) || wholeOf(s);
  }

  function shapeOf(s: Sound): Shape {
    return plain.value ? plainShape : fullShape(s.marks.shape);
  }

  /** How a sound plays now, wherever it begins. */
  function manner(s: Sound, region = regionOf(s)): Omit<Audition, 'from'> {
    const { loudness, truePeak } = s.fields as Record<string, number | undefined>;
    const gain = Math.min(
      prefs.levelTo === 0 ? 0 : levellingGain(loudness, truePeak, prefs.levelTo),
      heldBack(truePeak),
    );
    return { region: { ...region }, loop: prefs.playMode === 'looped', gain, shape: { ...shapeOf(s) } };
  }

  function onStatus(status: Status): void {
    if (status.keys.length + keys.value.length > 0) keys.value = status.keys;
    const { audition } = status;
    // Said before the engine heard of what was asked for since.
    if (status.playId !== player.playId) return;
    if (audition && audition.id === sound.value?.id) {
      frame.value = audition.frame;
      follow(audition.frame);
    } else if (playing.value && !audition && status.began) {
      playing.value = false;
      endings.value++;
    }
  }

  /** Twice a second is enough to keep a minute loaded ahead. */
  function follow(at: number): void {
    if (!sound.value || performance.now() - lastFollow < 500) return;
    lastFollow = performance.now();
    const shape = { ...shapeOf(sound.value) };
    player.follow(at, { region: { ...regionOf(sound.value) }, direction: shape.direction }, shape);
  }

  output.onStatus(onStatus);
  output.onFailure((error) => {
    playing.value = false;
    tell.error(`${sound.value ? nameOf(sound.value) : 'The sound'} cannot be played: ${error.message}`);
  });

  /** Plays the current sound from a frame; from the region's start, or the sound's, when absent. */
  function play(from?: number): void {
    if (!sound.value) return;
    const item = library.loadable(sound.value);
    if (!item) return;
    const region = regionOf(sound.value);
    const at = from ?? (shapeOf(sound.value).direction === 'backward' ? region.end - 1 : region.start);
    const inside = at >= region.start && at < region.end;
    playing.value = true;
    frame.value = at;
    player.play(item, { from: at, ...manner(sound.value, inside ? region : wholeOf(sound.value)) });
    markHeard(sound.value);
  }

  /** Plays a moment of the current sound from a frame on, as a tape that is moved by hand. */
  function scrub(from: number): void {
    const item = sound.value && library.loadable(sound.value);
    if (!item) return;
    const { rate, frames } = sound.value!.format;
    const end = Math.min(frames, from + Math.round(SCRUBBED * rate));
    playing.value = true;
    frame.value = from;
    player.play(item, { ...manner(sound.value!, { start: from, end }), from, loop: false });
  }

  function markHeard(s: Sound): void {
    // One that is not in the library leaves no trace there.
    if (library.loose.has(s.rootId)) return;
    const change = changeOf('sounds', s, { 'fields.heard': Date.now(), 'from.heard': 'measured' });
    void library.edit('Heard', [change], false);
    if (stepping) return;
    // Going on from somewhere back begins a new way forward.
    heard.value = [...heard.value.slice(0, at.value + 1), s.id].slice(-HEARD);
    at.value = heard.value.length - 1;
    void catalogue.heard({ soundId: s.id, at: Date.now(), sceneId: forScene.value });
    plays.value++;
  }

  /** The sound that was heard before, or after stepping back; undefined at either end. */
  function stepHeard(by: number): number | undefined {
    const next = at.value + by;
    if (next < 0 || next >= heard.value.length) return undefined;
    at.value = next;
    return heard.value[next];
  }

  /** Plays a sound of the past without making it the newest one heard. */
  function chooseHeard(next: Sound): void {
    stepping = true;
    choose(next, true);
    stepping = false;
  }

  function stop(): void {
    stops.value++;
    playing.value = false;
    player.stop();
  }

  function toggle(): void {
    if (playing.value) stop();
    else play();
  }

  /** A key or button that plays goes down: held, it plays until {@link letGo}; else it plays or stops. */
  function goDown(): void {
    if (prefs.playMode !== 'held') toggle();
    else if (!playing.value) play();
  }

  /** A key or button that plays goes up. */
  function letGo(): void {
    if (prefs.playMode === 'held' && playing.value) stop();
  }

  /** Makes a sound the current one, and plays it when that is wanted. */
  function choose(next: Sound | undefined, sounding = prefs.playOnMove): void {
    if (next?.id !== sound.value?.id && playing.value && !sounding) stop();
    sound.value = next;
    frame.value = next ? regionOf(next).start : 0;
    if (next && sounding) play();
  }

  /** Makes sounds ready that may be asked for next. */
  function prepare(next: readonly Sound[]): void {
    void player.prepare(
      next.flatMap((s) => {
        const item = library.loadable(s);
        return item ? { item, audition: manner(s) } : [];
      }),
    );
  }

  /** Takes over an edited record of the current sound, so that a moved region is heard while it plays. */
  function renew(next: Sound): void {
    sound.value = next;
    adjust();
  }

  function adjust(): void {
    const item = sound.value && playing.value && library.loadable(sound.value);
    if (item) player.adjust(item, frame.value, manner(sound.value!));
  }
  watch([() => prefs.playMode, () => prefs.playWhole, () => prefs.levelTo, plain], adjust);

  /** Round and round, or once again. */
  function toggleLoop(): void {
    prefs.playMode = prefs.playMode === 'looped' ? 'once' : 'looped';
  }

  /** Plays the current sound by a key. @returns false when there is none, or it cannot be reached */
  function press(key: number, note: Note): boolean {
    const item = sound.value && library.loadable(sound.value);
    if (!item) return false;
    player.press(item, key, manner(sound.value!), note);
    if (heard.value[at.value] !== sound.value!.id) markHeard(sound.value!);
    return true;
  }

  return {
    sound,
    playing,
    frame,
    regionOf,
    play,
    scrub,
    stop,
    toggle,
    goDown,
    letGo,
    keys,
    press,
    lift: (key: number) => player.lift(key),
    liftAll: () => player.liftAll(),
    setVoices: (limit: number) => player.setVoices(limit),
    endings,
    stops,
    through,
    choose,
    prepare,
    renew,
    toggleLoop,
    plain,
    copiedShape,
    carried,
    shapeOf,
    manner,
    heard,
    plays,
    forScene,
    stepHeard,
    chooseHeard,
  };
});
