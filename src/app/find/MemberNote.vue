<script setup lang="ts">
import { nameOf, type Pull, type Sound } from '@core/library';
import { Button, Input } from 'ant-design-vue';
import { ref, watch } from 'vue';
import { useCommands } from '../shared/controls/commands';
import { usePulls } from '../stores/pulls';
import PopPanel from '../shared/controls/PopPanel.vue';

/** What is noted on a sound in a list, and only there. */
const props = defineProps<{ pull: Pull; sound: Sound }>();

const pulls = usePulls();
const open = ref(false);
const text = ref('');
const area = ref<{ focus: () => void }>();

watch(open, (shown) => {
  if (shown) text.value = props.pull.notes?.[props.sound.id] ?? '';
  else if (text.value.trim() !== (props.pull.notes?.[props.sound.id] ?? '')) void pulls.note(props.pull, props.sound.id, text.value);
});
// It takes the focus once it stands in its place.
watch(area, (field) => field && setTimeout(() => field.focus(), 50));
useCommands('Labelling', [{ label: 'Note on this sound in the list', keys: ['n'], run: () => (open.value = true) }]);
</script>

<template>
  <PopPanel v-model:open="open" placement="topLeft">
    <Button size="small" :aria-expanded="open">{{ pull.notes?.[sound.id] ? 'Note ✓' : 'Note' }}</Button>
    <template #panel>
      <Input.TextArea
        ref="area"
        v-model:value="text"
        :rows="3"
        :maxlength="2000"
        :aria-label="`Note on ${nameOf(sound)} in ${pull.name}`"
        :placeholder="`What ${pull.name} wants of it`"
        style="width: 320px"
        @keydown.enter.exact.prevent="open = false"
      />
    </template>
  </PopPanel>
</template>
