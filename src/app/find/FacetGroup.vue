<script setup lang="ts">
import { fieldOf } from '@core/library';
import type { Facet } from '@core/search';
import { StopOutlined } from '@ant-design/icons-vue';
import { useDebounceFn } from '@vueuse/core';
import { Button, Input } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { count } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { searchOf } from '../stores/view';
import { catalogue } from '../stores/workers';
import { useValueName } from '../shared/list/useValueName';

const props = defineProps<{ fieldKey: string }>();

const find = useFind();
const SHOWN = 7;
/** From so many values on, one can search among them. */
const MANY = 15;
const unfolded = ref(false);
const part = ref('');
const found = ref<Facet>();

const field = computed(() => fieldOf(props.fieldKey));
const facet = computed<Facet>(() => found.value ?? find.answer.facets[props.fieldKey] ?? { values: [], distinct: 0 });
const chosen = computed(() => find.view.facets[props.fieldKey] ?? []);
const left = computed(() => find.view.without[props.fieldKey] ?? []);
const top = computed(() => Math.max(1, ...facet.value.values.map((f) => f.count)));
/** Chosen values stay in sight even when they are rare, left out ones though they have no count. */
const list = computed(() => {
  const { values } = facet.value;
  const near = values.filter((f, i) => unfolded.value || found.value || i < SHOWN || chosen.value.includes(f.value));
  const rest = [...chosen.value, ...left.value].filter((v) => !near.some((f) => f.value === v));
  return [...near, ...rest.map((value) => ({ value, count: 0 }))];
});

const valueName = useValueName();
const text = (value: string) => (value === '' ? 'Not stated' : valueName(props.fieldKey, value));

const look = useDebounceFn(async () => {
  const asked = part.value.trim();
  if (!asked) return (found.value = undefined);
  const search = { ...searchOf(find.view), inside: find.view.trail.map(searchOf) };
  const answer = await catalogue.values(search, props.fieldKey, asked, 40);
  if (asked === part.value.trim()) found.value = answer;
  return undefined;
}, 120);
watch([part, () => find.answer], () => void look());

function press(event: MouseEvent, value: string): void {
  find.toggleFacet(props.fieldKey, value, event.altKey);
}
function key(event: KeyboardEvent, value: string): void {
  if (event.key !== '-') return;
  event.preventDefault();
  event.stopPropagation();
  find.toggleFacet(props.fieldKey, value, true);
}
const heading = computed(() => field.value.heading ?? field.value.label);
</script>

<template>
  <section :aria-label="heading">
    <h2>
      {{ heading }}
      <span v-if="facet.distinct > SHOWN" class="mono mute number">{{ count(facet.distinct) }}</span>
    </h2>
    <Input
      v-if="unfolded && (facet.distinct > MANY || part)"
      v-model:value="part"
      size="small"
      allow-clear
      :placeholder="`Search in ${heading.toLowerCase()}`"
      :aria-label="`Search in ${heading.toLowerCase()}`"
    />
    <p v-if="list.length === 0" class="mute none">Nothing here</p>
    <div v-for="f in list" :key="f.value" class="line">
      <button
        class="facet"
        :class="{ chosen: chosen.includes(f.value), left: left.includes(f.value) }"
        :aria-pressed="chosen.includes(f.value)"
        :title="`${text(f.value)}${left.includes(f.value) ? ', left out' : ''}`"
        @click="press($event, f.value)"
        @keydown="key($event, f.value)"
      >
        <span class="fill" :style="{ width: `${(f.count / top) * 100}%` }" />
        <span class="cut word">{{ text(f.value) }}</span>
        <span v-if="!left.includes(f.value)" class="mono number">{{ count(f.count) }}</span>
      </button>
      <button
        class="leave"
        :class="{ left: left.includes(f.value) }"
        tabindex="-1"
        :aria-label="`${left.includes(f.value) ? 'No longer leave out' : 'Leave out'} ${text(f.value)}`"
        :title="left.includes(f.value) ? 'No longer leave it out' : 'Leave it out (Alt click, or − on the value)'"
        @click="find.toggleFacet(fieldKey, f.value, true)"
      >
        <StopOutlined />
      </button>
    </div>
    <Button v-if="!unfolded && facet.distinct > SHOWN" type="link" size="small" @click="unfolded = true">{{ count(facet.distinct - SHOWN) }} more</Button>
    <span v-else-if="unfolded && facet.distinct > list.length" class="mute none"
      >{{ count(facet.distinct - list.length) }} rarer ones; search for them above</span
    >
    <Button v-if="unfolded && !part" type="link" size="small" @click="unfolded = false">Fewer</Button>
  </section>
</template>

<style scoped>
.line {
  display: flex;
  align-items: center;
  margin-bottom: 3px;
}
.facet {
  position: relative;
  display: flex;
  flex: 1;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  min-width: 0;
  height: 20px;
  padding: 0 6px;
  border: 0;
  border-radius: 3px;
  background: none;
  font-size: 12.5px;
  cursor: pointer;
}
.facet:hover {
  background: var(--raft);
}
.fill {
  position: absolute;
  inset: 0 auto 0 0;
  border-radius: 3px;
  background: var(--glassDeep);
}
.chosen .fill {
  background: var(--amberDeep);
}
.word,
.number {
  position: relative;
}
.number {
  font-size: 12px;
  color: var(--mute);
}
.chosen .number,
.chosen .word {
  color: var(--text);
  font-weight: 600;
}
.facet.left .word {
  color: var(--coral);
  text-decoration: line-through;
}
.leave {
  padding: 0 3px;
  border: 0;
  background: none;
  color: var(--mute);
  font-size: 12px;
  opacity: 0;
  cursor: pointer;
}
.line:hover .leave,
.leave:focus-visible,
.leave.left {
  opacity: 1;
}
.leave.left {
  color: var(--coral);
}
</style>
