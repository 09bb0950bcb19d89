<script setup lang="ts">
import { DeleteOutlined, PlusOutlined } from '@ant-design/icons-vue';
import { Button, Input, Tooltip } from 'ant-design-vue';
import { nextTick, ref } from 'vue';
import { count } from '../shared/controls/format';

/** Things with names in the side column: shown by a click, made under a new name, removed. */
const props = defineProps<{
  title: string;
  items: readonly { id: number; name: string; count?: number; here: boolean }[];
  /** What a thing is called in the middle of a sentence: `pull`. */
  noun: string;
  /** What making one does, in words. */
  make: string;
  cannotMake?: boolean;
  /** The name that is offered for a new one. */
  offered?: string;
  removeHint: string;
}>();
const emit = defineEmits<{ make: [name: string]; show: [id: number]; remove: [id: number]; drop: [event: DragEvent, id: number] }>();

const naming = ref(false);
const name = ref('');
const field = ref<{ focus: (o: { cursor: 'all' }) => void }>();

async function startNaming(): Promise<void> {
  name.value = props.offered ?? '';
  naming.value = true;
  await nextTick();
  field.value?.focus({ cursor: 'all' });
}
/** Enter and leaving the field both keep the name, once. */
function keep(): void {
  if (!naming.value) return;
  naming.value = false;
  const text = name.value.trim();
  if (text) emit('make', text);
}
</script>

<template>
  <div class="heading">
    <h2>{{ title }}</h2>
    <Tooltip :title="make"
      ><Button type="text" size="small" :disabled="cannotMake" :aria-label="make" @click="startNaming"
        ><template #icon><PlusOutlined /></template></Button
    ></Tooltip>
  </div>
  <Input
    v-if="naming"
    ref="field"
    v-model:value="name"
    size="small"
    :placeholder="`Name of the ${noun}`"
    :aria-label="`Name of the ${noun}`"
    @press-enter="keep"
    @blur="keep"
    @keydown.esc="naming = false"
  />
  <slot v-if="items.length === 0 && !naming" />
  <div v-for="item in items" :key="item.id" class="line" @dragover.prevent @drop="emit('drop', $event, item.id)">
    <button class="line-button" :class="{ here: item.here }" @click="emit('show', item.id)">
      <span class="cut" :title="item.name">{{ item.name }}</span>
      <span class="count">{{ item.count === undefined ? '' : count(item.count) }}</span>
    </button>
    <Tooltip :title="removeHint"
      ><Button class="remove" type="text" size="small" :aria-label="`Remove the ${noun} ${item.name}`" @click="emit('remove', item.id)"
        ><template #icon><DeleteOutlined /></template></Button
    ></Tooltip>
  </div>
</template>

<style scoped>
/* In the place of the count, so that counts stand in one column. */
.remove {
  position: absolute;
  right: 2px;
  background: var(--raft2);
  opacity: 0;
}
.line:hover .remove,
.remove:focus-visible {
  opacity: 1;
}
</style>
