<script setup lang="ts">
import { SwitcherOutlined } from '@ant-design/icons-vue';
import { Button, Tooltip } from 'ant-design-vue';
import { defineAsyncComponent } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { useFloating } from './useFloating';

/** The button of the small window, and that window while it is open. */
const SmallWindow = defineAsyncComponent(() => import('./SmallWindow.vue'));
const { own, toggle } = useFloating({ width: 460, height: 300 });
useCommands('The view', [{ label: 'Small window', keys: ['Shift+p'], run: () => void toggle() }]);
</script>

<template>
  <Tooltip :title="withKey('A small window that stays above other programs', 'Small window')">
    <Button size="small" aria-label="Small window" :aria-pressed="own !== undefined" @click="toggle">
      <template #icon><SwitcherOutlined /></template>
    </Button>
  </Tooltip>
  <Teleport v-if="own" :to="own.document.body"><SmallWindow :own="own" /></Teleport>
</template>
