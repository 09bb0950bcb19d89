<script setup lang="ts">
import { RouterLink } from 'vue-router';
import { placeOf, useFind } from '../../stores/find';
import { count } from './format';

/** The views of a stage, as a line of links; `count` and `warn` say how much waits there. */
defineProps<{
  stage: string;
  label: string;
  parts: readonly { path: string; label: string; count?: number; warn?: boolean }[];
  part: string;
}>();
const find = useFind();
</script>

<template>
  <nav :aria-label="label">
    <RouterLink
      v-for="p in parts"
      :key="p.path"
      :to="{ ...placeOf(stage, find.view), params: { part: p.path } }"
      :aria-current="part === p.path ? 'page' : undefined"
    >
      {{ p.label }}
      <span v-if="p.count !== undefined" class="mono" :class="{ warn: p.warn && p.count > 0 }">{{ count(p.count) }}</span>
    </RouterLink>
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  gap: 22px;
  padding: 0 24px;
  border-bottom: 1px solid var(--line);
}
a {
  display: flex;
  align-items: center;
  gap: 7px;
  border-bottom: 2px solid transparent;
  color: var(--mute);
  text-decoration: none;
}
a:hover {
  color: var(--text);
}
a[aria-current] {
  border-color: var(--glass);
  color: var(--bone);
  font-weight: 600;
}
.mono {
  font-size: 12px;
  font-weight: 400;
  color: var(--mute);
}
.warn {
  color: var(--coral);
}
</style>
