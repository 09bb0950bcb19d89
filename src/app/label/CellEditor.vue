<script setup lang="ts">
import { fieldOf, licences, textOf, type Sound } from '@core/library';
import { Input, Select } from 'ant-design-vue';
import { computed, nextTick, onMounted, ref, useTemplateRef } from 'vue';
import { useLibrary } from '../stores/library';
import CategoryPicker from './CategoryPicker.vue';

/** Edits one cell with what its field asks for: Enter keeps, Escape leaves. */
const props = defineProps<{ sound: Sound; fieldKey: string }>();
const emit = defineEmits<{ keep: [text: string]; leave: [] }>();

const library = useLibrary();
const field = fieldOf(props.fieldKey);
const tagNames = new Map(library.tags.map((t) => [t.id, t.name]));
const before = textOf(field, props.sound.fields[props.fieldKey], tagNames);
const text = ref(before);
const input = useTemplateRef<{ focus: () => void }>('input');
let done = false;

const value = props.sound.fields[props.fieldKey];
const words = ref<string[]>(
  field.type === 'tags' ? ((value as number[] | undefined) ?? []).map((id) => tagNames.get(id) ?? '') : [...((value as string[] | undefined) ?? [])],
);
const listed = field.type === 'tags' || field.type === 'list';
const choices = computed(() =>
  props.fieldKey === 'licence' ? licences.map((l) => ({ value: l.code })) : ['Loop', 'Single', 'Several', 'Bed'].map((v) => ({ value: v })),
);
const tagOptions = computed(() => (field.type === 'tags' ? library.tags.map((t) => ({ value: t.name })) : []));

function keep(next = text.value): void {
  if (done) return;
  done = true;
  if (next === before) emit('leave');
  else emit('keep', next);
}
function leave(): void {
  done = true;
  emit('leave');
}
const joined = () => words.value.map((w) => w.replace(/[\\,]/g, '\\$&')).join(', ');
onMounted(() => void nextTick(() => input.value?.focus()));
</script>

<template>
  <CategoryPicker
    v-if="fieldKey === 'catId'"
    :value="String(value ?? '') || undefined"
    :label="field.label"
    focused
    class="editor"
    @choose="(catId) => keep(catId ?? '')"
    @leave="leave"
    @keydown.esc.stop="leave"
  />
  <Select
    v-else-if="field.type === 'choice'"
    ref="input"
    class="editor"
    default-open
    allow-clear
    :aria-label="field.label"
    :value="text || undefined"
    :options="choices"
    @change="(v: unknown) => keep(String(v ?? ''))"
    @blur="leave"
    @keydown.esc.stop="leave"
  />
  <Select
    v-else-if="listed"
    ref="input"
    v-model:value="words"
    mode="tags"
    class="editor"
    :aria-label="field.label"
    :options="tagOptions"
    :token-separators="[',', ';']"
    :open="field.type === 'tags' ? undefined : false"
    @blur="keep(joined())"
    @keydown.esc.stop="leave"
  />
  <Input.TextArea
    v-else-if="field.type === 'longtext'"
    ref="input"
    v-model:value="text"
    class="editor long"
    :aria-label="field.label"
    :auto-size="{ minRows: 1, maxRows: 5 }"
    @blur="keep()"
    @keydown.esc.stop="leave"
    @keydown.enter.exact.prevent="keep()"
  />
  <Input
    v-else
    ref="input"
    v-model:value="text"
    class="editor"
    :type="field.type === 'date' ? 'date' : 'text'"
    :inputmode="field.type === 'number' || field.type === 'stars' ? 'decimal' : undefined"
    :suffix="field.unit"
    :aria-label="field.label"
    @blur="keep()"
    @press-enter="keep()"
    @keydown.esc.stop="leave"
  />
</template>

<style scoped>
.editor {
  width: 100%;
  margin: 0 -6px;
}
</style>
