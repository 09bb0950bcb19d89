<script setup lang="ts">
import { Button, Dropdown, Menu, Select } from 'ant-design-vue';
import { computed } from 'vue';
import { useBuilds } from '../stores/builds';
import { useScene } from '../stores/scene';
import { copyScene, openScene, removeScene } from '../stores/scenes';

/** Which build one works on, and what can be done with it as a whole. */
const scene = useScene();
const builds = useBuilds();
const emit = defineEmits<{ rename: [] }>();
const options = computed(() => [...scene.builds].sort((a, b) => a.name.localeCompare(b.name)).map((s) => ({ value: s.id, label: s.name, title: s.name })));
function chosen({ key }: { key: string | number }): void {
  const of = scene.current;
  if (key === 'new') void builds.create();
  else if (!of) return;
  else if (key === 'name') emit('rename');
  else if (key === 'copy') void copyScene(of);
  else void removeScene(of);
}
</script>

<template>
  <Select
    v-if="options.length > 1"
    :value="scene.current?.id"
    :options="options"
    size="small"
    class="which"
    aria-label="Build"
    :dropdown-match-select-width="false"
    @change="(id) => openScene(id as number)"
  />
  <Dropdown :trigger="['click']">
    <Button size="small">Build …</Button>
    <template #overlay>
      <Menu aria-label="What can be done with builds" @click="chosen">
        <Menu.Item key="new">New build</Menu.Item>
        <Menu.Item key="name">Rename …</Menu.Item>
        <Menu.Item key="copy">Copy with all that it has</Menu.Item>
        <Menu.Divider />
        <Menu.Item key="remove" danger>Put into the bin</Menu.Item>
      </Menu>
    </template>
  </Dropdown>
</template>

<style scoped>
.which {
  width: 200px;
}
</style>
