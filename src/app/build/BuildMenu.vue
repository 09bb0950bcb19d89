<script setup lang="ts">
import { Button, Dropdown, Menu } from 'ant-design-vue';
import { computed } from 'vue';
import { useBuilds } from '../stores/builds';
import { useScene } from '../stores/scene';
import { copyScene, openScene, removeScene } from '../stores/scenes';
import { keepVersion, returnTo } from '../stores/versions';

/** Which build one works on, and what can be done with it as a whole. */
const scene = useScene();
const builds = useBuilds();
const emit = defineEmits<{ rename: [] }>();
const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const all = computed(() => [...scene.builds].sort((a, b) => a.name.localeCompare(b.name)));
function chosen({ key }: { key: string | number }): void {
  const of = scene.current;
  if (key === 'new') void builds.create();
  else if (String(key).startsWith('open ')) void openScene(Number(String(key).slice(5)));
  else if (!of) return;
  else if (key === 'name') emit('rename');
  else if (key === 'copy') void copyScene(of);
  else if (key === 'keep') void keepVersion(`${of.name}, ${when.format(Date.now())}`);
  else if (String(key).startsWith('version ')) {
    const version = scene.versions.find((v) => v.id === Number(String(key).slice(8)));
    if (version) void returnTo(version);
  } else if (key === 'remove') void removeScene(of);
}
</script>

<template>
  <Dropdown :trigger="['click']">
    <Button size="small">Build …</Button>
    <template #overlay>
      <Menu aria-label="What can be done with builds" :selected-keys="[`open ${scene.current?.id}`]" @click="chosen">
        <Menu.ItemGroup v-if="all.length > 1" title="Open">
          <Menu.Item v-for="b in all" :key="`open ${b.id}`" :title="b.name">{{ b.name }}</Menu.Item>
        </Menu.ItemGroup>
        <Menu.Divider v-if="all.length > 1" />
        <Menu.Item key="new">New build</Menu.Item>
        <Menu.Item key="name">Rename …</Menu.Item>
        <Menu.Item key="copy">Copy with all that it has</Menu.Item>
        <Menu.Item key="keep">Keep this version</Menu.Item>
        <Menu.SubMenu v-if="scene.versions.length > 0" title="Return to a version">
          <Menu.Item v-for="v in scene.versions" :key="`version ${v.id}`" :title="when.format(v.at)">{{ v.name }}</Menu.Item>
        </Menu.SubMenu>
        <Menu.Divider />
        <Menu.Item key="remove" danger>Put into the bin</Menu.Item>
      </Menu>
    </template>
  </Dropdown>
</template>
