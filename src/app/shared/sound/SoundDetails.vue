<script setup lang="ts">
import type { Origin, Sound } from '@core/library';
import { changeOf, fields, nameOf, shownNumber, type Field } from '@core/library';
import { spectrumBands } from '@core/audio';
import { isShowable } from '@core/files';
import { categoryName } from '@core/suggest';
import { Exchange, Service, toldPicture, type FactsRecord } from '@platform/index';
import { Button, Collapse, Tooltip } from 'ant-design-vue';
import { computed, defineAsyncComponent, onUnmounted, ref, shallowRef, watch } from 'vue';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { useServices } from '../../stores/services';
import { RouterLink } from 'vue-router';
import { catalogue, fileReader } from '../../stores/workers';
import { bytes } from '../controls/format';
import FullPath from '../controls/FullPath.vue';
import SameValues from '../list/SameValues.vue';
import MadeOf from './MadeOf.vue';

const props = defineProps<{ sound: Sound }>();
const emit = defineEmits<{ close: [] }>();

const Plot = defineAsyncComponent(() => import('./PlotView.vue'));
const library = useLibrary();
const prefs = usePrefs();
const facts = shallowRef<FactsRecord>();
const said = shallowRef<{ labels: Map<string, string>; warnings: string[] }>();
const trouble = ref('');
const artwork = ref('');
const unfolded = ref<string[]>([]);

const absence = computed(() => library.absence(props.sound));
const day = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium' });
const isFact = (f: Field) => f.fact !== undefined;
const technical = new Set(['length', 'channels', 'rate', 'bits', 'format', 'takeGroup', 'state']);
const values = computed(() => fields.filter((f) => props.sound.fields[f.key] !== undefined));
const labels = computed(() => values.value.filter((f) => !isFact(f) && !technical.has(f.key)));
const measured = computed(() => values.value.filter(isFact));
const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));

function shown(f: Field): string {
  const value = props.sound.fields[f.key];
  if (f.type === 'date') return day.format(value as number);
  if (f.type === 'tags') return (value as number[]).map((id) => tagNames.value.get(id) ?? '').join(', ');
  if (Array.isArray(value)) return value.join(', ');
  if (typeof value === 'number') return shownNumber(f, value);
  return f.key === 'catId' ? `${String(value)} (${categoryName(String(value))})` : String(value);
}

/** Where a value came from, in words: the block of the file, its name, a measurement, somebody's hand. */
function origin(from: Origin | undefined, key: string): string {
  if (!from || key === 'added' || key === 'heard') return '';
  if (from.startsWith('file ')) return from.slice(5);
  return { name: 'file name', folder: 'folder', measured: 'measured', suggested: 'suggested', typed: 'typed' }[from as string] ?? from;
}

watch(
  () => [props.sound.id, props.sound.hash] as const,
  async ([id]) => {
    const [record] = await catalogue.facts([id]);
    if (props.sound.id === id) facts.value = record;
  },
  { immediate: true },
);

/** What its publisher tells of it, where its file has no picture. */
async function toldArtwork({ picture }: Sound): Promise<{ mime: string; bytes: Uint8Array } | undefined> {
  const { exchange } = picture ? await useServices().look() : {};
  if (!picture || exchange === undefined) return undefined;
  const service = new Service(new URL(exchange, location.href).href, 'the exchange');
  const blob = await toldPicture(new Exchange(service), { ...picture });
  return { mime: picture.mime, bytes: new Uint8Array(await blob.arrayBuffer()) };
}

function letGo(): void {
  if (artwork.value) URL.revokeObjectURL(artwork.value);
  artwork.value = '';
}
onUnmounted(letGo);
watch(
  () => [props.sound.id, props.sound.quickHash, props.sound.picture?.sha256] as const,
  async ([id]) => {
    letGo();
    said.value = undefined;
    trouble.value = '';
    const root = library.rootById.get(props.sound.rootId);
    const { path, size, artwork: known } = props.sound;
    if (!root) return;
    try {
      const picture = (await fileReader().artwork({ ...root }, path, size, known && { ...known })) ?? (await toldArtwork(props.sound));
      // Only kinds that cannot carry a script of their own are shown.
      if (picture && props.sound.id === id && /^image\/(png|jpe?g|gif|webp|bmp)$/.test(picture.mime) && isShowable(picture.bytes))
        artwork.value = URL.createObjectURL(new Blob([picture.bytes as Uint8Array<ArrayBuffer>], { type: picture.mime }));
    } catch {
      // The rest of the panel is worth showing without its picture.
    }
  },
  { immediate: true },
);

watch([unfolded, () => props.sound.id], async () => {
  if (!unfolded.value.includes('said') || said.value) return;
  const { id, path, size, rootId } = props.sound;
  const root = library.rootById.get(rootId);
  try {
    const read = root && (await fileReader().labels({ ...root }, path, size));
    if (props.sound.id === id) said.value = read;
  } catch (error) {
    trouble.value = (error as Error).message;
  }
});

/** Tempo is found twice or half as fast as it is felt, often enough to deserve a button. */
function scaleTempo(by: number): void {
  const { tempo } = props.sound.fields;
  if (typeof tempo !== 'number') return;
  void library.edit(`Set the tempo of ${nameOf(props.sound)}`, [
    changeOf('sounds', props.sound, { 'fields.tempo': Number((tempo * by).toFixed(2)), 'from.tempo': 'typed' }),
  ]);
}

const loudness = computed(() => facts.value && Array.from(facts.value.loudness, (y, i) => [(i + 4) / 10, Math.max(-70, Math.round(y * 10) / 10)]));
const spectrum = computed(() => facts.value && Array.from(facts.value.spectrum, (y, i) => [Math.log10(spectrumBands[i]), Math.round(y * 10) / 10]));
const hertz = (log: number) => {
  const hz = 10 ** log;
  return hz < 950 ? `${Math.round(hz / 10) * 10}` : `${Number((hz / 1000).toFixed(1))}k`;
};
</script>

<template>
  <aside class="details" aria-label="Details">
    <div class="head">
      <img v-if="artwork" :src="artwork" alt="Artwork" width="56" height="56" />
      <div class="names">
        <strong class="cut"
          ><bdi>{{ nameOf(sound) }}</bdi></strong
        >
        <span class="mute small path"><FullPath :root="library.rootById.get(sound.rootId)" :path="sound.path" /></span>
        <span class="mono small mute"
          >{{ bytes(sound.size) }}, {{ sound.format.container }} {{ sound.format.rate / 1000 }} kHz, {{ sound.format.frames }} frames</span
        >
      </div>
      <Button size="small" type="text" aria-label="Close the details" @click="emit('close')">✕</Button>
    </div>

    <p v-if="absence" class="warning small">
      {{ absence === 'Missing' ? 'Its file is not where it was.' : 'Its folder is out of reach; what is known of it stays.' }}
      <RouterLink to="/intake/missing">Reconnect</RouterLink>
    </p>
    <p v-for="w in sound.warnings" :key="w" class="warning small">{{ w }}</p>

    <MadeOf :sound="sound" />
    <h2>Labels, and where each came from</h2>
    <dl>
      <div v-for="f in labels" :key="f.key">
        <dt>{{ f.label }}</dt>
        <dd>
          <SameValues :field="f" :value="sound.fields[f.key]" :shown="shown(f)" />
        </dd>
        <dd class="from mono">{{ origin(sound.from[f.key], f.key) }}</dd>
      </div>
    </dl>

    <h2>Facts</h2>
    <p v-if="!facts" class="mute small">
      {{ absence === 'Missing' ? 'The file is missing.' : absence ? 'The file is out of reach.' : 'Not measured yet; sounds on screen come first.' }}
    </p>
    <dl v-if="measured.length > 0" class="facts">
      <Tooltip v-for="f in measured" :key="f.key" :title="f.fact" placement="left">
        <div>
          <dt>{{ f.label }}</dt>
          <dd class="mono" :class="{ bad: f.key === 'clipped' && Number(sound.fields.clipped) > 0 }">
            <SameValues :field="f" :value="sound.fields[f.key]" :shown="shown(f)" />
            <template v-if="f.key === 'tempo'">
              <Button size="small" aria-label="Halve the tempo" @click="scaleTempo(0.5)">÷ 2</Button>
              <Button size="small" aria-label="Double the tempo" @click="scaleTempo(2)">× 2</Button>
            </template>
          </dd>
          <dd v-if="sound.from[f.key] !== 'measured'" class="from mono">{{ origin(sound.from[f.key], f.key) }}</dd>
        </div>
      </Tooltip>
    </dl>
    <template v-if="loudness && spectrum">
      <h3>Loudness over time</h3>
      <Plot
        :points="loudness"
        :colour="prefs.palette.glass"
        label="Loudness over time, LUFS"
        x-unit=" s"
        y-unit=" LUFS"
        :range="[0, sound.format.frames / sound.format.rate]"
      />
      <h3>Spectrum</h3>
      <Plot
        :points="spectrum"
        :colour="prefs.palette.sky"
        label="Spectrum, decibels over hertz"
        x-unit=" Hz"
        y-unit=" dB"
        :x-text="hertz"
        :range="[Math.log10(25), Math.log10(20000)]"
      />
    </template>

    <Collapse v-model:active-key="unfolded" ghost>
      <Collapse.Panel key="said" header="Everything the file says">
        <p v-if="trouble" class="warning small">{{ trouble }}</p>
        <p v-else-if="!said" class="mute small">Reading</p>
        <p v-else-if="said.labels.size === 0" class="mute small">Nothing: it has no labels in it.</p>
        <dl v-else class="said">
          <div v-for="[key, text] in said.labels" :key="key">
            <dt class="mono">{{ key }}</dt>
            <dd>
              <bdi>{{ text }}</bdi>
            </dd>
          </div>
        </dl>
      </Collapse.Panel>
    </Collapse>
  </aside>
</template>

<style scoped>
.details {
  padding: 12px 14px 24px;
  overflow-y: auto;
  background: var(--deep);
}
.head {
  display: flex;
  gap: 10px;
  align-items: start;
}
.head img {
  border-radius: 5px;
  object-fit: cover;
}
.names {
  display: grid;
  flex: 1;
  grid-template-columns: minmax(0, 1fr);
  min-width: 0;
}
.path {
  overflow-wrap: anywhere;
}
.small {
  font-size: 12px;
}
h2 {
  margin: 16px 0 4px;
}
h3 {
  margin: 10px 0 0;
  font-size: 12px;
  font-weight: 400;
  color: var(--mute);
}
dl {
  margin: 0;
}
dl > div {
  display: grid;
  grid-template-columns: 104px minmax(0, 1fr);
  gap: 0 8px;
  align-items: baseline;
  padding: 3px 0;
  border-bottom: 1px solid var(--line);
}
.said > div {
  grid-template-columns: minmax(0, 0.8fr) minmax(0, 1fr);
}
dt {
  color: var(--mute);
  font-size: 12px;
  overflow-wrap: anywhere;
}
dd {
  margin: 0;
  font-size: 13px;
  overflow-wrap: anywhere;
}
.facts dd {
  white-space: nowrap;
}
.facts button {
  padding: 0 5px;
}
.from {
  grid-column: 2;
  font-size: 12px;
  color: var(--mute);
}
.warning,
.bad {
  color: var(--coral);
}
</style>
