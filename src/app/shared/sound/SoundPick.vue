<script setup lang="ts">
import { nameOf, type Sound } from '@core/library';
import { Select } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { catalogue } from '../../stores/workers';

/** One sound of the library, chosen by its words; before any are typed, the one that was heard last and those of the tray are offered. */
const props = defineProps<{ label: string; sound?: Sound; placeholder: string }>();
const emit = defineEmits<{ pick: [sound: Sound] }>();
const library = useLibrary();
const audition = useAudition();
/** Sounds that are offered at once. */
const MOST = 40;

const text = shallowRef('');
const found = shallowRef<readonly Sound[]>([]);
let asking = 0;
watch(
  [text, () => library.tray?.soundIds, () => audition.sound?.id],
  async () => {
    const mine = ++asking;
    const near = [audition.sound?.id ?? [], library.tray?.soundIds ?? []].flat();
    const ids = text.value.trim() === '' ? near : [...(await catalogue.ids({ text: text.value }))];
    const rows = await library.need([...new Set(ids)].slice(0, MOST));
    if (mine === asking) found.value = rows.filter((s) => !library.loose.has(s.rootId));
  },
  { immediate: true },
);
const options = computed(() => {
  const own = props.sound && !found.value.some((s) => s.id === props.sound!.id) && text.value === '' ? [props.sound] : [];
  return [...own, ...found.value].map((s) => ({ value: s.id, label: nameOf(s), title: s.path }));
});

/** The control takes null for nothing; undefined it would take for leaving that to itself. */
const shown = computed(() => (props.sound?.id ?? null) as number | undefined);

function chosen(id: unknown): void {
  const sound = found.value.find((s) => s.id === id);
  text.value = '';
  // The keys mean the screen again.
  if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  if (sound) emit('pick', sound);
}
</script>

<template>
  <Select
    size="small"
    show-search
    :value="shown"
    :filter-option="false"
    :options="options"
    :placeholder="placeholder"
    :aria-label="label"
    :dropdown-match-select-width="320"
    :not-found-content="text ? 'No sound has these words' : 'Type words of a sound'"
    class="pick"
    @search="(typed: string) => (text = typed)"
    @change="chosen"
  />
</template>

<style scoped>
.pick {
  width: 260px;
}
</style>
