<script setup lang="ts">
import { moverOf, moverValues, type Mover, type ParamSpec } from '@core/effects';
import { Button, Select, Slider } from 'ant-design-vue';
import { computed } from 'vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useMovers } from '../stores/movers';
import { useScene } from '../stores/scene';

/** The settings of a mover. */
const props = defineProps<{ mover: Mover }>();
const movers = useMovers();
const scene = useScene();
const kind = computed(() => moverOf(props.mover.kind));
const values = computed(() => moverValues(props.mover));
const digits = ({ curve, most }: ParamSpec) => (curve === 'octaves' ? (most <= 100 ? 2 : 1) : 0);
const choices = (spec: ParamSpec) => spec.choices?.map((label, value) => ({ value, label, title: label }));
const lines = computed(() => scene.tracks.map((t) => ({ value: t.id, label: t.name, title: t.name })));
const learns = computed(() => movers.learning === props.mover.id);
</script>

<template>
  <div class="panel" role="group" :aria-label="movers.nameOf(mover)">
    <div class="tools">
      <strong>{{ movers.nameOf(mover) }}</strong>
      <span class="mute small">{{ kind?.about }}</span>
    </div>
    <div class="tools line">
      <template v-for="spec in kind?.params" :key="spec.key">
        <label :title="spec.about"
          >{{ spec.label }}
          <Select
            v-if="spec.choices"
            size="small"
            :value="values[spec.key]"
            :options="choices(spec)"
            :aria-label="spec.label"
            class="choice"
            @change="(v) => movers.turn(mover, spec.key, Number(v))"
          />
          <template v-else>
            <span v-if="spec.key === 'at'" class="slider" data-slider-label="Stands at, %">
              <Slider :value="values.at" :min="0" :max="100" @change="(v) => movers.turnTo(mover, Number(v))" />
            </span>
            <NumberBox
              :value="Number(values[spec.key].toFixed(digits(spec)))"
              :min="spec.least"
              :max="spec.most"
              :step="spec.curve === 'octaves' && spec.most <= 100 ? 0.1 : 1"
              :aria-label="`${spec.label}${spec.unit ? `, ${spec.unit}` : ''}`"
              class="number"
              @set="(v) => (spec.key === 'at' ? movers.turnTo(mover, v) : movers.turn(mover, spec.key, v))"
            />
            <span v-if="spec.unit" class="mute">{{ spec.unit }}</span>
          </template></label
        >
      </template>
      <label v-if="kind?.follows"
        >Follows
        <Select
          size="small"
          :value="mover.line"
          :options="lines"
          aria-label="The layer that it follows"
          class="choice"
          @change="(id) => movers.follow(mover, Number(id))"
      /></label>
      <Button v-if="mover.kind === 'controller'" size="small" :aria-pressed="learns" @click="movers.learning = learns ? undefined : mover.id">{{
        learns ? 'Touch one now …' : 'Learn'
      }}</Button>
      <Button size="small" danger @click="movers.remove(mover)">Take out</Button>
    </div>
  </div>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 6px;
  padding: 8px 16px 10px 44px;
  border-bottom: 1px solid var(--line);
  background: var(--raft);
  box-shadow: inset 3px 0 0 var(--sky);
}
.line {
  flex-wrap: wrap;
  row-gap: 6px;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
  white-space: nowrap;
}
.number {
  width: 76px;
}
.choice {
  min-width: 116px;
}
.slider {
  width: 120px;
}
</style>
