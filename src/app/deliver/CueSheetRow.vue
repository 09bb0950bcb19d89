<script setup lang="ts">
import { writeDelimited, type Sound } from '@core/library';
import { cueSheet, cueSheetCells, frameToSample, fromTimecode, type Cue } from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { Button, Select } from 'ant-design-vue';
import { proxy } from 'comlink';
import { ref } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { save, saveBlob } from '../shared/take/save';
import { tell } from '../shell/notice';
import { usePicture } from '../stores/picture';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';
import { film, startMixer } from '../stores/workers';
import { cuePage } from './cue-page';

/** The cue sheet: every cue that is heard with its times, track, sound and licence. */
const props = defineProps<{ used: ReadonlyMap<number, Sound>; fileOf: (cue: Cue) => string }>();
const scene = useScene();
const library = useLibrary();
const picture = usePicture();
type Form = 'csv' | 'xlsx' | 'page';
const form = useLocalStorage<Form>('cue sheet', 'csv');
const forms = [
  { value: 'csv', label: 'as CSV', title: 'as CSV' },
  { value: 'xlsx', label: 'as XLSX', title: 'as XLSX' },
  { value: 'page', label: 'as a page to print', title: 'as a page to print' },
];
const busy = ref(false);
/** Frames that a page shows at the most, and how high they are, pixels. */
const [MOST, HIGH] = [600, 80];

const rows = () =>
  cueSheet(scene.current!, scene.tracks, scene.cues, (cue) => {
    const sound = props.used.get(cue.soundId);
    const licence = (sound?.fields.licence as string | undefined) ?? '';
    const of = sound && ((sound.fields.library as string | undefined) ?? library.rootById.get(sound.rootId)?.name);
    return { file: props.fileOf(cue), library: of ?? '', licence };
  });

/** Frames of the picture at the anchors, as data URLs by timecode. */
async function framesAt(timecodes: readonly string[]): Promise<Map<string, string>> {
  const made = new Map<string, string>();
  const { picture: of, root, facts } = picture;
  if (!of || !root || !facts || !scene.current) return made;
  const wanted = [...new Set(timecodes)].slice(0, MOST);
  const first = scene.current.startFrame + (of.offset ?? 0);
  const times = wanted.map((t) => facts.first + frameToSample(fromTimecode(t, scene.rate) - first, scene.rate, RATE) / RATE + 0.001);
  // What lies before or behind the picture has no frame.
  const inside = wanted.flatMap((t, i) => (times[i] >= facts.first ? [{ t, at: times[i] }] : [])).sort((a, b) => a.at - b.at);
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
  await film.strip(
    { ...root },
    of.path,
    facts.size,
    inside.map((w) => w.at),
    HIGH,
    take,
  );
  await Promise.all(drawn);
  return made;
}

async function make(): Promise<void> {
  if (!scene.current || busy.value) return;
  busy.value = true;
  const name = `${scene.current.name} cue sheet`;
  try {
    const all = rows();
    if (form.value === 'csv') save(writeDelimited(cueSheetCells(all), ','), 'text/csv', `${name}.csv`);
    else if (form.value === 'xlsx') {
      const { mixer, end } = startMixer();
      try {
        saveBlob(await mixer.workbook(cueSheetCells(all), 'Cues'), `${name}.xlsx`);
      } finally {
        end();
      }
    } else {
      // A page without pictures is still a cue sheet.
      const frames = await framesAt(all.map((r) => r.anchor)).catch((error: Error) => {
        tell.info(`The page has no pictures: ${error.message}`);
        return new Map<string, string>();
      });
      save(cuePage(scene.current, all, frames), 'text/html', `${name}.html`);
    }
  } catch (error) {
    tell.error(`The cue sheet could not be made: ${(error as Error).message}`);
  } finally {
    busy.value = false;
  }
}

useCommands('Using a sound', [{ label: 'Save the cue sheet', keys: ['u'], run: () => void make() }]);
</script>

<template>
  <li>
    <div>
      <strong>Cue sheet</strong
      ><span class="mute">Every cue that is heard: in, out, anchor, track, sound, file and licence; the page has the frames of the picture</span>
    </div>
    <Select v-model:value="form" :options="forms" aria-label="Form of the cue sheet" class="by" />
    <Button :loading="busy" @click="make">Save the cue sheet</Button>
  </li>
</template>
