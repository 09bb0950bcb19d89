<script setup lang="ts">
import { Modal, Select } from 'ant-design-vue';
import { computed, nextTick, ref, watch } from 'vue';
import { distinct, keyLabel, keysOf } from '../shared/controls/commands';

const open = defineModel<boolean>('open', { required: true });
const select = ref<{ focus: () => void }>();
const chosen = ref<string>();

const options = computed(() =>
  distinct().map((c) => ({
    value: c.label,
    label: keysOf(c).length > 0 ? `${c.label}  (${keyLabel(keysOf(c)[0])})` : c.label,
  })),
);

/** What is typed right after the key must land in the field: it gets the focus as soon as it is there. */
function focusSoon(): void {
  if (select.value) select.value.focus();
  else if (open.value) requestAnimationFrame(focusSoon);
}
watch(open, (is) => is && void nextTick(focusSoon));

function run(label: string): void {
  open.value = false;
  chosen.value = undefined;
  distinct()
    .find((c) => c.label === label)
    ?.run();
}
</script>

<template>
  <Modal v-model:open="open" title="Find a command" :footer="null" width="460px">
    <label for="command" class="unseen">Command</label>
    <Select
      id="command"
      ref="select"
      v-model:value="chosen"
      show-search
      :options="options"
      option-filter-prop="label"
      placeholder="What do you want to do?"
      class="wide"
      @select="(label: unknown) => run(String(label))"
    />
  </Modal>
</template>

<style scoped>
.wide {
  width: 100%;
}
</style>
