<script setup lang="ts">
import { nameOf, type Sound } from '@core/library';
import { Dropdown, Menu } from 'ant-design-vue';
import type { ItemType } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useLibrary } from '../stores/library';
import { useSameValue } from '../shared/list/useSameValue';

/** What can be done with a row: found by its values, compared, held, set aside. Opened by a right click or the menu key. */
const emit = defineEmits<{ choose: [id: number]; alike: []; hold: []; aside: [] }>();

const library = useLibrary();
const open = ref(false);
const sound = ref<Sound>();

/** Fields by which one looks for sounds of the same kind. */
const looked = ['catId', 'takeGroup', 'library', 'licence', 'folder', 'author', 'manufacturer', 'microphone', 'keywords', 'tags'];
const measured = ['length', 'channels', 'rate', 'pitch', 'tempo', 'loudness', 'brightness', 'added'];
const same = useSameValue();
const valuesOf = (keys: readonly string[]) => keys.flatMap((key) => same.valuesOf(key, sound.value?.fields[key]).slice(0, 5));
const shared = computed(() => valuesOf(looked));
const near = computed(() => valuesOf(measured));
const items = computed<ItemType[]>(() => [
  { key: 'alike', label: 'Find alike' },
  { key: 'hold', label: 'Hold in the tray' },
  { key: 'aside', label: 'Set aside' },
  { type: 'divider' },
  { key: 'words', label: 'The words of its name' },
  ...shared.value.map((v, i) => ({ key: `only ${i}`, label: v.label })),
  { key: 'near', label: 'About the same', children: near.value.map((v, i) => ({ key: `near ${i}`, label: v.label })) },
  { type: 'divider' },
  {
    key: 'leave',
    label: 'Leave out',
    children: shared.value.map((v, i) => ({ key: `leave ${i}`, label: v.label })),
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
  const value = (what === 'near' ? near : shared).value[Number(at)];
  if (what === 'alike') emit('alike');
  else if (what === 'hold') emit('hold');
  else if (what === 'aside') emit('aside');
  else if (what === 'words') same.lookForWords(sound.value!);
  else if (value) same.look(value, what === 'leave');
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
