<script setup lang="ts">
import type { Sound } from '@core/library';
import { beginningOf, frameRates, movedBy, type Incoming } from '@core/scene';
import type { ReadList } from '@platform/index';
import { Alert, Checkbox, Modal, Select } from 'ant-design-vue';
import { computed, ref, shallowRef, useTemplateRef } from 'vue';
import { things } from '../shared/controls/format';
import { readList, soundsOfClips, takeIn } from '../stores/incoming';
import { useScene } from '../stores/scene';
import { useTransport } from '../stores/transport';

/** Takes an edit list or a timeline from elsewhere into the scene: first what it holds is seen, then what of it comes in is chosen. */
const scene = useScene();
const transport = useTransport();
const input = useTemplateRef('input');
const file = shallowRef<File>();
const fps = ref('24');
const by = ref<'timecode' | 'first' | 'playhead'>('timecode');
const list = shallowRef<ReadList>();
const sounds = shallowRef<readonly (Sound | undefined)[]>([]);
const looking = ref(false);
const wanted = ref({ cuts: true, markers: true, clips: true });
const failure = ref('');
/** Names that are shown of what is not there. */
const SHOWN = 8;

const rates = frameRates.map(({ name }) => ({ value: name, label: name, title: name }));
const places = [
  { value: 'timecode', label: 'by its timecode', title: 'by its timecode' },
  { value: 'first', label: 'from the scene’s first frame on', title: 'from the scene’s first frame on' },
  { value: 'playhead', label: 'from the playhead on', title: 'from the playhead on' },
];

async function picked(event: Event): Promise<void> {
  const box = event.target as HTMLInputElement;
  const chosen = box.files?.[0];
  // The same file can be chosen again.
  box.value = '';
  if (!chosen || !scene.current) return;
  file.value = chosen;
  fps.value = scene.current.fps;
  await read(true);
}
/** Of a list that lies elsewhere altogether, the timecode is another one's. */
function fits(read: Incoming): boolean {
  const { length } = scene.current!;
  return [...read.clips.map((c) => c.start), ...read.cuts.map((c) => c.at)].some((at) => at >= 0 && at <= length);
}
/** Rises with each reading: what an earlier one finds comes too late. */
let reading = 0;
async function read(first = false): Promise<void> {
  const [of, from] = [scene.current, file.value];
  if (!of || !from) return;
  const mine = ++reading;
  failure.value = '';
  sounds.value = [];
  try {
    looking.value = true;
    const held = await readList(from, of, fps.value);
    if (mine !== reading) return;
    list.value = held;
    if (first) {
      by.value = fits(held) || held.clips.length + held.cuts.length === 0 ? 'timecode' : 'first';
      wanted.value = { cuts: true, markers: true, clips: true };
    }
    const found = await soundsOfClips(held.clips, from);
    if (mine === reading) sounds.value = found;
  } catch (error) {
    if (mine !== reading) return;
    list.value = undefined;
    failure.value = `${from.name}: ${(error as Error).message}`;
  } finally {
    if (mine === reading) looking.value = false;
  }
}
const unknown = computed(() => {
  const names = (list.value?.clips ?? []).flatMap((c, i) => (sounds.value[i] ? [] : c.file.split(/[\\/]/).at(-1) || c.name));
  return [...new Set(names)];
});
const known = computed(() => sounds.value.filter((s) => s !== undefined).length);
const isAny = computed(() => {
  const { cuts, markers, clips } = wanted.value;
  const of = list.value;
  return of !== undefined && ((cuts && of.cuts.length > 0) || (markers && of.markers.length > 0) || (clips && known.value > 0));
});
function close(): void {
  reading++;
  looking.value = false;
  file.value = undefined;
  list.value = undefined;
}
async function take(): Promise<void> {
  if (!list.value) return;
  const to = by.value === 'timecode' ? undefined : by.value === 'first' ? 0 : transport.position;
  const placed = to === undefined ? list.value : movedBy(list.value, to - beginningOf(list.value));
  if (await takeIn({ ...placed, name: placed.name || file.value!.name }, wanted.value, sounds.value)) close();
}
defineExpose({ choose: () => input.value?.click() });
</script>

<template>
  <input ref="input" type="file" hidden accept=".edl,.otio,.dawproject,.txt,.json" aria-label="Edit list, timeline or project" @change="picked" />
  <Modal
    :open="file !== undefined"
    :title="`Take in ${file?.name ?? ''}`"
    ok-text="Take it in"
    :ok-button-props="{ disabled: !isAny || looking }"
    :width="560"
    @ok="take"
    @cancel="close"
  >
    <p v-if="looking" class="mute" role="status">Reading it, and looking for its sounds in the library …</p>
    <Alert v-if="failure" type="error" :message="failure" />
    <div v-if="file && (list?.counted || failure)" class="line">
      <label for="list-rate" class="mute">It counts</label>
      <Select
        id="list-rate"
        v-model:value="fps"
        size="small"
        :options="rates"
        class="rate"
        aria-label="Frames a second that the list counts"
        @change="() => read()"
      />
      <span class="mute">frames a second</span>
    </div>
    <template v-if="list">
      <div class="line">
        <label for="list-place" class="mute">It is placed</label>
        <Select id="list-place" v-model:value="by" size="small" :options="places" class="place" aria-label="Where the list is placed" />
      </div>
      <div class="parts">
        <Checkbox v-model:checked="wanted.cuts" :disabled="list.cuts.length === 0">{{ things(list.cuts.length, 'cut') }} of its picture, as events</Checkbox>
        <Checkbox v-model:checked="wanted.markers" :disabled="list.markers.length === 0">{{ things(list.markers.length, 'marker') }}</Checkbox>
        <Checkbox v-model:checked="wanted.clips" :disabled="known === 0">{{ things(list.clips.length, 'clip') }}, as cues on tracks of their names</Checkbox>
      </div>
      <p v-if="!looking && unknown.length > 0" class="warn">
        {{ things(unknown.length, 'file') }} {{ unknown.length === 1 ? 'is' : 'are' }} not in this library, and
        {{ unknown.length === 1 ? 'its clips stay' : 'their clips stay' }} out: <bdi>{{ unknown.slice(0, SHOWN).join(', ') }}</bdi>{{
          unknown.length > SHOWN ? ` and ${unknown.length - SHOWN} more` : ''
        }}
      </p>
      <section v-if="list.problems.length > 0" aria-label="What comes in otherwise, or not at all">
        <strong>Otherwise than there, or not at all</strong>
        <ul class="problems">
          <li v-for="(p, i) in list.problems.slice(0, 200)" :key="i">{{ p }}</li>
        </ul>
      </section>
    </template>
  </Modal>
</template>

<style scoped>
.line {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 8px;
}
.rate {
  width: 110px;
}
.place {
  width: 240px;
}
.parts {
  display: grid;
  gap: 4px;
  margin: 12px 0;
}
.problems {
  max-height: 160px;
  margin: 4px 0 0;
  padding-left: 18px;
  overflow: auto;
}
.warn {
  color: var(--brass);
}
</style>
