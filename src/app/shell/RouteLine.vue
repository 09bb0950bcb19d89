<script setup lang="ts">
import { onUnmounted } from 'vue';
import { RouterLink, useRoute, useRouter } from 'vue-router';
import { stages } from '../stages';
import { bringsSounds } from '../shared/take/drag';
import { placeOf, useFind } from '../stores/find';

const route = useRoute();
const find = useFind();
const router = useRouter();

/** Sounds that are held over a stage for so long open it, so that they can be let go of there. Milliseconds. */
const HELD = 400;
let opening: ReturnType<typeof setTimeout> | undefined;
function over(event: DragEvent, stage: string): void {
  clearTimeout(opening);
  if (bringsSounds(event) && route.name !== stage) opening = setTimeout(() => void router.push(placeOf(stage, find.view)), HELD);
}
const away = () => clearTimeout(opening);
onUnmounted(away);
</script>

<template>
  <nav aria-label="Stages">
    <ol>
      <li v-for="stage in stages" :key="stage.name">
        <RouterLink
          :to="placeOf(stage.name, find.view)"
          :class="{ here: route.name === stage.name }"
          @dragenter="over($event, stage.name)"
          @dragleave="away"
          @drop="away"
          >{{ stage.label }}</RouterLink
        >
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
