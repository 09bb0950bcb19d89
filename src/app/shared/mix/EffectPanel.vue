<script setup lang="ts">
import { effectOf, type ParamSpec } from '@core/effects';
import { MAIN } from '@core/engine';
import { busesFor, heardBy, type LineEffect } from '@core/scene';
import { Button, Select } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { decibels } from '../controls/format';
import MenuSelect from '../controls/MenuSelect.vue';
import NumberBox from '../controls/NumberBox.vue';
import { useCurves } from '../../stores/curves';
import { useMix } from '../../stores/mix';
import { useMovers } from '../../stores/movers';
import { useScene } from '../../stores/scene';
import AnsweringSound from './AnsweringSound.vue';
import ResponseCurve from './ResponseCurve.vue';

/** The values of one effect, and what can be done to it. */
const props = defineProps<{ effect: LineEffect }>();
const mix = useMix();
const scene = useScene();
const curves = useCurves();
const movers = useMovers();
const entry = computed(() => effectOf(props.effect.kind));
const own = computed(() => ({ tracks: scene.lines, effects: scene.effects }));

const valueOf = (spec: ParamSpec) => curves.valueNow(props.effect.points, spec.key, props.effect.values[spec.key] ?? spec.initial);
/** All values as they stand at this instant. */
const now = computed(() => Object.fromEntries((entry.value?.params ?? []).map((spec) => [spec.key, valueOf(spec)])));
/** Values that belong together by the number at the end of their names, such as those of a band; others stand alone. */
const groups = computed(() => {
  const made = new Map<string, ParamSpec[]>();
  for (const spec of entry.value?.params ?? []) {
    const group = /\d+$/.exec(spec.key)?.[0] ?? '';
    made.set(group, [...(made.get(group) ?? []), spec]);
  }
  return [...made];
});
/** Bands that were asked for just now and are off still. */
const opened = ref<string[]>([]);
const shown = computed(() => groups.value.filter(([group, [first]]) => group === '' || valueOf(first) !== first.initial || opened.value.includes(group)));
const hidden = computed(() => groups.value.filter((g) => !shown.value.includes(g)));
/** Of one band, a cut has a slope and no gain; a bell has no slope. */
function isUsed(spec: ParamSpec, specs: readonly ParamSpec[]): boolean {
  const [first] = specs;
  if (!/\d+$/.test(spec.key) || spec === first) return true;
  const kind = first.choices?.[valueOf(first)] ?? '';
  if (kind === 'off') return false;
  if (spec.key.startsWith('slope')) return kind.endsWith('cut');
  if (spec.key.startsWith('gain')) return kind.endsWith('shelf') || kind === 'bell';
  if (spec.key.startsWith('q')) return !kind.endsWith('cut');
  return true;
}
const moved = (spec: ParamSpec) => movers.movedBy({ of: 'effect', id: props.effect.id, key: spec.key });
const choices = (spec: ParamSpec) => spec.choices?.map((label, value) => ({ value, label, title: label }));
const digits = (spec: ParamSpec) => (spec.curve === 'octaves' && spec.most <= 40 ? 2 : spec.unit === 'dB' || spec.unit === 's' ? 1 : 0);
const step = (spec: ParamSpec) => (spec.unit === 'dB' ? 0.5 : spec.curve === 'octaves' && spec.most <= 40 ? 0.1 : spec.most > 2000 ? 50 : 1);

const others = computed(() => {
  const { kind, lineId } = props.effect;
  if (kind === 'send') return busesFor(lineId, own.value).map((t) => ({ value: t.id, label: t.name, title: t.name }));
  if (!entry.value?.listens) return undefined;
  const heard = heardBy(lineId, own.value).map((t) => ({ value: t.id, label: t.name, title: t.name }));
  return [{ value: 0, label: 'itself', title: 'itself' }, ...heard];
});
/** Lines that it may be copied to. */
const lines = computed(() =>
  [{ id: MAIN, name: scene.current?.build ? 'All layers' : 'Main' }, ...scene.lines]
    .filter((t) => t.id !== props.effect.lineId)
    .map((t) => ({ value: t.id, label: t.name, title: t.name })),
);
const presets = computed(() => (entry.value?.presets ?? []).map((p) => ({ value: p.name, label: p.name, title: p.name })));
</script>

<template>
  <div class="panel" role="group" :aria-label="mix.nameOf(effect)" data-space="mix">
    <div class="tools first">
      <strong>{{ mix.nameOf(effect) }}</strong>
      <span v-if="entry" class="mute about" :title="entry.source">{{ entry.about }}</span>
      <span v-else class="bad">This program does not know “{{ effect.kind }}”: it stays as it is, and is not heard.</span>
    </div>
    <ResponseCurve v-if="entry?.colours || entry?.settles" :effect="effect" :values="now" />
    <AnsweringSound v-if="entry?.madeOf" :effect="effect" />
    <div v-for="[group, specs] in shown" :key="group" class="tools values">
      <template v-for="spec in specs" :key="spec.key">
        <label v-if="isUsed(spec, specs)" :title="spec.about" :data-moves="spec.choices ? undefined : `effect ${effect.id} ${spec.key}`"
          >{{ spec.label }}
          <Select
            v-if="spec.choices"
            size="small"
            :value="valueOf(spec)"
            :options="choices(spec)"
            :aria-label="spec.label"
            class="choice"
            @change="(v) => mix.turn(effect, spec.key, Number(v))"
          />
          <NumberBox
            v-else
            :value="Number(valueOf(spec).toFixed(digits(spec)))"
            :min="spec.least"
            :max="spec.most"
            :step="step(spec)"
            :aria-label="`${spec.label}${spec.unit ? `, ${spec.unit}` : ''}`"
            class="number"
            @set="(v) => mix.turn(effect, spec.key, v)"
          />
          <span v-if="spec.unit && !spec.choices" class="mute">{{ spec.unit }}</span>
          <span v-if="!spec.choices && moved(spec)" class="moved" :title="`${moved(spec)!.by} moves it`"
            >{{ moved(spec)!.by }}: {{ Number(moved(spec)!.now.toPrecision(3)) }}</span
          ></label
        >
      </template>
    </div>
    <div class="tools">
      <Button v-if="hidden.length > 0" size="small" @click="opened = [...opened, hidden[0][0]]">Another band</Button>
      <label v-if="others"
        >{{ effect.kind === 'send' ? 'Flows into' : 'Listens to' }}
        <Select
          size="small"
          :value="effect.line ?? (effect.kind === 'send' ? undefined : 0)"
          :options="others"
          :aria-label="effect.kind === 'send' ? 'Where it flows' : 'What it listens to'"
          class="choice"
          @change="(v) => mix.change(effect, `Set ${mix.nameOf(effect)}`, { line: Number(v) || undefined })"
      /></label>
      <MenuSelect v-if="presets.length > 0" size="small" :options="presets" label="Presets" class="choice" @pick="(name) => mix.preset(effect, name)" />
      <Button size="small" @click="mix.preset(effect)">Reset</Button>
      <Button size="small" title="Earlier in the line" aria-label="Earlier in the line" @click="mix.move(effect, -1)">←</Button>
      <Button size="small" title="Later in the line" aria-label="Later in the line" @click="mix.move(effect, 1)">→</Button>
      <MenuSelect size="small" :options="lines" label="Copy to" class="choice" @pick="(id) => mix.carry(effect, Number(id), undefined, true)" />
      <Button size="small" :aria-pressed="!effect.on" @click="mix.flip(effect)">{{ effect.on ? 'Hear it without' : 'Hear it with' }}</Button>
      <Button size="small" danger @click="mix.remove(effect)">Take out</Button>
      <span v-if="mix.around" class="mono mute push" aria-label="Levels around it"
        >before {{ decibels(mix.around[0]) }}, after {{ decibels(mix.around[1]) }}</span
      >
    </div>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 6px;
  padding: 8px 14px 8px 44px;
  border-bottom: 1px solid var(--line);
  background: var(--raft);
  box-shadow: inset 3px 0 0 var(--sky);
}
.first {
  flex-wrap: nowrap;
  min-width: 0;
}
.about {
  overflow: hidden;
  font-size: 12px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.tools {
  flex-wrap: wrap;
  row-gap: 6px;
}
label {
  display: flex;
  align-items: center;
  gap: 6px;
  white-space: nowrap;
}
.moved {
  color: var(--amber);
  font-size: 12px;
}
.number {
  width: 76px;
}
.choice {
  min-width: 116px;
}
</style>
