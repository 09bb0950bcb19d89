<script setup lang="ts">
import { nameOf } from '@core/library';
import { Button, Modal } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import { count } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { useAudition } from '../stores/audition';
import { useLibrary } from '../stores/library';
import { usePulls, type Comparison } from '../stores/pulls';

/** Two pulls beside each other: what only one has, and what both have. */
const props = defineProps<{ first: number; second: number }>();
const emit = defineEmits<{ close: [] }>();

const library = useLibrary();
const audition = useAudition();
const pulls = usePulls();
const found = shallowRef<Comparison>();
const a = computed(() => pulls.byId(props.first));
const b = computed(() => pulls.byId(props.second));

watch(
  () => [a.value, b.value, library.revision],
  async () => {
    if (!a.value || !b.value) return emit('close');
    found.value = await pulls.compare(a.value, b.value);
  },
  { immediate: true },
);
const columns = computed(() => [
  { key: 'first', title: `Only in ${a.value?.name}`, ids: found.value?.onlyFirst ?? [], into: b.value },
  { key: 'both', title: 'In both', ids: found.value?.both ?? [], into: undefined },
  { key: 'second', title: `Only in ${b.value?.name}`, ids: found.value?.onlySecond ?? [], into: a.value },
]);
async function hear(id: number): Promise<void> {
  const [sound] = await library.need([id]);
  if (sound) audition.choose(sound, true);
}
</script>

<template>
  <Modal open title="Two pulls compared" width="860px" :footer="null" @cancel="emit('close')">
    <div class="columns">
      <section v-for="c in columns" :key="c.key" :aria-label="c.title">
        <h2>
          <span class="cut" :title="c.title">{{ c.title }}</span> <span class="mono mute">{{ count(c.ids.length) }}</span>
        </h2>
        <div class="rows">
          <VirtualRows :count="c.ids.length" :row-height="26" :label="c.title" @show="(rows) => library.need(rows.map((r) => c.ids[r]))">
            <template #default="{ index }">
              <div role="row" :aria-rowindex="index + 1">
                <span role="gridcell"
                  ><button class="line-button" @click="hear(c.ids[index])">
                    <span class="cut"
                      ><bdi>{{ library.sounds.has(c.ids[index]) ? nameOf(library.sounds.get(c.ids[index])!) : '' }}</bdi></span
                    >
                  </button></span
                >
              </div>
            </template>
          </VirtualRows>
        </div>
        <Button v-if="c.into && !c.into.live" size="small" :disabled="c.ids.length === 0" @click="pulls.add(c.into, c.ids)"
          >Add these to {{ c.into.name }}</Button
        >
        <Button
          v-else-if="c.key === 'both'"
          size="small"
          :disabled="c.ids.length === 0"
          @click="pulls.make('Keep what both have', { name: `In ${a?.name} and ${b?.name}`, soundIds: c.ids })"
          >Keep as a pull</Button
        >
      </section>
    </div>
  </Modal>
</template>

<style scoped>
.columns {
  display: grid;
  grid-template-columns: repeat(3, minmax(0, 1fr));
  gap: 16px;
}
h2 {
  display: flex;
  justify-content: space-between;
  gap: 8px;
  margin: 4px 0;
}
.rows {
  height: 340px;
  margin-bottom: 8px;
  border-top: 1px solid var(--line);
  border-bottom: 1px solid var(--line);
}
</style>
