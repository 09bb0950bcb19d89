<script setup lang="ts">
import { sliceKeys } from '@core/library';
import { whyNotWritten } from '@platform/index';
import { Button, Checkbox, Input, Select, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { fileWork } from '../stores/file-work';
import { useLibrary } from '../stores/library';
import { useSlices } from '../stores/slices';
import SlicePlace from './SlicePlace.vue';

/** What slices are called, and what becomes of them. */
const emit = defineEmits<{ done: [outcome: { written: number; failed: { path: string; reason: string }[]; stopped?: string }] }>();

const cut = useSlices();
const library = useLibrary();
const audition = useAudition();
const draft = computed(() => cut.current);

const spokenCount = computed(() => cut.list.reduce((sum, d) => sum + d.slices.filter((s) => s.spoken).length, 0));
const where = computed(() => [
  { value: 'parts', label: 'parts of their reels; nothing is written' },
  { value: 'files', label: 'files in' },
]);
const announcements = [
  { value: 'names', label: 'name what follows, and are left out' },
  { value: 'leave', label: 'are left out' },
  { value: 'keep', label: 'become sounds, too' },
];
const keysText = Object.entries(sliceKeys)
  .map(([key, what]) => `{${key}}: ${what}`)
  .join('\n');

async function keep(): Promise<void> {
  if (cut.named.length === 0 || cut.faults.length > 0) return;
  if (cut.target.files) {
    const root = library.roots.find((r) => r.id === cut.target.rootId);
    const why = root ? await whyNotWritten(root, 'asking').catch((e: Error) => e.message) : 'choose where they go';
    if (why !== undefined) return tell.error(`${root?.name ?? 'Nothing was written'}: ${why}.`);
  }
  audition.stop();
  try {
    const outcome = await cut.keep();
    emit('done', outcome);
    const { written, failed } = outcome;
    if (written > 0)
      tell.done(
        `${things(written, 'sound')} cut${failed.length > 0 ? `; ${things(failed.length, 'slice')} could not be written` : ''}. Ctrl Z takes them back`,
      );
  } catch (error) {
    tell.error(`Nothing was kept: ${(error as Error).message}`);
  }
}

useCommands('Labelling', [{ label: 'Keep the slices as sounds', keys: ['Shift+Enter'], run: () => void keep(), enabled: () => cut.named.length > 0 }]);
</script>

<template>
  <div class="tools keep" role="group" aria-label="What is kept">
    <span class="mute">Named</span>
    <Tooltip :title="cut.fault || `Fields of the reel, and:\n${keysText}`" overlay-class-name="lines"
      ><Input v-model:value="cut.naming.pattern" size="small" class="pattern mono" :status="cut.fault ? 'error' : ''" aria-label="Pattern for names"
    /></Tooltip>
    <span class="mute">from</span>
    <NumberBox class="short" :value="cut.naming.first" :min="0" :max="99999" aria-label="First number" @set="(v) => (cut.naming.first = v)" />
    <template v-if="spokenCount > 0">
      <span class="mute">{{ things(spokenCount, 'announcement') }}</span>
      <Select v-model:value="cut.naming.spoken" size="small" :options="announcements" aria-label="Announcements" :dropdown-match-select-width="false" />
    </template>
    <span class="mute">As</span>
    <Select
      size="small"
      :value="cut.target.files ? 'files' : 'parts'"
      :options="where"
      aria-label="What slices become"
      :dropdown-match-select-width="false"
      @change="(v) => (cut.target.files = v === 'files')"
    />
    <SlicePlace v-if="cut.target.files" />
    <Checkbox v-model:checked="cut.target.hide">Set reels aside</Checkbox>
    <span class="push" />
    <span v-if="cut.faults.length > 0" class="bad small cut" :title="cut.faults.join('\n')">{{ cut.faults[0] }}</span>
    <Button
      v-if="draft?.touched"
      size="small"
      title="Forgets what was changed by hand in this reel, and cuts it by the settings again"
      @click="cut.recut(draft!.reel.id)"
      >Cut anew</Button
    >
    <Tooltip :title="withKey('One step, which Ctrl Z takes back', 'Keep the slices as sounds')">
      <Button type="primary" :disabled="cut.named.length === 0 || cut.faults.length > 0 || cut.busy.reading || fileWork.what !== ''" @click="keep"
        >{{ cut.target.files ? 'Write' : 'Keep' }} {{ things(cut.named.length, 'sound') }}</Button
      >
    </Tooltip>
  </div>
</template>

<style scoped>
.keep {
  display: flex;
  align-items: center;
  gap: 8px;
  flex-wrap: wrap;
  row-gap: 6px;
  padding: 8px 16px;
  border-top: 1px solid var(--line);
  white-space: nowrap;
}
.short {
  width: 64px;
}
.pattern {
  width: 170px;
}
</style>
