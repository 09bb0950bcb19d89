import {
  labelsFrom,
  partOf,
  passOf,
  plainlyPlayed,
  soundMade,
  soundsIn,
  noticed,
  rolled,
  type Pass,
  type Parent,
  type Played,
} from '@core/build';
import type { Sound } from '@core/library';
import type { AudioFormat } from '@core/files';
import type { Scene, SceneState, Version } from '@core/scene';
import { readLikeCode } from '@core/search';
import { additionOf } from '@core/library';
import { RATE, startMixer, type MixReport } from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { makeFiles } from './file-work';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useMadePlace } from './made-place';
import { useScene } from './scene';
import { catalogue, fileReader } from './workers';

/** Samples that effects may ring on for at the most. */
const RINGS = 30 * RATE;
/** Bytes of a frame: two channels of 24 bit. */
const FRAME = 6;
/** Rolls after which a variation is given up that could not be told apart from the others. */
const TRIES = 6;

/** Making a sound of a build: its file, its labels from its layers, and the build with it. */
export const useKeeping = defineStore('keeping', () => {
  const scene = useScene();
  const library = useLibrary();
  const intake = useIntake();
  const place = useMadePlace();
  /** Share that is rendered; undefined while nothing is. */
  const progress = ref<number>();
  let end: (() => void) | undefined;

  /** The build as it is seen and heard. */
  const asIs = (): SceneState => ({
    ...{ tracks: scene.lines, effects: scene.effects, cues: scene.heard, markers: [] },
    ...{ main: scene.main, movers: scene.movers },
  });
  /** The build as it was played. */
  function asPlayed(pass: Pass): Played {
    const { current } = scene;
    if (!current) return asIs();
    const frames = (id: number) => library.sounds.get(id)?.format.frames ?? Infinity;
    return passOf(current, asIs(), pass, current.build?.played ?? plainlyPlayed, frames);
  }
  /** The sounds that may be heard in a build, each once, as loud as its loudest layer. @param isOne only those that are heard where nobody strikes */
  function parentsOf(state: SceneState, isOne = false): Parent[] {
    return soundsIn(state, (id) => library.sounds.get(id), { isOne, others: scene.answering });
  }
  const parents = computed(() => parentsOf(asIs()));

  interface Rendered extends MixReport {
    audio: Blob;
    frames: number;
    /** Frame that its anchor is. */
    anchor: number;
  }
  /** Renders a build from its first sample until it has died away. */
  async function render(
    { mixer }: ReturnType<typeof startMixer>,
    build: Scene,
    state: Played,
    told: (share: number) => void,
  ): Promise<Rendered> {
    const { anchor, ...span } = partOf(state, build);
    const plain = JSON.parse(JSON.stringify({ build, state })) as { build: Scene; state: Played };
    const { tracks, effects = [], cues, main, movers, strikes, turns } = plain.state;
    const items = (await scene.itemsOf(state.cues)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
    const lines = { tracks: [...tracks], effects: [...effects] };
    const of = { ...plain.build, main, movers, strikes, turns };
    const made = await mixer.oneShot(of, lines, [...cues], items, proxy(told), { ...span, rings: RINGS });
    return { ...made, anchor };
  }

  /** What comes of keeping: how many sounds were made, and what is to be said of that. */
  interface Outcome {
    made: number;
    where?: string;
    failure?: string;
    reports: readonly MixReport[];
    /** Variations that could not be told apart from the others. */
    alike: number;
    cancelled?: boolean;
  }
  /**
   * Makes a sound of the build, or variations of it; keeps the build as it is now as a version, and has each know of the other: one step that can be taken back.
   * @param how `vary`: how many, and how far apart at least, in steps that one just notices; `pass`: as it was played, in place of as it is
   */
  async function keep(
    name: string,
    { vary, pass }: { vary?: { count: number; apart: number }; pass?: Pass } = {},
  ): Promise<Outcome> {
    const build = scene.current;
    const outcome: Outcome = { made: 0, reports: [], alike: 0 };
    if (!build?.build || progress.value !== undefined) return { ...outcome, failure: 'it is being made already' };
    progress.value = 0;
    const worker = startMixer();
    const stopped = new Promise<undefined>((done) => {
      end = () => {
        worker.end();
        done(undefined);
      };
    });
    try {
      const root = await place.rootFor();
      if (typeof root === 'string') return { ...outcome, failure: root };
      const count = vary?.count ?? 1;
      const [versionId] = await catalogue.newIds('versions', 1);
      const ids = await catalogue.newIds('sounds', count);
      const now = Date.now();
      const items: { id: number; part: Omit<Sound, 'id'>; path: string; rendered: Blob }[] = [];
      const heard: Int8Array[] = [];
      const taken = new Set<string>();
      const reports: MixReport[] = [];
      for (let n = 0; n < count; n++) {
        const told = (share: number) => void (progress.value = (n + share) / count);
        let one: Rendered | undefined;
        let state = pass ? asPlayed(pass) : asIs();
        for (let tries = 0; !one && tries < (vary ? TRIES : 1); tries++) {
          if (vary) state = rolled(build, asIs(), scene.state.ranges ?? [], Math.random);
          const made = await Promise.race([render(worker, build, state, told), stopped]);
          if (!made) return { ...outcome, cancelled: true };
          if (!vary) one = made;
          else {
            const code = await fileReader().likeFile(new File([made.audio], `${name}.wav`));
            const vector = readLikeCode(code)?.vector;
            if (!vector || heard.some((h) => noticed(h, vector) < vary.apart)) continue;
            heard.push(vector);
            one = made;
          }
        }
        if (!one) {
          outcome.alike++;
          continue;
        }
        const own = vary ? `${name} ${String(items.length + 1).padStart(2, '0')}` : name;
        const path = await place.freePath(root, own, taken);
        const format: AudioFormat = {
          ...{
            container: 'WAV',
            encoding: 'pcm',
            unsigned: false,
            littleEndian: true,
            rate: build.sampleRate,
            channels: 2,
          },
          ...{ bits: 24, blockAlign: FRAME, frames: one.frames, dataOffset: 0 },
        };
        const file = {
          rootId: root.id,
          rootName: root.name,
          path,
          size: one.audio.size,
          format,
          anchor: one.anchor,
          now,
        };
        const from = parentsOf(state, vary !== undefined && !pass);
        const built = { of: from.map((p) => p.sound.id), build: build.id, version: versionId };
        const part = JSON.parse(JSON.stringify(soundMade(labelsFrom(own, from), file, { built }))) as Omit<Sound, 'id'>;
        items.push({ id: ids[n], part, path, rendered: one.audio });
        reports.push({ clipped: one.clipped, peak: one.peak, missing: one.missing });
      }
      if (items.length === 0)
        return { ...outcome, failure: 'no two could be told apart: widen what is left to chance' };
      const version: Version = { ...scene.state, id: versionId, sceneId: build.id, name, at: now };
      const kept = additionOf('versions', JSON.parse(JSON.stringify(version)) as Version);
      const written = await makeFiles(items, root.id, 'Build', [kept]);
      const [failed] = written.failed;
      const why = failed?.reason ?? written.stopped;
      void intake.measure(items.map((i) => i.id));
      return {
        ...{ made: written.written, reports, alike: outcome.alike, where: `${root.name}/${items[0].path}` },
        ...(why === undefined && written.written > 0 ? {} : { failure: why ?? 'it was not written' }),
      };
    } catch (error) {
      return { ...outcome, failure: (error as Error).message };
    } finally {
      worker.end();
      end = undefined;
      progress.value = undefined;
    }
  }

  /** A pass as a file, to be heard. */
  async function hear(pass: Pass): Promise<File | undefined> {
    const build = scene.current;
    if (!build?.build || progress.value !== undefined) return undefined;
    progress.value = 0;
    const worker = startMixer();
    try {
      const { audio } = await render(worker, build, asPlayed(pass), (share) => (progress.value = share));
      return new File([audio], `${build.name}, as it was played.wav`);
    } finally {
      worker.end();
      progress.value = undefined;
    }
  }

  return { parents, progress, keep, hear, asPlayed, cancel: () => end?.() };
});
