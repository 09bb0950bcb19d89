import { nameOf, type Sound } from '@core/library';
import { endingAt, nextAnchor, nextMarker, placed, tracksFor, type Cue, type Track, type Way } from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useHands } from './hands';
import { useIntake } from './intake';
import { useScene } from './scene';
import { catalogue } from './workers';

/** Where an anchor lands: on the playhead, on the next marker, cut or event of the picture; or the sound ends at the next hit. */
export const landings = ['playhead', 'marker', 'cut', 'event', 'hit'] as const;
export type Landing = (typeof landings)[number];

/** Putting sounds into the scene. */
export const usePlacing = defineStore('placing', () => {
  const scene = useScene();
  const hands = useHands();
  const intake = useIntake();
  const landing = useLocalStorage<Landing>('landing', 'playhead');
  const way = useLocalStorage<Way>('way', 'behind');

  /** Where a cue lands; undefined, having said why, where there is nothing to land on. @param playhead where that is meant to be */
  function landed(cue: Cue, playhead: number): Cue | undefined {
    if (landing.value === 'playhead') return { ...cue, at: playhead };
    if (landing.value === 'marker') {
      const marker = nextMarker(scene.markers, playhead - 1);
      if (!marker) tell.info('There is no marker behind the playhead');
      return marker && { ...cue, at: marker.at };
    }
    if (landing.value === 'cut') {
      const cut = scene.cutMarks.find((at) => at >= playhead);
      if (cut === undefined) tell.info('No cut of the picture is known behind the playhead');
      return cut === undefined ? undefined : { ...cue, at: cut };
    }
    if (landing.value === 'event') {
      const event = scene.eventMarks.find((at) => at >= playhead);
      if (event === undefined) tell.info('No event of the picture is known behind the playhead');
      return event === undefined ? undefined : { ...cue, at: event };
    }
    const hit = nextAnchor(scene.cues, playhead, new Set([cue.id]));
    const ending = hit === undefined ? undefined : endingAt(cue, hit, RATE);
    if (!ending) tell.info('No other cue begins behind the playhead in time for it');
    return ending;
  }

  /**
   * Cues for sounds with the first anchor on a sample.
   * @param land where it goes from there, if anywhere
   * @param onto tracks that are made for them, behind those that there are
   */
  async function cuesFor(
    chosen: readonly Sound[],
    ids: readonly number[],
    at: number,
    land: (cue: Cue) => Cue | undefined = (cue) => cue,
    onto: readonly Track[] = [],
  ): Promise<Cue[] | undefined> {
    const sounds = await intake.ensureMeasured([...chosen]);
    const of = scene.current;
    if (!of || sounds.length === 0) return undefined;
    const trackIds = [...fromTrack(), ...onto].map((t) => t.id);
    const ground = { sceneId: of.id, rate: RATE, at, trackIds, now: Date.now() };
    const [first, ...rest] = placed(sounds, ids, way.value, ground);
    const there = land(first);
    const by = there && there.at - first.at;
    return there && [there, ...rest.map((c) => ({ ...c, at: c.at + by! }))];
  }
  /** The chosen track and those below it. */
  const fromTrack = () =>
    scene.tracks.slice(
      Math.max(
        0,
        scene.tracks.findIndex((t) => t.id === scene.track?.id),
      ),
    );

  /** Places sounds for good; makes a scene, and tracks, where there are none. */
  async function place(chosen: readonly Sound[], at?: number, trackId?: number): Promise<void> {
    if (scene.isHeld()) return;
    if (chosen.length === 0) return tell.info('Choose a sound first');
    if (!scene.current) await scene.create('Untitled scene');
    if (trackId !== undefined) scene.trackId = trackId;
    const onto = await scene.tracksToAdd(tracksFor(way.value, chosen.length) - fromTrack().length);
    const ids = await catalogue.newIds('cues', chosen.length);
    const { playheadSample: playhead } = scene;
    const cues = await (at === undefined
      ? cuesFor(chosen, ids, playhead, (c) => landed(c, playhead), onto)
      : cuesFor(chosen, ids, at, undefined, onto));
    if (!cues) return;
    const name = cues.length === 1 ? nameOf(chosen[0]) : things(cues.length, 'sound');
    if (await scene.keepCues(`Spot ${name}`, cues, [], onto))
      await hands.select(
        cues.map((c) => c.id),
        cues[0].id,
      );
  }

  /** Cues for sounds over which a hand still is: seen and heard there, and not kept. */
  async function drafted(sounds: readonly Sound[], at: number, trackId: number | undefined): Promise<readonly Cue[]> {
    if (trackId !== undefined) scene.trackId = trackId;
    return (
      (await cuesFor(
        sounds,
        sounds.map((_, i) => PENDING - i),
        at,
      )) ?? []
    );
  }

  let hearing = 0;
  /** Hears a sound in the mix, at the instant that was chosen, before it is placed. */
  async function hear(sound: Sound): Promise<void> {
    const { instant } = scene;
    const mine = ++hearing;
    const cues = await cuesFor([sound], [PENDING], instant, (c) => landed(c, instant));
    // A hand that walked on means the last one.
    if (mine === hearing) scene.pending = cues ?? [];
  }

  /** Keeps what is heard so. */
  async function keep(): Promise<void> {
    const [cue] = scene.pending;
    if (!cue) return;
    const [id] = await catalogue.newIds('cues', 1);
    if (await scene.keepCues(`Spot ${cue.name}`, [{ ...cue, id }])) await hands.select([id]);
    scene.pending = [];
  }
  function drop(): void {
    hearing++;
    scene.pending = [];
  }

  /** Moves the selected cue so that it ends where the next one has its anchor: a rise into a hit. */
  function endAtNext(): Promise<void> {
    const of = scene.cue;
    const hit = of && nextAnchor(scene.cues, of.at, hands.selected);
    if (hit === undefined) {
      tell.info('No other cue has its anchor behind this one');
      return Promise.resolve();
    }
    return hands.change('End at the next hit:', (c) => (c.id === of!.id ? endingAt(c, hit, RATE) : undefined));
  }

  return { landing, way, place, drafted, hear, keep, drop, endAtNext };
});

/** Stands for a cue that is not there yet. */
const PENDING = 1_999_999_999;
