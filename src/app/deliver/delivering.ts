import {
  compareDelivery,
  isDue,
  lengthOfScene,
  manifestOf,
  movingOf,
  planOf,
  sampleToFrame,
  timecodeAt,
  type Cue,
  type DeliveryFile,
  type DeliveryRow,
  type LineEffect,
  type Stem,
  type Track,
} from '@core/scene';
import type { DeliveredFile } from '@core/schemas';
import { startMixer, type Lying, type MixReport } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore } from 'pinia';
import { computed, reactive, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { useScene } from '../stores/scene';
import { deliverer } from '../stores/workers';
import type { folderFor, rootFor } from './places';
import { projectSounds, useSceneFiles, type SceneFile, type Snapshot } from './scene-files';

/** What a delivery can hold. */
export type DeliveryPart = 'mix' | 'stems' | 'cues' | 'edl' | 'otio' | 'project' | 'sheet' | 'credits';
/** A folder that a delivery goes into. */
export type DeliveryTarget = Awaited<ReturnType<typeof folderFor> | ReturnType<typeof rootFor>>;

/** What came of a delivery. */
export interface DeliveryOutcome {
  written: number;
  same: number;
  failed: { path: string; reason: string }[];
  notes: { path: string; reason: string }[];
  stopped?: string;
}

type Mixing = ReturnType<typeof startMixer>['mixer'];
interface Context extends Snapshot {
  mixer: Mixing;
  told: (share: number) => void;
}
/** A file that is planned: how it is made, and what there is to say of it then. */
interface Planned extends DeliveryFile {
  make: (context: Context) => Promise<{ blob: Blob; report?: MixReport }>;
}

/** A short sum of what something is made from; maps count as their entries. */
async function sumOf(from: unknown): Promise<string> {
  const text = JSON.stringify(from, (_, value: unknown) =>
    value instanceof Map ? [...(value as Map<unknown, unknown>)] : value,
  );
  const bytes = new Uint8Array(await crypto.subtle.digest('SHA-256', new TextEncoder().encode(text)));
  return Array.from(bytes.subarray(0, 16), (b) => b.toString(16).padStart(2, '0')).join('');
}

/** A scene on its way out as a folder of files: what it would come to, what came of it. */
export const useDelivering = defineStore('delivering', () => {
  const scene = useScene();
  const files = useSceneFiles();
  const parts = useLocalStorage<DeliveryPart[]>('delivery parts', ['mix', 'stems', 'otio', 'sheet', 'credits']);
  const rows = shallowRef<DeliveryRow[]>();
  /** Why nothing can be delivered into the folder that was looked at. */
  const fault = shallowRef('');
  const outcome = shallowRef<DeliveryOutcome>();
  const work = reactive({ running: false, share: 0, done: 0, total: 0, current: '', started: 0 });
  let target: DeliveryTarget | undefined;
  let planned: Planned[] = [];
  let stop: () => void = () => undefined;

  /** All that a part of the mix is made from. */
  const source = (tracks: readonly Track[], cues: readonly Cue[], effects: readonly LineEffect[]) => {
    const { name, fps, startFrame, sampleRate, length } = scene.current!;
    const sounds = [...new Set([...cues.map((c) => c.soundId), ...effects.flatMap((e) => e.sound?.id ?? [])])].map(
      (id) => [id, files.used.get(id)?.quickHash],
    );
    return [
      files.form,
      { name, fps, startFrame, sampleRate, length },
      planOf(tracks, cues, effects, scene.main, movingOf(scene.current!, cues)),
      sounds,
    ];
  };

  async function stemFile(folder: string, what: string, stem: Stem): Promise<Planned> {
    const { tracks, cues, part } = stem;
    const form = { ...files.form };
    return {
      path: `${folder}/${stem.name}.${files.ending}`,
      what: `${what}: ${files.formName}`,
      of: await sumOf([source(tracks, cues, scene.effects), part]),
      make: async ({ mixer, s, lines, cues: all, items, told }) => {
        const report = await mixer.stem(
          s,
          stem,
          [...lines.effects],
          lengthOfScene(s, all),
          items,
          told,
          new Date(),
          form,
        );
        return { blob: report.file, report };
      },
    };
  }

  /** A list, which is made already. */
  async function listFile(what: string, { name, blob }: SceneFile, from?: unknown): Promise<Planned> {
    return { path: name, what, of: await sumOf(from ?? (await blob.text())), make: () => Promise.resolve({ blob }) };
  }

  async function plan(): Promise<Planned[]> {
    await files.load();
    const { title, form, formName, ending } = files;
    const makers: Record<DeliveryPart, () => Promise<Planned[]>> = {
      mix: async () => [
        {
          path: `${title} mix.${ending}`,
          what: `Mix: ${formName}`,
          of: await sumOf(source(scene.lines, scene.cues, scene.effects)),
          make: async ({ mixer, s, lines, cues, items, told }) => {
            const report = await mixer.mix(s, lines, cues, items, told, new Date(), undefined, { ...form });
            return { blob: report.file, report };
          },
        },
      ],
      stems: () => {
        const by = files.stemsBy === 'cue' ? 'track' : files.stemsBy;
        return Promise.all(files.parts(by).map((stem) => stemFile('Stems', `Stem of a ${by}`, stem)));
      },
      cues: () => Promise.all(files.parts('cue').map((stem) => stemFile('Cues', 'Cue', stem))),
      edl: () => Promise.all(files.edls().map((file) => listFile('Edit list, CMX 3600', file))),
      otio: async () => [await listFile('Timeline, OpenTimelineIO', files.otio())],
      project: async () => {
        const sounds = projectSounds(files.used);
        const markers = scene.markers.map((m) => ({ ...m }));
        const from = [source(scene.lines, scene.cues, scene.effects), scene.lines, scene.cues, markers, [...sounds]];
        return [
          {
            path: `${title}.dawproject`,
            what: 'Project with its sounds, DAWproject',
            of: await sumOf(from),
            make: async ({ mixer, s, lines, cues, items, told }) => {
              const { zip, missing } = await mixer.project(s, lines, cues, markers, items, sounds, told);
              return { blob: zip, report: { missing, clipped: 0, peak: 0 } };
            },
          },
        ];
      },
      sheet: async () => {
        const file = { path: files.sheetName, what: 'Cue sheet', of: await sumOf(files.sheetSource()) };
        return [{ ...file, make: async () => ({ blob: (await files.sheet()).blob }) }];
      },
      credits: async () => {
        const file = files.creditFile();
        return file ? [await listFile('Credits', file)] : [];
      },
    };
    const order = Object.keys(makers) as DeliveryPart[];
    const chosen = order.filter((part) => parts.value.includes(part));
    return (await Promise.all(chosen.map((part) => makers[part]()))).flat();
  }

  /** Looks what a delivery would come to in a folder. @throws Error in words */
  async function look(into: DeliveryTarget): Promise<void> {
    outcome.value = undefined;
    target = into;
    planned = await plan();
    const paths = planned.map((f) => f.path);
    const { manifest, fault: why = '', sizes }: Lying = await (await deliverer()).look(into, files.title, paths);
    fault.value = why;
    const plain = planned.map(({ path, what, of }) => ({ path, what, of }));
    rows.value = compareDelivery(plain, manifest, sizes);
  }

  /** Delivers what is due, looks whether the rest is still what was delivered, and writes manifest and sums. @throws Error in words */
  async function deliver(): Promise<void> {
    const [into, all, s] = [target, rows.value, scene.current];
    if (!into || !all || !s || work.running || fault.value) return;
    const done: DeliveryOutcome = { written: 0, same: 0, failed: [], notes: [] };
    const delivered = new Map<string, DeliveredFile>();
    /** What somebody else has changed. */
    const spoilt = new Set<string>();
    const out = await deliverer();
    const { mixer, end } = startMixer();
    const stopped = new Promise<undefined>((resolve) => {
      stop = () => {
        done.stopped = 'it was stopped';
        end();
        resolve(undefined);
      };
    });
    const due = all.filter((r) => r.state !== 'former');
    Object.assign(work, {
      running: true,
      share: 0,
      done: 0,
      total: due.length,
      current: '',
      started: performance.now(),
    });
    const told = proxy((share: number) => void (work.share = (work.done + share) / due.length));
    try {
      const snapshot = await files.snapshot();
      for (const row of due) {
        if (done.stopped !== undefined) break;
        const { path, state, before } = row;
        work.current = path;
        try {
          if (state === 'foreign') throw new Error('another file lies in its place, which is left as it is');
          if (!isDue(row)) {
            if (!(await out.isWhole(into, files.title, before!)))
              throw Object.assign(new Error('somebody changed it since it was delivered; it is left as it is'), {
                name: 'NotWritten',
              });
            done.same++;
          } else {
            const { what, of, make } = planned.find((p) => p.path === path)!;
            const made = await Promise.race([make({ ...snapshot, mixer, told }), stopped]);
            if (!made) break;
            delivered.set(path, await out.put(into, files.title, { path, what, of, blob: made.blob }, before));
            done.written++;
            for (const { name, reason } of made.report?.missing ?? [])
              done.notes.push({ path, reason: `${name} is silent in it: ${reason}` });
            const clipped = made.report?.clipped ?? 0;
            if (clipped > 0)
              done.notes.push({ path, reason: `${things(clipped, 'sample')} above full scale had to be clipped` });
          }
        } catch (error) {
          const { name, message: reason } = error as Error;
          done.failed.push({ path, reason });
          if (name === 'NotWritten') spoilt.add(path);
          if (name === 'WritingStopped' || name === 'RootUnavailable') done.stopped = reason;
        }
        work.done++;
        work.share = work.done / due.length;
      }
      const about = {
        ...{ scene: s.name, fps: s.fps, made: new Date().toISOString(), start: timecodeAt(s, 0) },
        end: timecodeAt(s, sampleToFrame(lengthOfScene(s, scene.cues), scene.rate, s.sampleRate)),
      };
      const rows = all.map((r) => (spoilt.has(r.path) ? { ...r, state: 'foreign' as const } : r));
      if (delivered.size > 0 || done.same > 0)
        await out
          .close(into, files.title, manifestOf(about, rows, delivered))
          .catch((error: Error) => (done.stopped ??= `its manifest could not be written: ${error.message}`));
    } finally {
      end();
      work.running = false;
      rows.value = undefined;
      outcome.value = done;
    }
  }

  // What was looked at holds no more once anything of it has changed.
  const asIs = computed(() => [scene.current, scene.lines, scene.effects, scene.main, scene.cues, scene.markers]);
  const how = computed(() =>
    JSON.stringify([
      parts.value,
      files.form,
      files.stemsBy,
      files.handle,
      files.sheetForm,
      files.creditForm,
      files.job,
    ]),
  );
  watch([asIs, how], () => {
    if (!work.running) rows.value = undefined;
  });

  return { parts, rows, fault, outcome, work, look, deliver, cancel: () => stop() };
});
