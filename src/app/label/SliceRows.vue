<script setup lang="ts">
import type { CutSlice } from '@core/library';
import { useElementSize } from '@vueuse/core';
import { Input } from 'ant-design-vue';
import { computed, useTemplateRef } from 'vue';
import { seconds, things } from '../shared/controls/format';
import ContourView from '../shared/list/ContourView.vue';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { useSlices, type Draft } from '../stores/slices';

/** The slices of a reel as rows on the plumb line; the current one opens. */
const props = defineProps<{ draft: Draft }>();
const emit = defineEmits<{ choose: [at: number] }>();

const cut = useSlices();
const ruler = useTemplateRef('ruler');
const { width } = useElementSize(ruler);
const PLUMB = 0.3;
const perSecond = computed(() => Math.max(30, width.value / 5.4));
const size = computed(() => ({ width: width.value, height: 46 }));
const rate = computed(() => props.draft.reel.format.rate);
/** Announcements have no number. */
const numbers = computed(() => {
  let n = 0;
  return props.draft.slices.map((s) => (s.spoken ? undefined : ++n));
});
const partOf = (s: CutSlice) => ({ peaks: props.draft.peaks!, rate: rate.value, start: s.start, end: s.end, anchor: s.anchor });
function named(at: number, text: string): void {
  const slice = props.draft.slices[at];
  const own = text.trim();
  if (slice.spoken) cut.alter(at, { said: own || undefined });
  else if (own !== cut.nameBySlice.get(slice)) cut.alter(at, { own: own || undefined });
}
const typed = (event: Event) => (event.target as HTMLInputElement).value;
</script>

<template>
  <VirtualRows
    :count="draft.slices.length"
    :row-height="46"
    :current="cut.row"
    :opens="150"
    :label="`Slices of the reel, ${things(draft.slices.length, 'slice')}`"
  >
    <template #head>
      <div class="list-row row head" role="row">
        <span role="columnheader" class="end">No.</span><span role="columnheader">Name</span
        ><span ref="ruler" role="columnheader" class="ruler mono"
          ><span class="unseen">Contour</span><span class="tick" aria-hidden="true" :style="{ left: `${width * PLUMB}px` }">anchor</span></span
        ><span role="columnheader" class="end">From</span><span role="columnheader" class="end">Length</span>
      </div>
    </template>
    <template #default="{ index }">
      <div
        v-if="draft.slices[index]"
        class="list-row row"
        role="row"
        :aria-rowindex="index + 2"
        :aria-selected="index === cut.row"
        :class="{ current: index === cut.row }"
        @click="emit('choose', index)"
      >
        <span role="gridcell" class="mono end mute">{{ numbers[index] ?? '“ ”' }}</span>
        <span role="gridcell">
          <Input
            v-if="index === cut.row"
            :key="`${draft.slices[index].start} ${draft.slices[index].spoken} ${cut.nameBySlice.get(draft.slices[index])}`"
            size="small"
            :default-value="draft.slices[index].spoken ? draft.slices[index].said : cut.nameBySlice.get(draft.slices[index])"
            :placeholder="draft.slices[index].spoken ? 'What is said, as a name for what follows' : ''"
            :aria-label="draft.slices[index].spoken ? 'What is said' : 'Name of the slice'"
            @click.stop
            @blur="(e: Event) => named(index, typed(e))"
            @press-enter="(e: Event) => (e.target as HTMLInputElement).blur()"
          />
          <bdi v-else class="cut" :class="{ mute: draft.slices[index].spoken, own: draft.slices[index].own }">{{
            draft.slices[index].spoken
              ? `Announcement${draft.slices[index].said ? `: ${draft.slices[index].said}` : ''}`
              : cut.nameBySlice.get(draft.slices[index])
          }}</bdi>
        </span>
        <span role="gridcell" class="wave">
          <ContourView
            v-if="draft.peaks"
            :part="partOf(draft.slices[index])"
            :lit="index === cut.row"
            :plumb="PLUMB"
            :pixels-per-second="perSecond"
            :size="size"
          />
        </span>
        <span role="gridcell" class="mono end mute">{{ seconds(draft.slices[index].start / rate) }}</span>
        <span role="gridcell" class="mono end mute">{{ seconds((draft.slices[index].end - draft.slices[index].start) / rate) }}</span>
      </div>
    </template>
    <template #open><slot /></template>
  </VirtualRows>
</template>

<style scoped>
.row {
  grid-template-columns: 34px minmax(180px, 0.6fr) minmax(220px, 1fr) 70px 62px;
}
.row:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current,
.current:hover {
  background: var(--raft);
}
.wave,
.ruler {
  position: relative;
  height: 100%;
  min-width: 0;
  overflow: hidden;
}
.tick {
  position: absolute;
  top: 5px;
  transform: translateX(-50%);
  color: var(--amber);
}
.own {
  color: var(--bone);
}
</style>
