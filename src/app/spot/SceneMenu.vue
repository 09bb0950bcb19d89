<script setup lang="ts">
import { Button, Dropdown, Input, Menu, Modal, Select } from 'ant-design-vue';
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import { useScene } from '../stores/scene';
import ListDialog from './ListDialog.vue';
import SceneFileDialog from './SceneFileDialog.vue';
import { copyScene, newScene, openScene, removeScene, renameScene } from '../stores/scenes';

/** Which scene one works on, and what can be done with it as a whole. */
const scene = useScene();
const naming = ref(false);
const name = ref('');
const box = useTemplateRef<{ select: () => void }>('box');
const lists = useTemplateRef('lists');
const files = useTemplateRef('files');
const options = computed(() => [...scene.scenes].sort((a, b) => a.name.localeCompare(b.name)).map((s) => ({ value: s.id, label: s.name })));

async function rename(): Promise<void> {
  name.value = scene.current!.name;
  naming.value = true;
  await nextTick();
  box.value?.select();
}
async function named(): Promise<void> {
  naming.value = false;
  if (scene.current) await renameScene(scene.current, name.value);
}
function chosen({ key }: { key: string | number }): void {
  const of = scene.current;
  if (key === 'new') void newScene();
  else if (key === 'open') files.value?.choose();
  else if (!of) return;
  else if (key === 'name') void rename();
  else if (key === 'copy') void copyScene(of);
  else if (key === 'list') lists.value?.choose();
  else void removeScene(of);
}
</script>

<template>
  <Select
    v-if="scene.current"
    :value="scene.current.id"
    :options="options"
    size="small"
    class="which"
    aria-label="Scene"
    :dropdown-match-select-width="false"
    @change="(id) => openScene(id as number)"
  />
  <Dropdown :trigger="['click']">
    <Button size="small">Scene …</Button>
    <template #overlay>
      <Menu aria-label="What can be done with scenes" @click="chosen">
        <Menu.Item key="new">New scene</Menu.Item>
        <Menu.Item key="open">Open a scene file …</Menu.Item>
        <Menu.Item key="name" :disabled="!scene.current">Rename …</Menu.Item>
        <Menu.Item key="copy" :disabled="!scene.current">Copy with all that it has</Menu.Item>
        <Menu.Item key="list" :disabled="!scene.current">Take in a list, timeline or project …</Menu.Item>
        <Menu.Divider />
        <Menu.Item key="remove" danger :disabled="!scene.current">Put into the bin</Menu.Item>
      </Menu>
    </template>
  </Dropdown>
  <ListDialog ref="lists" />
  <SceneFileDialog ref="files" />
  <Modal v-model:open="naming" title="Name of the scene" :footer="null" :width="420">
    <form class="form" @submit.prevent="named">
      <Input ref="box" v-model:value="name" :maxlength="200" aria-label="Name of the scene" />
      <Button type="primary" html-type="submit">Done</Button>
    </form>
  </Modal>
</template>

<style scoped>
.which {
  width: 220px;
}
.form {
  display: flex;
  gap: 10px;
}
</style>
