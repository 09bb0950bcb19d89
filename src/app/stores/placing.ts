import { nameOf, type Sound } from '@core/library';
import { endingAt, nextAnchor, nextMarker, placed, tracksFor, type Cue, type Way } from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useHands } from './hands';
import { useIntake } from './intake';
import { useScene } from './scene';
import { catalogue } from './workers';

/** Where an anchor lands: on the playhead, on the anchor of the selected cue, on the next marker; or the sound ends at the next hit. */
export const landings = ['playhead', 'cue', 'marker', 'hit'] as const;
export type Landing = (typeof landings)[number];

/** Putting sounds into the scene. */
export const usePlacing = defineStore('placing', () => {
  const scene = useScene();
  const hands = useHands();
  const intake = useIntake();
  const landing = useLocalStorage<Landing>('landing', 'playhead');
  const way = useLocalStorage<Way>('way', 'behind');

  /** The sample on which a cue lands. @param playhead where that is meant to be */
  function landed(cue: Cue, playhead: number): Cue | undefined {
    switch (landing.value) {
      case 'cue':
        return scene.cue && { ...cue, at: scene.cue.at, trackId: scene.cue.trackId };
      case 'marker': {
        const marker = nextMarker(scene.markers, playhead - 1);
        return marker && { ...cue, at: marker.at };
      }
      case 'hit': {
        const hit = nextAnchor(scene.cues, playhead, new Set([cue.id]));
        return hit === undefined ? undefined : endingAt(cue, hit, RATE);
      }
      default:
        return { ...cue, at: playhead };
    }
  }
  const missing: Record<Landing, string> = {
    playhead: '',
    cue: 'Select the cue first on which it is to land',
    marker: 'There is no marker behind the playhead',
    hit: 'No other cue begins behind the playhead in time for it',
  };

  /** Cues for sounds as they would be placed now; undefined, having said why, where they cannot be. */
  async function cuesFor(
    chosen: readonly Sound[],
    ids: readonly number[],
    playhead: number,
  ): Promise<Cue[] | undefined> {
    const sounds = await intake.ensureMeasured([...chosen]);
    const of = scene.current;
    if (!of || sounds.length === 0) return undefined;
    const { tracks } = scene;
    const from = Math.max(
      0,
      tracks.findIndex((t) => t.id === scene.track?.id),
    );
    const below = tracks.slice(from).map((t) => t.id);
    const ground = { sceneId: of.id, rate: RATE, at: playhead, trackIds: below, now: Date.now() };
    const [first, ...rest] = placed(sounds, ids, way.value, ground);
    const there = landed(first, playhead);
    if (!there) return void tell.info(missing[landing.value]);
    const by = there.at - first.at;
    return [
      there,
      ...rest.map((c) => ({ ...c, at: c.at + by, ...(way.value === 'tracks' ? {} : { trackId: there.trackId }) })),
    ];
  }

  /** Places sounds for good, as one edit; makes a scene, and tracks, where there are none. */
  async function place(chosen: readonly Sound[], at?: number, trackId?: number): Promise<void> {
    if (scene.isHeld()) return;
    if (chosen.length === 0) return tell.info('Choose a sound first');
    if (!scene.current) await scene.create('Untitled scene');
    if (trackId !== undefined) scene.trackId = trackId;
    let room =
      scene.tracks.length -
      Math.max(
        0,
        scene.tracks.findIndex((t) => t.id === scene.track?.id),
      );
    for (; room < tracksFor(way.value, chosen.length); room++) await scene.addTrack();
    const ids = await catalogue.newIds('cues', chosen.length);
    const cues = at === undefined ? await cuesFor(chosen, ids, scene.playheadSample) : await cuesAt(chosen, ids, at);
    if (!cues) return;
    const name = cues.length === 1 ? nameOf(chosen[0]) : things(cues.length, 'sound');
    if (await scene.keepCues(`Spot ${name}`, cues))
      await hands.select(
        cues.map((c) => c.id),
        cues[0].id,
      );
  }

  /** The same where a hand let go of them. */
  async function cuesAt(chosen: readonly Sound[], ids: readonly number[], at: number): Promise<Cue[] | undefined> {
    const before = landing.value;
    landing.value = 'playhead';
    try {
      return await cuesFor(chosen, ids, at);
    } finally {
      landing.value = before;
    }
  }

  /** Cues for sounds over which a hand still is: seen and heard there, and not kept. */
  async function drafted(sounds: readonly Sound[], at: number, trackId: number | undefined): Promise<readonly Cue[]> {
    if (trackId !== undefined) scene.trackId = trackId;
    return (
      (await cuesAt(
        sounds,
        sounds.map((_, i) => PENDING - i),
        at,
      )) ?? []
    );
  }

  /** Hears a sound in the mix, at the instant that was chosen, before it is placed. */
  async function hear(sound: Sound): Promise<void> {
    const cues = await cuesFor([sound], [PENDING], scene.instant);
    scene.pending = cues ?? [];
  }

  /** Keeps what is heard so. */
  async function keep(): Promise<void> {
    const [cue] = scene.pending;
    if (!cue) return;
    const [id] = await catalogue.newIds('cues', 1);
    if (await scene.keepCues(`Spot ${cue.name}`, [{ ...cue, id }])) await hands.select([id]);
    scene.pending = [];
  }
  const drop = () => (scene.pending = []);

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
