<script setup lang="ts">
import { fullShape, isPlain } from '@core/audio';
import { nameOf, type Sound } from '@core/library';
import { UCS_PATTERN } from '@core/naming';
import { chooseFolder, startTaker, type TakeAnswer } from '@platform/index';
import { Alert, AutoComplete, Button, Checkbox, Modal, Progress, RadioButton, RadioGroup, Select } from 'ant-design-vue';
import { proxy } from 'comlink';
import { computed, ref, shallowRef, watch } from 'vue';
import { tell } from '../../shell/notice';
import { useLibrary } from '../../stores/library';
import { usePrefs } from '../../stores/prefs';
import { things } from '../controls/format';
import { saveBlob } from './save';
import { patternFault, takeHow, takenOf, usablePattern } from './take';

/** Takes sounds away as files: one, or all that are listed. */
const props = defineProps<{ sound: Sound | undefined; listed: Uint32Array | number[] }>();
const open = defineModel<boolean>('open', { required: true });

const library = useLibrary();
const prefs = usePrefs();
const all = ref(false);
const progress = ref<number>();
const answer = shallowRef<TakeAnswer>();
let cancel = () => undefined as void;
/** More than this are taken in parts: an archive has to fit into memory. */
const MOST = 2000;

watch(open, () => {
  answer.value = undefined;
  all.value = false;
});

const depths = [
  { value: '16', label: 'WAV, 16 bit' },
  { value: '24', label: 'WAV, 24 bit' },
  { value: '32f', label: 'WAV, 32 bit float' },
  { value: '16 flac', label: 'FLAC, 16 bit' },
  { value: '24 flac', label: 'FLAC, 24 bit' },
];
const named = computed(() => patternFault(prefs.taking.pattern));
const patterns = [
  { value: '', label: 'As the files are called' },
  { value: UCS_PATTERN, label: 'UCS' },
  { value: '{library} - {fxName}', label: 'Library and name' },
];
const rates = [{ value: 0, label: 'Its own rate' }, ...[44100, 48000, 88200, 96000, 176400, 192000].map((value) => ({ value, label: `${value / 1000} kHz` }))];
const how = computed(() => takeHow(prefs.taking));
const hasRegion = computed(() => all.value || props.sound?.marks.region !== undefined);
const hasShape = computed(() => all.value || !isPlain(fullShape(props.sound?.marks.shape)));
const folders = 'showDirectoryPicker' in window;

async function take(into: 'file' | 'folder'): Promise<void> {
  const ids = all.value ? Array.from(props.listed).slice(0, MOST) : [];
  let folder: FileSystemDirectoryHandle | undefined;
  try {
    folder = into === 'folder' ? await chooseFolder('taken') : undefined;
  } catch {
    return;
  }
  progress.value = 0;
  answer.value = undefined;
  const { taker, end } = startTaker();
  const stopped = new Promise<undefined>((done) => {
    cancel = () => {
      end();
      done(undefined);
    };
  });
  try {
    const tags = new Map(library.tags.map((t) => [t.id, t.name]));
    const sounds = all.value ? await library.need(ids) : [props.sound!];
    const taken = takenOf(sounds, library.loadable, how.value, tags, usablePattern(prefs.taking.pattern));
    const made = taker.take(
      taken,
      tags,
      how.value,
      folder,
      proxy((share: number) => void (progress.value = share)),
    );
    const done = await Promise.race([made, stopped]);
    if (!done) return tell.info(folder ? 'Stopped; what was written so far stays in the folder' : 'Stopped; nothing was saved');
    answer.value = done;
    if (done.blob) saveBlob(done.blob, taken.length === 1 ? taken[0].name : `${things(done.written, 'sound')}.zip`);
    else if (folder && done.written > 0) tell.done(`${things(done.written, 'file')} written into ${folder.name}`);
    if (done.missing.length === 0 && done.clipped === 0) open.value = false;
  } catch (error) {
    tell.error(`It could not be saved: ${(error as Error).message}`);
  } finally {
    end();
    progress.value = undefined;
  }
}
</script>

<template>
  <Modal v-model:open="open" title="Save as a file" :footer="null" :width="520" :mask-closable="progress === undefined" @cancel="cancel()">
    <div class="take">
      <span>What</span>
      <RadioGroup v-model:value="all" size="small" aria-label="What">
        <RadioButton :value="false" :disabled="!sound">{{ sound ? nameOf(sound) : 'No sound is open' }}</RadioButton>
        <RadioButton :value="true" :disabled="listed.length === 0">All {{ things(Math.min(MOST, listed.length), 'sound') }} listed</RadioButton>
      </RadioGroup>
      <span />
      <div class="checks">
        <Checkbox v-model:checked="prefs.taking.region" :disabled="!hasRegion">Only the region</Checkbox>
        <Checkbox v-model:checked="prefs.taking.shaped" :disabled="!hasShape">With its shape</Checkbox>
      </div>
      <label for="take-depth">As</label>
      <div class="two">
        <Select id="take-depth" v-model:value="prefs.taking.depth" aria-label="Format" :options="depths" />
        <Select v-model:value="prefs.taking.rate" aria-label="Sample rate" :options="rates" />
      </div>
      <label for="take-names">Named</label>
      <AutoComplete
        id="take-names"
        v-model:value="prefs.taking.pattern"
        aria-label="Pattern of the names"
        placeholder="As the files are called"
        :options="patterns"
        :status="named ? 'error' : undefined"
      />
      <span v-if="named" />
      <span v-if="named" class="bad" role="alert">{{ named }} The names of the files are kept meanwhile.</span>
      <span />
      <Checkbox v-model:checked="prefs.taking.dither" :disabled="how.float">Dither</Checkbox>
    </div>
    <p class="mute">
      Labels go along; {{ how.flac ? 'FLAC has no markers, so the anchor stays behind' : 'the anchor becomes a marker' }}. The library stays as it is.
    </p>
    <Alert
      v-if="answer && answer.clipped > 0"
      type="warning"
      show-icon
      :message="`${things(answer.clipped, 'sample')} were clipped at full scale; lower the gain, or take 32 bit float`"
    />
    <Alert v-for="m in answer?.missing.slice(0, 5)" :key="m.name" type="error" show-icon :message="`${m.name} was not taken: ${m.reason}`" />
    <div class="foot">
      <Progress v-if="progress !== undefined" :percent="Math.round(progress * 100)" size="small" aria-label="Taking" />
      <Button v-if="progress !== undefined" @click="cancel()">Stop</Button>
      <template v-else>
        <Button v-if="folders" @click="take('folder')">Into a folder…</Button>
        <Button type="primary" :disabled="!sound && !all" @click="take('file')">{{ all ? 'Save as ZIP' : 'Save' }}</Button>
      </template>
    </div>
  </Modal>
</template>

<style scoped>
.take {
  display: grid;
  grid-template-columns: 60px 1fr;
  align-items: center;
  gap: 10px 12px;
}
.take :deep(.ant-radio-button-wrapper) {
  max-width: 270px;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.checks {
  display: flex;
  gap: 16px;
}
.two {
  display: grid;
  grid-template-columns: 1fr 1fr;
  gap: 10px;
}
.foot {
  display: flex;
  justify-content: flex-end;
  gap: 8px;
  margin-top: 12px;
}
</style>
