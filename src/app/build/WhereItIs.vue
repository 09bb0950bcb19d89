<script setup lang="ts">
import { anchorOf } from '@core/build';
import type { Scene } from '@core/scene';
import { RATE } from '@platform/index';
import { computed } from 'vue';
import { signed } from '../shared/controls/format';
import { useTransport } from '../stores/transport';

/** Where a build is, from its anchor on. */
const props = defineProps<{ build?: Scene }>();
const transport = useTransport();
const seconds = computed(() => (props.build ? (transport.position - anchorOf(props.build)) / RATE : 0));
</script>

<template>
  <span class="mono" aria-label="Where it is">{{ signed(seconds, 3) }} s</span><span class="mute">from the anchor</span>
</template>
