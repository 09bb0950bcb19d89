import { anchorOf, spanOfPlayed } from '@core/build';
import {
  effectsOf,
  lengthOfScene,
  playsAsIs,
  stemsOf,
  type Cue,
  type LineEffect,
  type Marker,
  type Scene,
  type Track,
} from '@core/scene';
import { fileNameOf, startMixer, type MixReport } from '@platform/index';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { things } from '../shared/controls/format';
import { saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLibrary } from './library';
import { useScene } from './scene';

/** A build on its way to other programs: a project that holds the original files, and what that cannot say. */
export const useBuildSession = defineStore('build-session', () => {
  const scene = useScene();
  const library = useLibrary();
  /** 0..1 while it is made. */
  const progress = ref<number>();
  let stop: (() => void) | undefined;

  /** What a project cannot say of the build, in words. */
  const unsaid = computed(() => {
    const own = scene.effects.filter((e) => e.on);
    const rendered = scene.heard.filter((c) => !playsAsIs(c)).length;
    const chance = scene.state.ranges?.length ?? 0;
    return [
      own.length > 0 && things(own.length, 'effect'),
      scene.movers.length > 0 && things(scene.movers.length, 'mover'),
      chance > 0 && `${things(chance, 'value')} left to chance`,
      rendered > 0 &&
        `direction, speed and pitch of ${things(rendered, 'layer')}, which ${rendered === 1 ? 'is' : 'are'} rendered`,
    ].filter((part) => part !== false);
  });
  /** Layers that sound otherwise than a project can say. */
  const shaped = computed(
    () => scene.lines.some((t) => effectsOf(t.id, scene.effects).some((e) => e.on)) || scene.movers.length > 0,
  );

  /** The build as a scene that begins where its first sound does, with a marker on the anchor. */
  function moved(build: Scene): { of: Scene; cues: Cue[]; tracks: Track[]; effects: LineEffect[]; markers: Marker[] } {
    const state = { tracks: scene.lines, effects: scene.effects, cues: scene.heard, markers: [] };
    const by = Math.max(0, anchorOf(build) + spanOfPlayed(state, build).start);
    const plain = JSON.parse(JSON.stringify({ build, ...state, main: scene.main, movers: scene.movers })) as {
      build: Scene;
      tracks: Track[];
      effects: LineEffect[];
      cues: Cue[];
      main: NonNullable<Scene['main']>;
      movers: NonNullable<Scene['movers']>;
    };
    const cues = plain.cues.map((c) => ({ ...c, at: c.at - by }));
    const at = anchorOf(build) - by;
    const own = { build: { ...plain.build.build, anchor: at }, main: plain.main, movers: plain.movers };
    const of = { ...plain.build, ...own, length: 0 };
    return {
      of,
      cues,
      tracks: plain.tracks,
      effects: plain.effects,
      markers: [{ id: 1, sceneId: of.id, name: 'Anchor', at }],
    };
  }

  /** Makes it, and saves it. @param layers whether each layer goes beside it as it is heard, with its effects and movers */
  async function save(layers: boolean): Promise<void> {
    const build = scene.current;
    if (!build?.build || progress.value !== undefined) return;
    progress.value = 0;
    const { mixer, end } = startMixer();
    const stopped = new Promise<undefined>((done) => {
      stop = () => {
        end();
        done(undefined);
      };
    });
    const told = (from: number, part: number) => proxy((share: number) => void (progress.value = from + share * part));
    try {
      const { of, cues, tracks, effects, markers } = moved(build);
      const items = (await scene.itemsOf(scene.heard)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
      const known = (await library.need(cues.map((c) => c.soundId))).map(
        ({ id, fields, marks }) => [id, { fields, marks }] as const,
      );
      const sounds = new Map(known.map(([id, own]) => [id, JSON.parse(JSON.stringify(own)) as typeof own]));
      const title = fileNameOf(build.name);
      const made = await Promise.race([
        mixer.project(of, { tracks, effects }, cues, markers, items, sounds, told(0, layers ? 0.5 : 1)),
        stopped,
      ]);
      if (!made) return tell.info('It was cancelled; nothing was saved');
      let beside: (MixReport & { zip: Blob }) | undefined;
      if (layers) {
        const stems = stemsOf(tracks, cues, 'track', effects, fileNameOf);
        beside = await Promise.race([
          mixer.stems(of, stems, effects, lengthOfScene(of, cues), items, told(0.5, 0.5)),
          stopped,
        ]);
        if (!beside) return tell.info('It was cancelled; nothing was saved');
      }
      saveBlob(made.zip, `${title}.dawproject`);
      if (beside) saveBlob(beside.zip, `${title} layers.zip`);
      tell.done(
        `The project holds ${things(made.copied, 'file')} as ${made.copied === 1 ? 'it is' : 'they are'}${made.rendered > 0 ? ` and ${things(made.rendered, 'rendered part')}` : ''}`,
      );
      const lost = new Map([...made.missing, ...(beside?.missing ?? [])].map((m) => [m.name, m.reason]));
      for (const [name, reason] of lost) tell.error(`${name} is not in it: ${reason}`);
    } catch (error) {
      tell.error(`The project could not be made: ${(error as Error).message}`);
    } finally {
      end();
      stop = undefined;
      progress.value = undefined;
    }
  }

  return { progress, unsaid, shaped, save, cancel: () => stop?.() };
});
