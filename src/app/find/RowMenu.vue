<script setup lang="ts">
import { fieldOf, nameOf, type Sound } from '@core/library';
import { canFacet } from '@core/search';
import { Dropdown, Menu } from 'ant-design-vue';
import type { ItemType } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { useValueName } from './useValueName';

/** What can be done with a row: found by its values, compared, held, set aside. Opened by a right click or the menu key. */
const emit = defineEmits<{ choose: [id: number]; alike: []; hold: []; aside: [] }>();

const find = useFind();
const library = useLibrary();
const open = ref(false);
const sound = ref<Sound>();

/** Fields by which one looks for sounds of the same kind. */
const looked = ['catId', 'stem', 'library', 'licence', 'folder', 'author', 'manufacturer', 'microphone', 'keywords', 'tags'];
const values = computed(() =>
  looked.flatMap((key) => {
    const value = sound.value?.fields[key];
    if (value === undefined || value === '' || !canFacet(fieldOf(key))) return [];
    return (Array.isArray(value) ? (value as (string | number)[]) : [value as string]).slice(0, 5).map((v) => ({ key, value: String(v) }));
  }),
);
const valueName = useValueName();
const label = ({ key, value }: { key: string; value: string }) =>
  key === 'stem' ? 'All takes of this sound' : `${fieldOf(key).label}: ${valueName(key, value)}`;
const items = computed<ItemType[]>(() => [
  { key: 'alike', label: 'Find alike' },
  { key: 'hold', label: 'Hold in the tray' },
  { key: 'aside', label: 'Set aside' },
  { type: 'divider' },
  ...values.value.map((v, i) => ({ key: `only ${i}`, label: label(v) })),
  { type: 'divider' },
  {
    key: 'leave',
    label: 'Leave out',
    children: values.value.map((v, i) => ({ key: `leave ${i}`, label: label(v) })),
  },
]);

/** Takes the row under the pointer; beside the rows there is no menu. */
function ask(event: MouseEvent): void {
  const id = Number((event.target as HTMLElement).closest<HTMLElement>('[data-sound]')?.dataset.sound);
  sound.value = library.sounds.get(id);
  if (sound.value) emit('choose', id);
}
function change(shown: boolean): void {
  open.value = shown && sound.value !== undefined;
}
function act({ key }: { key: string | number }): void {
  open.value = false;
  const [what, at] = String(key).split(' ');
  const value = values.value[Number(at)];
  if (what === 'alike') emit('alike');
  else if (what === 'hold') emit('hold');
  else if (what === 'aside') emit('aside');
  else if (value) find.toggleFacet(value.key, value.value, what === 'leave');
}
</script>

<template>
  <Dropdown :open="open" :trigger="['contextmenu']" @open-change="change">
    <div class="rows" @contextmenu.capture="ask"><slot /></div>
    <template #overlay>
      <Menu v-if="sound" :items="items" :aria-label="`What to do with ${nameOf(sound)}`" @click="act" />
    </template>
  </Dropdown>
</template>

<style scoped>
.rows {
  min-height: 0;
  height: 100%;
}
</style>
