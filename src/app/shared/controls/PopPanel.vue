<script setup lang="ts">
import { Popover } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';

/** A panel that a click on what is in the default slot opens, and a click elsewhere or Escape closes. */
withDefaults(defineProps<{ placement?: 'top' | 'topLeft' | 'bottomLeft' | 'bottomRight' }>(), { placement: 'top' });
const open = defineModel<boolean>('open', { default: false });

// Before the keys of the screen, on which Escape means something else; menus within the panel close first.
useEventListener(
  window,
  'keydown',
  (event) => {
    if (!open.value || event.key !== 'Escape') return;
    if (event.target instanceof Element && event.target.closest('[aria-expanded="true"][role="combobox"]')) return;
    event.stopPropagation();
    event.preventDefault();
    open.value = false;
    // The keys mean the screen again.
    if (document.activeElement instanceof HTMLElement) document.activeElement.blur();
  },
  { capture: true },
);
</script>

<template>
  <Popover v-model:open="open" trigger="click" destroy-tooltip-on-hide :placement="placement">
    <template #content><slot name="panel" /></template>
    <slot />
  </Popover>
</template>
