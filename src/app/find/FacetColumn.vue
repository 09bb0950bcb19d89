<script setup lang="ts">
import { fieldOf } from '@core/library';
import { lengthBins } from '@core/search';
import { categoryName } from '@core/suggest';
import { Button } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { count, seconds } from '../shared/format';
import { useFind } from '../stores/find';

const find = useFind();
const SHOWN = 7;
const unfolded = ref(new Set<string>());

const groups = computed(() =>
  ['catId', 'library', 'licence', 'kind'].map((key) => {
    const all = find.answer.facets[key] ?? [];
    const chosen = find.view.facets[key] ?? [];
    // A chosen value stays in sight even when it is rare.
    const list = unfolded.value.has(key) ? all : all.filter((f, i) => i < SHOWN || chosen.includes(f.value));
    return {
      key,
      label: fieldOf(key).label,
      list,
      more: all.length - list.length,
      top: Math.max(1, ...all.map((f) => f.count)),
      chosen,
    };
  }),
);
const text = (key: string, value: string) => (key === 'catId' ? categoryName(value) : value || 'Not stated');

const bars = computed(() => {
  const top = Math.max(1, ...find.answer.lengths);
  return find.answer.lengths.map((n, i) => {
    const from = lengthBins[i];
    const to = lengthBins[i + 1] ?? 1e9;
    const [a, b] = find.view.length ?? [0, 1e9];
    return { n, from, to, height: n === 0 ? 0 : 6 + (n / top) * 94, on: from >= a && to <= b };
  });
});
const range = computed(() => {
  const { length } = find.view;
  if (!length) return 'Any length';
  return length[1] >= 1e9 ? `${seconds(length[0])} s and longer` : `${seconds(length[0])} to ${seconds(length[1])} s`;
});
const binLabel = (bar: { from: number; to: number; n: number }) =>
  `${bar.to >= 1e9 ? `over ${seconds(bar.from)}` : `${seconds(bar.from)} to ${seconds(bar.to)}`} seconds, ${count(bar.n)}`;

/** The first bin starts a range, the next one extends it, a third begins anew. */
function pick(bar: { from: number; to: number }): void {
  const { length } = find.view;
  const single = length && lengthBins.indexOf(length[0]) >= 0 && (lengthBins[lengthBins.indexOf(length[0]) + 1] ?? 1e9) === length[1];
  if (single && bar.from === length[0]) find.go({ length: undefined });
  else if (single) find.go({ length: [Math.min(length[0], bar.from), Math.max(length[1], bar.to)] });
  else find.go({ length: [bar.from, bar.to] });
}

function unfold(key: string): void {
  unfolded.value = new Set([...unfolded.value, key]);
}
</script>

<template>
  <aside class="facets" aria-label="Facets">
    <section v-for="group in groups" :key="group.key" :aria-label="group.label">
      <h2>{{ group.label }}</h2>
      <p v-if="group.list.length === 0" class="mute none">Nothing here</p>
      <button
        v-for="facet in group.list"
        :key="facet.value"
        class="facet"
        :class="{ chosen: group.chosen.includes(facet.value) }"
        :aria-pressed="group.chosen.includes(facet.value)"
        @click="find.toggleFacet(group.key, facet.value)"
      >
        <span class="fill" :style="{ width: `${(facet.count / group.top) * 100}%` }" />
        <span class="cut word" :title="text(group.key, facet.value)">{{ text(group.key, facet.value) }}</span>
        <span class="mono number">{{ count(facet.count) }}</span>
      </button>
      <Button v-if="group.more > 0" type="link" size="small" @click="unfold(group.key)">{{ count(group.more) }} more</Button>
    </section>
    <section aria-label="Length">
      <h2>
        Length <span class="mono range">{{ range }}</span>
      </h2>
      <div class="bars">
        <button v-for="bar in bars" :key="bar.from" class="bin" :class="{ off: !bar.on }" :aria-label="binLabel(bar)" :title="binLabel(bar)" @click="pick(bar)">
          <span :style="{ height: `${bar.height}%` }" />
        </button>
      </div>
    </section>
  </aside>
</template>

<style scoped>
.facets {
  padding: 16px 12px;
  overflow-y: auto;
  background: var(--deep);
}
section {
  margin-bottom: 18px;
}
h2 {
  display: flex;
  justify-content: space-between;
  margin-bottom: 6px;
}
.range {
  font-weight: 400;
}
.none {
  margin: 0;
  font-size: 12px;
}
.facet {
  position: relative;
  display: flex;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  width: 100%;
  height: 19px;
  margin-bottom: 3px;
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
.bars {
  display: flex;
  align-items: stretch;
  gap: 1px;
  height: 56px;
}
.bin {
  display: flex;
  flex: 1;
  align-items: end;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.bin span {
  width: 100%;
  background: var(--glass);
  opacity: 0.75;
}
.bin:hover span {
  opacity: 1;
}
.off span {
  background: var(--faint);
  opacity: 0.45;
}
</style>
