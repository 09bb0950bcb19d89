<script setup lang="ts">
import { Modal, Select } from 'ant-design-vue';
import { computed, nextTick, ref, watch } from 'vue';
import { useRouter } from 'vue-router';
import { stages } from '../router';
import { commands, keyLabel, type Command } from '../shared/commands';

const open = defineModel<boolean>('open', { required: true });
const router = useRouter();
const select = ref<{ focus: () => void }>();
const chosen = ref<string>();

const all = computed<Command[]>(() => [
  ...commands.flat(),
  ...stages.map((s) => ({ label: `Go to ${s.label}`, keys: [], run: () => void router.push({ name: s.name }) })),
]);
const options = computed(() =>
  [...new Map(all.value.map((c) => [c.label, c])).values()].map((c) => ({
    value: c.label,
    label: c.keys.length > 0 ? `${c.label}  (${keyLabel(c.keys[0])})` : c.label,
  })),
);

watch(open, (is) => is && nextTick(() => setTimeout(() => select.value?.focus(), 50)));

function run(label: string): void {
  open.value = false;
  chosen.value = undefined;
  all.value.find((c) => c.label === label)?.run();
}
</script>

<template>
  <Modal v-model:open="open" title="Find a command" :footer="null" width="460px">
    <Select
      ref="select"
      v-model:value="chosen"
      show-search
      :options="options"
      option-filter-prop="label"
      placeholder="What do you want to do?"
      aria-label="Command"
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
