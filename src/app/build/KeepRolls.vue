<script setup lang="ts">
import { labelsOfRoll } from '@core/build';
import { categoryOf } from '@core/suggest';
import { Button, Input, Modal } from 'ant-design-vue';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useMadePlace } from '../stores/made-place';
import { useMaking } from '../stores/making';
import PlaceRow from './PlaceRow.vue';

/** Makes sounds of the library of what was rolled: what they will be and where they go is seen before. */
const making = useMaking();
const place = useMadePlace();
const open = ref(false);
const name = ref('');
const failure = ref('');
const box = useTemplateRef<{ select: () => void }>('box');
const several = computed(() => making.meant.length > 1);
const called = computed(() => name.value.trim());
const faults = computed(() => place.faultsOf(called.value));
const said = computed(() => {
  const first = making.meant[0];
  if (!first) return [];
  const { fields } = labelsOfRoll(called.value, first, making.madeAs(first)?.facts ?? {}, categoryOf(making.patch.catId));
  return [
    ['Category', [fields.category, fields.subCategory].filter(Boolean).join(', ')],
    ['Keywords', (fields.keywords as string[]).join(', ')],
    ['Description', String(fields.description)],
  ];
});

async function show(): Promise<void> {
  const [first] = making.meant;
  if (!first) return;
  name.value = making.madeAs(first)?.name ?? making.patch.name;
  failure.value = '';
  open.value = true;
  await nextTick();
  box.value?.select();
}
async function keep(): Promise<void> {
  if (faults.value.length > 0) return;
  failure.value = '';
  const { sounds, where, failure: why } = await making.keep(making.meant, called.value);
  if (sounds.length === 0) {
    failure.value = `The sound was not made: ${why ?? 'nobody knows why'}.`;
    return;
  }
  open.value = false;
  tell.done(sounds.length === 1 ? `${called.value} is a sound now, at ${where}` : `${things(sounds.length, 'sound')} made, from ${where} on`);
  if (why !== undefined) tell.error(`Not all of them were written: ${why}`);
}
defineExpose({ show });
</script>

<template>
  <Modal v-model:open="open" :title="several ? `Keep ${things(making.meant.length, 'sound')}` : 'Keep as a sound'" :width="560" :footer="null">
    <form class="form" @submit.prevent="keep">
      <label for="roll-name">Name</label>
      <Input id="roll-name" ref="box" v-model:value="name" :maxlength="200" aria-label="Name of the sound" />
      <label for="roll-root">Goes to</label>
      <PlaceRow id="roll-root" />
      <template v-for="[key, value] in said" :key="key">
        <span class="mute">{{ key }}</span><span class="value">{{ value }}</span>
      </template>
      <span class="mute">{{ several ? 'The files' : 'The file' }}</span>
      <span class="value mono small">{{ place.pathOf(`${called || '…'}${several ? ' 01' : ''}`) }}, 24 bit, stereo{{ several ? ', and so on' : '' }}</span>
      <span v-for="fault in [...faults, failure].filter(Boolean)" :key="fault" class="bad wide" role="alert">{{ fault }}</span>
      <span class="tools wide">
        <span class="push" />
        <Button @click="open = false">Cancel</Button>
        <Button type="primary" html-type="submit" :loading="making.busy" :disabled="faults.length > 0 || making.busy"
          >Keep {{ several ? 'them' : 'it' }}</Button
        >
      </span>
    </form>
  </Modal>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr);
  gap: 8px 12px;
  align-items: baseline;
}
.wide {
  grid-column: 1 / -1;
}
.value {
  overflow-wrap: anywhere;
}
</style>
