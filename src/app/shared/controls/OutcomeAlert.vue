<script setup lang="ts">
import { Alert } from 'ant-design-vue';
import { computed } from 'vue';
import { count } from './format';

/** What came of a work on files: in a sentence, and each file of which there is something to say. */
type Said = { path: string; reason: string };
const props = defineProps<{ message: string; stopped?: string; failed: readonly Said[]; notes?: readonly Said[] }>();
/** Files that are listed. */
const SHOWN = 50;
const told = computed(() => [...props.failed, ...(props.notes ?? [])]);
</script>

<template>
  <Alert :type="stopped || failed.length > 0 ? 'warning' : 'success'" :message="message">
    <template v-if="told.length > 0" #description>
      <ul class="said">
        <li v-for="(f, i) in told.slice(0, SHOWN)" :key="i">
          <bdi>{{ f.path }}</bdi>: {{ f.reason }}
        </li>
        <li v-if="told.length > SHOWN" class="mute">and {{ count(told.length - SHOWN) }} more</li>
      </ul>
    </template>
  </Alert>
</template>

<style scoped>
.said {
  max-height: 160px;
  margin: 0;
  padding-left: 18px;
  overflow-y: auto;
}
</style>
