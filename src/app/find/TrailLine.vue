<script setup lang="ts">
import { fieldOf, nameOf } from '@core/library';
import { CloseOutlined } from '@ant-design/icons-vue';
import { Button, Tooltip } from 'ant-design-vue';
import { computed, watch } from 'vue';
import { withKey } from '../shared/controls/commands';
import { count, dayName } from '../shared/controls/format';
import { useFind, type Narrowing } from '../stores/find';
import { useLibrary } from '../stores/library';
import { narrows } from '../stores/view';
import { useValueName } from '../shared/list/useValueName';

defineEmits<{ narrow: [] }>();

const find = useFind();
const library = useLibrary();

const valueName = useValueName();
const folderName = ({ rootId, folder }: { rootId: number; folder: string }) => folder.split('/').pop() || (library.rootById.get(rootId)?.name ?? 'a folder');
const likeName = (id: number) => {
  const sound = library.sounds.get(id);
  return sound ? nameOf(sound) : 'a sound';
};
/** What lists the sounds beside the query, and what ends it. */
const bases = computed(() => {
  const { nearId, like, under, heardOn, unheardIn } = find.view;
  return [
    nearId !== undefined && { text: `Like ${likeName(nearId)}`, end: { nearId: undefined } },
    like && { text: `Like ${like.name}`, end: { like: undefined } },
    under && { text: folderName(under), end: { under: undefined } },
    heardOn !== undefined && { text: `Heard ${dayName(heardOn)}`, end: { heardOn: undefined, asOf: undefined } },
    unheardIn !== undefined && { text: 'Not heard for this scene', end: { unheardIn: undefined, asOf: undefined } },
  ].filter((b) => b !== false && b !== undefined);
});
/** A narrowing in a few words. */
function words(n: Narrowing): string {
  const pull = n.pullId === undefined ? undefined : library.pulls.find((p) => p.id === n.pullId)?.name;
  const parts = [
    n.nearId === undefined ? '' : `like ${likeName(n.nearId)}`,
    n.like ? `like ${n.like.name}` : '',
    n.under ? folderName(n.under) : '',
    n.heardOn === undefined ? '' : `heard ${dayName(n.heardOn)}`,
    n.unheardIn === undefined ? '' : 'not heard for the scene',
    n.text.trim(),
    ...Object.entries(n.facets).flatMap(([key, values]) => values.map((v) => valueName(key, v)).join(' or ')),
    ...Object.entries(n.without).flatMap(([key, values]) => values.map((v) => `not ${valueName(key, v)}`)),
    ...Object.keys(n.ranges).map((key) => `some ${fieldOf(key).label.toLowerCase()}`),
  ].filter(Boolean);
  return parts.join(', ') || pull || 'Everything';
}
const steps = computed(() => find.view.trail.map((n, i) => ({ text: words(n), count: find.trailCounts[i] })));
watch(
  () => [find.view.nearId, ...find.view.trail.map((n) => n.nearId)],
  (ids) => void library.need(ids.filter((id) => id !== undefined)),
  { immediate: true },
);
const narrowed = computed(() => narrows(find.view));
const mayNarrow = computed(() => narrowed.value && find.answer.count > 0);
</script>

<template>
  <nav v-if="steps.length > 0 || narrowed" class="trail" aria-label="Trail">
    <template v-for="(step, i) in steps" :key="i">
      <button class="step" :title="`Step back out to ${step.text}`" @click="find.stepOut(i)">
        <span class="cut">{{ step.text }}</span> <span v-if="step.count !== undefined" class="mono mute">{{ count(step.count) }}</span>
      </button>
      <span class="mute" aria-hidden="true">›</span>
    </template>
    <span v-if="steps.length > 0" class="here" aria-current="step"
      ><span class="cut">{{ mayNarrow ? words(find.view) : 'inside' }}</span> <span class="mono mute">{{ count(find.answer.count) }}</span></span
    >
    <button v-for="base in bases" :key="base.text" class="step like" @click="find.go(base.end)">
      <span class="cut">{{ base.text }}</span> <CloseOutlined aria-label="End this" />
    </button>
    <Tooltip v-if="mayNarrow" :title="withKey('Keep these results and search inside of them', 'Look inside these results')">
      <Button type="link" size="small" @click="$emit('narrow')">Look inside</Button>
    </Tooltip>
  </nav>
  <span v-else class="mute hint">Tab completes a word; Ctrl Enter keeps the results, to look inside of them</span>
</template>

<style scoped>
.trail {
  display: flex;
  align-items: center;
  gap: 6px;
  min-width: 0;
  overflow: hidden;
}
.step,
.here {
  display: inline-flex;
  align-items: baseline;
  gap: 6px;
  max-width: 240px;
  padding: 1px 8px;
  border: 1px solid var(--line);
  border-radius: 6px;
  background: none;
  font-size: 12.5px;
}
.step {
  cursor: pointer;
}
.step:hover {
  background: var(--raft2);
}
.like {
  color: var(--sky);
}
.here {
  border-color: transparent;
  color: var(--text);
}
.hint {
  font-size: 12px;
}
</style>
