import { anchorOf, builtSound, type Parent } from '@core/build';
import { nameFaults } from '@core/naming';
import type { Sound } from '@core/library';
import type { AudioFormat } from '@core/files';
import type { Cue, LineEffect, MainLine, Scene, Track, Version } from '@core/scene';
import { additionOf } from '@core/library';
import { RATE, startMixer, whyNotWritten, type MixReport, type RootRecord } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import { useBuilds } from './builds';
import { makeFiles } from './file-work';
import { useIntake } from './intake';
import { useLibrary } from './library';
import { useScene } from './scene';
import { catalogue } from './workers';

/** Samples that effects may ring on for at the most. */
const RINGS = 30 * RATE;
/** Bytes of a frame: two channels of 24 bit. */
const FRAME = 6;
/** What sounds are kept in that have no folder of their own. */
const OWN = 'Built sounds';

/** Making a sound of a build: its file, its labels from its layers, and the build with it. */
export const useKeeping = defineStore('keeping', () => {
  const scene = useScene();
  const builds = useBuilds();
  const library = useLibrary();
  const intake = useIntake();
  /** Where built sounds go: 0 for the browser's own storage. Asked for once. */
  const target = useLocalStorage('build-target', { rootId: 0, folder: 'Built' });
  /** Share that is rendered; undefined while nothing is. */
  const progress = ref<number>();
  let end: (() => void) | undefined;

  const places = computed(() => [
    ...library.roots
      .filter((r) => !r.removed && r.kind !== 'copied')
      .map((r) => ({ value: r.id, label: r.name, title: r.name })),
    { value: 0, label: 'the browser’s own storage', title: 'the browser’s own storage' },
  ]);
  const isHere = computed(() => places.value.some((p) => p.value === target.value.rootId));

  /** The sounds that are heard in the build, each once, as loud as its loudest layer. */
  const parents = computed<Parent[]>(() => {
    const loud = new Map<number, number>();
    for (const { track, cues } of builds.layers) {
      if (track.mute) continue;
      for (const { soundId, gain } of cues)
        loud.set(soundId, Math.max(loud.get(soundId) ?? -Infinity, track.gain + gain));
    }
    const used = new Set(scene.answering);
    const own = [...loud].sort((a, b) => b[1] - a[1]);
    for (const id of used) if (!loud.has(id)) own.push([id, -Infinity]);
    return own.flatMap(([id, gain]) => {
      const sound = library.sounds.get(id);
      return sound ? [{ sound, gain }] : [];
    });
  });

  const folders = computed(() =>
    target.value.folder
      .split('/')
      .map((f) => f.trim())
      .filter(Boolean),
  );
  const pathOf = (name: string) => [...(target.value.rootId === 0 ? [] : folders.value), `${name}.wav`].join('/');
  const faultsOf = (name: string) =>
    [...(target.value.rootId === 0 ? [] : folders.value), `${name}.wav`].flatMap((part) => nameFaults(part));

  /** The root that sounds go to; the browser's own is made when it is first needed. */
  async function rootFor(): Promise<RootRecord | string> {
    const { rootId } = target.value;
    if (rootId !== 0) {
      const root = library.roots.find((r) => r.id === rootId);
      if (!root) return 'choose where it goes';
      return (await whyNotWritten(root, 'asking').catch((e: Error) => e.message)) ?? root;
    }
    const own = library.roots.find((r) => r.kind === 'copied' && r.name === OWN && !r.removed);
    if (own) return own;
    const [id] = await catalogue.newIds('roots', 1);
    const root: RootRecord = { id, name: OWN, kind: 'copied', added: Date.now() };
    return (await library.edit(`Add ${OWN}`, [additionOf('roots', root)], false)) ? root : 'there is no room for it';
  }

  /** A name that no sound of that place has yet. */
  async function freePath(root: RootRecord, name: string): Promise<string> {
    for (let n = 1; ; n++) {
      const path = pathOf(n === 1 ? name : `${name} ${n}`);
      const [taken] = await catalogue.idsOfPlaces([{ root: root.name, path }]);
      if (taken === undefined) return path;
    }
  }

  interface Rendered extends MixReport {
    audio: Blob;
    frames: number;
    from: number;
  }
  /** Renders the build from its first sample until it has died away. */
  async function render(build: Scene): Promise<Rendered | undefined> {
    const from = Math.max(0, anchorOf(build) + builds.span.start);
    const to = anchorOf(build) + builds.span.end;
    const plain = JSON.parse(
      JSON.stringify({ build, tracks: scene.lines, effects: scene.effects, cues: scene.heard, main: scene.main }),
    ) as { build: Scene; tracks: Track[]; effects: LineEffect[]; cues: Cue[]; main: MainLine };
    const items = (await scene.itemsOf(scene.heard)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
    const { mixer, end: stop } = startMixer();
    const stopped = new Promise<undefined>((done) => {
      end = () => {
        stop();
        done(undefined);
      };
    });
    try {
      const told = proxy((share: number) => void (progress.value = share));
      const lines = { tracks: plain.tracks, effects: plain.effects };
      const of = { ...plain.build, main: plain.main };
      const made = mixer.oneShot(of, lines, plain.cues, items, told, { from, to, rings: RINGS });
      const got = await Promise.race([made, stopped]);
      return got && { ...got, from };
    } finally {
      stop();
      end = undefined;
    }
  }

  interface Outcome {
    id?: number;
    path?: string;
    failure?: string;
    report?: MixReport;
    cancelled?: boolean;
  }
  /** Makes the sound, keeps the build as it is now as a version, and has each know of the other: one step that can be taken back. */
  async function keep(name: string): Promise<Outcome> {
    const build = scene.current;
    if (!build?.build || progress.value !== undefined) return { failure: 'it is being made already' };
    progress.value = 0;
    try {
      const root = await rootFor();
      if (typeof root === 'string') return { failure: root };
      const path = await freePath(root, name);
      const made = await render(build);
      if (!made) return { cancelled: true };
      const [[id], [versionId]] = await Promise.all([catalogue.newIds('sounds', 1), catalogue.newIds('versions', 1)]);
      const now = Date.now();
      const format: AudioFormat = {
        ...{
          container: 'WAV',
          encoding: 'pcm',
          unsigned: false,
          littleEndian: true,
          rate: build.sampleRate,
          channels: 2,
        },
        ...{ bits: 24, blockAlign: FRAME, frames: made.frames, dataOffset: 0 },
      };
      const anchor = anchorOf(build) - made.from;
      const file = { rootId: root.id, rootName: root.name, path, size: made.audio.size, format, anchor, now };
      const of = parents.value.map((p) => p.sound.id);
      const part = builtSound(name, parents.value, file, { of, build: build.id, version: versionId });
      const version: Version = { ...scene.state, id: versionId, sceneId: build.id, name, at: now };
      const plain = JSON.parse(JSON.stringify({ part, version })) as { part: Omit<Sound, 'id'>; version: Version };
      const item = { id, part: plain.part, path, rendered: made.audio };
      const outcome = await makeFiles([item], root.id, 'Build', [additionOf('versions', plain.version)]);
      const [failed] = outcome.failed;
      if (failed || outcome.written === 0)
        return { failure: failed?.reason ?? outcome.stopped ?? 'it was not written' };
      void intake.measure([id]);
      return { id, path: `${root.name}/${path}`, report: made };
    } catch (error) {
      return { failure: (error as Error).message };
    } finally {
      progress.value = undefined;
    }
  }

  return { target, places, isHere, parents, faultsOf, pathOf, progress, keep, cancel: () => end?.() };
});
