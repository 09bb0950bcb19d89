<script setup lang="ts">
import { RouterLink, useRoute } from 'vue-router';
import { stages } from '../router';
import { placeOf, useFind } from '../stores/find';

const route = useRoute();
const find = useFind();
</script>

<template>
  <nav aria-label="Stages">
    <ol>
      <li v-for="stage in stages" :key="stage.name">
        <RouterLink :to="placeOf(stage.name, find.view)" :class="{ here: route.name === stage.name }">{{ stage.label }}</RouterLink>
      </li>
    </ol>
  </nav>
</template>

<style scoped>
ol {
  display: flex;
  gap: 0;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  align-items: center;
}
li + li::before {
  content: '';
  width: 44px;
  height: 1px;
  margin: 0 10px;
  background: var(--glass);
  opacity: 0.5;
}
@media (max-width: 900px) {
  li + li::before {
    width: 14px;
    margin: 0 6px;
  }
}
a {
  display: flex;
  align-items: center;
  gap: 8px;
  min-height: 28px;
  color: var(--mute);
  text-decoration: none;
}
a::before {
  content: '';
  width: 9px;
  height: 9px;
  border: 2px solid var(--faint);
  border-radius: 50%;
}
a:hover {
  color: var(--text);
}
.here {
  color: var(--bone);
  font-weight: 600;
}
.here::before {
  border-color: var(--amber);
  background: var(--amber);
}
</style>
