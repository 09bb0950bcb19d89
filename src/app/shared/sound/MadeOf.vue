<script setup lang="ts">
import { saidOfRoll } from '@core/build';
import { nameOf, type Sound } from '@core/library';
import { patches, rollFrom } from '@core/synth';
import { Button } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import { RouterLink, useRouter } from 'vue-router';
import { tell } from '../../shell/notice';
import { useLibrary } from '../../stores/library';
import { useMaking } from '../../stores/making';
import { useScene } from '../../stores/scene';

/** What a sound was built of, each found from here, and the way back to its build; or what it was made by, where it was made from nothing. */
const props = defineProps<{ sound: Sound }>();
const library = useLibrary();
const scene = useScene();
const making = useMaking();
const router = useRouter();
const parents = shallowRef<readonly Sound[]>([]);
watch(
  () => props.sound.built?.of,
  async (ids = []) => {
    const found = await library.need(ids);
    if (ids === (props.sound.built?.of ?? ids)) parents.value = found;
  },
  { immediate: true },
);
const build = computed(() => scene.builds.find((b) => b.id === props.sound.built?.build));
const query = (sound: Sound) => ({ name: 'find', query: { q: `"${nameOf(sound).replaceAll('"', '')}"` } });
async function open(): Promise<void> {
  if (!build.value) return;
  scene.buildId = build.value.id;
  await router.push({ name: 'build' });
  tell.info(`The build is as it was left. As it was for ${nameOf(props.sound)}, it is among the versions under Build …`);
}
const roll = computed(() => props.sound.made && rollFrom(props.sound.made));
async function openRoll(): Promise<void> {
  if (!props.sound.made || !making.open(props.sound.made)) return;
  await router.push({ name: 'build', params: { part: 'make' } });
}
</script>

<template>
  <section v-if="sound.built" aria-label="What it was built of">
    <h2>Built of</h2>
    <ul>
      <li v-for="parent in parents" :key="parent.id">
        <RouterLink :to="query(parent)">{{ nameOf(parent) }}</RouterLink> <span class="mute small">{{ parent.fields.licence ?? 'no licence stated' }}</span>
      </li>
    </ul>
    <Button v-if="build" size="small" @click="open">Open its build</Button>
    <p v-else-if="sound.built.build" class="mute small">Its build is in the bin, or was thrown away.</p>
  </section>
  <section v-if="sound.made" aria-label="What it was made by">
    <h2>Made from nothing</h2>
    <p v-if="roll">{{ patches[roll.family].name }}: {{ saidOfRoll(roll) }}</p>
    <p v-else class="mute small">By a family that is not known here.</p>
    <Button v-if="roll" size="small" @click="openRoll">Open what it was made by</Button>
  </section>
</template>

<style scoped>
ul {
  margin: 4px 0 8px;
  padding: 0;
  list-style: none;
}
</style>
