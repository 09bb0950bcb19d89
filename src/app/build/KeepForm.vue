<script setup lang="ts">
import { Button, Input, Modal } from 'ant-design-vue';
import { nextTick, useTemplateRef, watch } from 'vue';
import { useMadePlace } from '../stores/made-place';
import PlaceRow from '../shared/take/PlaceRow.vue';

/** Asks how a sound that was made here is called and where it goes, and shows what it will be. What else can be chosen stands in its slots. */
const props = defineProps<{
  id: string;
  title: string;
  /** What its labels will be. */
  said: readonly (readonly string[])[];
  /** Why it cannot be made, or was not. */
  faults: readonly string[];
  file: string;
  busy: boolean;
  keeps: string;
}>();
const emit = defineEmits<{ keep: []; cancel: [] }>();
const open = defineModel<boolean>('open', { required: true });
const name = defineModel<string>('name', { required: true });
const place = useMadePlace();
const box = useTemplateRef<{ select: () => void }>('box');
watch(open, async (is) => {
  if (!is) return;
  await nextTick();
  box.value?.select();
});
</script>

<template>
  <Modal v-model:open="open" :title="props.title" :width="560" :footer="null" :mask-closable="!busy" @cancel="emit('cancel')">
    <form class="form" @submit.prevent="faults.length === 0 && emit('keep')">
      <label :for="`${id}-name`">Name</label>
      <Input :id="`${id}-name`" ref="box" v-model:value="name" :maxlength="200" aria-label="Name of the sound" />
      <label :for="`${id}-root`">Goes to</label>
      <PlaceRow :id="`${id}-root`" />
      <slot />
      <template v-for="[key, value] in said" :key="key">
        <span class="mute">{{ key }}</span><span class="value">{{ value }}</span>
      </template>
      <span class="mute">The file</span><span class="value mono small">{{ place.pathOf(file) }}, 24 bit, stereo</span>
      <span v-for="fault in faults" :key="fault" class="bad wide" role="alert">{{ fault }}</span>
      <span class="tools wide">
        <slot name="progress"><span class="push" /></slot>
        <Button @click="emit('cancel')">Cancel</Button>
        <Button type="primary" html-type="submit" :disabled="faults.length > 0 || busy">{{ keeps }}</Button>
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
