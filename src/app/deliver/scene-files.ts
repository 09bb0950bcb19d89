import { writeDelimited, type Sound } from '@core/library';
import {
  credits,
  creditsCrawl,
  creditsCsv,
  creditsMarkdown,
  cueFilesOf,
  cueSheet,
  cueSheetCells,
  frameToSample,
  fromTimecode,
  layouts,
  mixDepths,
  mixRates,
  stemsOf,
  writeEdls,
  writeOtio,
  type Cue,
  type CueRow,
  type Lines,
  type MixDepth,
  type MixForm,
  type MixLayout,
  type Scene,
  type Stem,
  type StemKind,
} from '@core/scene';
import { fileNameOf, RATE, startMixer, type Loadable } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { proxy } from 'comlink';
import { defineStore, storeToRefs } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { usePicture } from '../stores/picture';
import { usePrefs } from '../stores/prefs';
import { useScene } from '../stores/scene';
import { film } from '../stores/workers';
import { creditPart } from './credit-part';
import { cuePage } from './cue-page';

/** A file that was made of a scene. */
export interface SceneFile {
  name: string;
  blob: Blob;
}

/** What a mix is made from, as a worker takes it. */
export interface Snapshot {
  s: Scene;
  lines: Lines;
  cues: Cue[];
  items: Loadable[];
}

export type SheetForm = 'csv' | 'xlsx' | 'page';
export type CreditForm = 'sheet' | 'crawl' | 'markdown' | 'html';

/** Frames of the picture that a page shows at the most, and how high they are, pixels. */
const [MOST, HIGH] = [600, 80];

const kilohertz = (rate: number) => `${rate / 1000} kHz`;
const kindName = ({ flac, name }: MixDepth) => (flac ? name : `WAV, ${name}`);
const option = <T>(value: T, label: string) => ({ value, label, title: label });

/** The choices that people have for files of a scene. */
export const fileChoices = {
  depths: mixDepths.map((depth) => option(depth.key, kindName(depth))),
  rates: mixRates.map((rate) => option(rate, kilohertz(rate))),
  channels: (Object.keys(layouts) as MixLayout[]).map((key) => option(key, layouts[key].name)),
  stems: [
    option<StemKind | 'cue'>('track', 'of each track'),
    option<StemKind | 'cue'>('bus', 'of each bus'),
    option<StemKind | 'cue'>('group', 'of each group'),
    option<StemKind | 'cue'>('cue', 'of each cue'),
  ],
  sheets: [
    option<SheetForm>('csv', 'as CSV'),
    option<SheetForm>('xlsx', 'as XLSX'),
    option<SheetForm>('page', 'as a page to print'),
  ],
  credits: [
    option<CreditForm>('sheet', 'as CSV'),
    option<CreditForm>('crawl', 'for an end crawl'),
    option<CreditForm>('markdown', 'as Markdown'),
    option<CreditForm>('html', 'as HTML'),
  ],
};

/** What a project needs to know of sounds, as a worker takes it. */
export const projectSounds = (used: ReadonlyMap<number, Sound>): Map<number, Pick<Sound, 'fields' | 'marks'>> =>
  new Map(
    [...used].map(([id, { fields, marks }]) => [
      id,
      JSON.parse(JSON.stringify({ fields, marks })) as Pick<Sound, 'fields' | 'marks'>,
    ]),
  );

/** The files of a scene: how people want them, and how they are made. */
export const useSceneFiles = defineStore('sceneFiles', () => {
  const scene = useScene();
  const library = useLibrary();
  const picture = usePicture();

  // How
  const depthKey = useLocalStorage('mix depth', mixDepths[0].key);
  const rate = useLocalStorage('mix rate', RATE);
  const kept = useLocalStorage<MixLayout>('mix layout', 'stereo');
  const layout = computed({
    get: () => (Object.hasOwn(layouts, kept.value) ? kept.value : 'stereo'),
    set: (key) => (kept.value = key),
  });
  const depth = computed(() => mixDepths.find((d) => d.key === depthKey.value) ?? mixDepths[0]);
  const form = computed((): MixForm => ({ ...depth.value, rate: rate.value, layout: layout.value }));
  /** What such a file is, in words. */
  const formName = computed(() => {
    return `${kindName(depth.value)}, ${kilohertz(rate.value)}, ${layouts[layout.value].name}`;
  });
  const ending = computed(() => (depth.value.flac ? 'flac' : 'wav'));
  const stemsBy = useLocalStorage<StemKind | 'cue'>('stems by', 'track');
  /** Seconds of its sound that the file of a cue has on either side of it. */
  const handle = useLocalStorage('handles of cues', 1);
  const sheetForm = useLocalStorage<SheetForm>('cue sheet', 'csv');
  const creditForm = useLocalStorage<CreditForm>('form of credits', 'sheet');
  const { job } = storeToRefs(usePrefs());
  const title = computed(() => fileNameOf(scene.current?.name ?? 'scene'));

  // Of what
  const used = shallowRef(new Map<number, Sound>());
  async function load(): Promise<void> {
    const rows = await library.needOrigins([...scene.cues.map((c) => c.soundId), ...scene.answering]);
    used.value = new Map(rows.map((s) => [s.id, s]));
  }
  watch(() => [scene.cues, scene.answering], load);
  const creditLines = computed(() =>
    credits(scene.cues, (id) => used.value.get(id), job.value, scene.current?.allowed, scene.answering),
  );
  /** The path of a cue's sound as another program would look for it: library folder and path below it. */
  function fileOf(cue: Cue): string {
    const sound = used.value.get(cue.soundId);
    return sound ? `${library.rootById.get(sound.rootId)?.name ?? ''}/${sound.path}` : cue.name;
  }
  async function snapshot(): Promise<Snapshot> {
    const lines = { tracks: scene.lines, effects: scene.effects };
    const plain = JSON.parse(JSON.stringify({ s: scene.current, lines, cues: scene.cues })) as Omit<Snapshot, 'items'>;
    const items = (await scene.itemsOf(scene.cues)).map((i) => ({ sound: { ...i.sound }, root: { ...i.root } }));
    return { ...plain, items };
  }
  function parts(by: StemKind | 'cue'): Stem[] {
    const frames = (id: number) => used.value.get(id)?.format.frames;
    const { lines, cues, effects, current } = scene;
    const all =
      by === 'cue'
        ? cueFilesOf(lines, cues, effects, current!.sampleRate, handle.value, frames, fileNameOf)
        : stemsOf(lines, cues, by, effects, fileNameOf);
    return JSON.parse(JSON.stringify(all)) as Stem[];
  }

  // Lists
  const text = (name: string, content: string, type = 'text/plain'): SceneFile => ({
    name,
    blob: new Blob([content], { type }),
  });
  const edls = (): SceneFile[] =>
    writeEdls(scene.current!, scene.tracks, scene.cues, fileOf).map(({ tracks, text: content }) => {
      const part = scene.tracks.length > 4 ? ` tracks ${tracks[0]}-${tracks[1]}` : '';
      return text(`${title.value}${part}.edl`, content);
    });
  const otio = (): SceneFile =>
    text(
      `${title.value}.otio`,
      writeOtio(scene.current!, scene.tracks, scene.cues, fileOf, scene.markers),
      'application/json',
    );
  const sheetRows = () =>
    cueSheet(scene.current!, scene.tracks, scene.cues, (cue) => {
      const sound = used.value.get(cue.soundId);
      const licence = (sound?.fields.licence as string | undefined) ?? '';
      const of = sound && ((sound.fields.library as string | undefined) ?? library.rootById.get(sound.rootId)?.name);
      return { file: fileOf(cue), library: of ?? '', licence };
    });

  /** Frames of the picture at the anchors, as data URLs by timecode. */
  async function framesAt(timecodes: readonly string[]): Promise<Map<string, string>> {
    const made = new Map<string, string>();
    const { picture: of, root, facts } = picture;
    if (!of || !root || !facts || !scene.current) return made;
    const wanted = [...new Set(timecodes)].slice(0, MOST);
    const first = scene.current.startFrame + (of.offset ?? 0);
    const times = wanted.map(
      (t) => facts.first + frameToSample(fromTimecode(t, scene.rate) - first, scene.rate, RATE) / RATE + 0.001,
    );
    // What lies before or behind the picture has no frame.
    const inside = wanted
      .flatMap((t, i) => (times[i] >= facts.first ? [{ t, at: times[i] }] : []))
      .sort((a, b) => a.at - b.at);
    const drawn: Promise<void>[] = [];
    const take = proxy((i: number, image: ImageBitmap) => {
      const canvas = new OffscreenCanvas(image.width, image.height);
      canvas.getContext('2d')!.drawImage(image, 0, 0);
      image.close();
      drawn.push(
        canvas.convertToBlob({ type: 'image/jpeg', quality: 0.8 }).then(async (blob) => {
          const bytes = new Uint8Array(await blob.arrayBuffer());
          made.set(inside[i].t, `data:image/jpeg;base64,${btoa(String.fromCharCode(...bytes))}`);
        }),
      );
    });
    const at = inside.map((w) => w.at);
    await film().strip({ ...root }, of.path, facts.size, at, HIGH, take);
    await Promise.all(drawn);
    return made;
  }

  async function pageOf(rows: readonly CueRow[]): Promise<string> {
    // A page without pictures is still a cue sheet.
    const frames = await framesAt(rows.map((r) => r.anchor)).catch((error: Error) => {
      tell.info(`The page has no pictures: ${error.message}`);
      return new Map<string, string>();
    });
    return cuePage(scene.current!, rows, frames);
  }
  const sheetName = computed(() => `${title.value} cue sheet.${sheetForm.value === 'page' ? 'html' : sheetForm.value}`);
  /** All that a cue sheet is made from. */
  const sheetSource = () => [
    sheetForm.value,
    cueSheetCells(sheetRows()),
    ...(sheetForm.value === 'page' ? [picture.picture] : []),
  ];
  async function sheet(): Promise<SceneFile> {
    const [rows, name] = [sheetRows(), sheetName.value];
    if (sheetForm.value === 'csv') return text(name, writeDelimited(cueSheetCells(rows), ','), 'text/csv');
    if (sheetForm.value === 'page') return text(name, await pageOf(rows), 'text/html');
    const { mixer, end } = startMixer();
    try {
      return { name, blob: await mixer.workbook(cueSheetCells(rows), 'Cues') };
    } finally {
      end();
    }
  }

  /** The credits; undefined where there is nothing to print. */
  function creditFile(): SceneFile | undefined {
    const lines = creditLines.value;
    const name = `${title.value} credits`;
    if (creditForm.value === 'sheet') return text(`${name}.csv`, creditsCsv(lines), 'text/csv');
    if (!lines.some((l) => l.credit)) return undefined;
    if (creditForm.value === 'crawl') return text(`${name}.txt`, creditsCrawl(lines));
    if (creditForm.value === 'markdown') return text(`${name}.md`, creditsMarkdown(lines), 'text/markdown');
    return text(`${name}.html`, creditPart(lines), 'text/html');
  }

  return {
    ...{ depthKey, rate, layout, depth, form, formName, ending, stemsBy, handle, sheetForm, creditForm, job, title },
    ...{ used, load, creditLines, fileOf, snapshot, parts, edls, otio, sheetSource, sheetName, sheet, creditFile },
  };
});
