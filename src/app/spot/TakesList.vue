<script setup lang="ts">
import { sampleToFrame, timecodeAt, type Take } from '@core/scene';
import { RATE } from '@platform/index';
import { useLocalStorage } from '@vueuse/core';
import { Button, Dropdown, Menu, MenuItem, Tooltip } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { things } from '../shared/controls/format';
import NameInPlace from '../shared/controls/NameInPlace.vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import { useHands } from '../stores/hands';
import { padNames, usePerforming } from '../stores/performing';
import { useScene } from '../stores/scene';

/** Passes that were played: kept, set aside, heard alone, drawn to the picture, exchanged for other sounds, thrown away. */
const scene = useScene();
const hands = useHands();
const performing = usePerforming();
const renaming = ref<number>();
/** Percent of the way to the cut or marker; and milliseconds within which a cue is drawn. */
const strength = useLocalStorage('draw-strength', 100);
const reach = useLocalStorage('draw-reach', 250);

const spanOfTake = (take: Take): string => {
  const all = performing.cuesOf(take).map((c) => c.at);
  if (all.length === 0 || !scene.current) return '';
  const at = (sample: number) => timecodeAt(scene.current!, sampleToFrame(sample, scene.rate, RATE));
  return `${at(Math.min(...all))} to ${at(Math.max(...all))}`;
};
const others = computed(() => performing.takes.filter((t) => t.aside === undefined).length);
const filled = computed(() => performing.pads.filter((p) => (performing.pools.get(p.slot)?.length ?? 0) > 0));
const draw = (cues: Parameters<typeof performing.draw>[0]) => void performing.draw(cues, strength.value / 100, reach.value / 1000);

async function named(take: Take, name: string): Promise<void> {
  renaming.value = undefined;
  await performing.rename(take, name);
}
</script>

<template>
  <div class="takes">
    <div class="tools">
      <span class="mute small">Drawn to events and markers by</span>
      <NumberBox class="number" :value="strength" :min="1" :max="100" unit="%" aria-label="How far cues are drawn" @set="(v) => (strength = v)" />
      <span class="mute small">within</span>
      <NumberBox
        class="number"
        :value="reach"
        :min="10"
        :max="2000"
        :step="10"
        unit="ms"
        aria-label="Within how much cues are drawn"
        @set="(v) => (reach = v)"
      />
      <Button size="small" class="draw" :disabled="hands.chosen.length === 0" @click="draw(hands.chosen)"
        >Draw {{ hands.chosen.length > 0 ? things(hands.chosen.length, 'cue') : 'what is selected' }}</Button
      >
    </div>
    <ul class="listing">
      <li v-for="take in performing.takes" :key="take.id" class="take" :class="{ mute: take.aside }">
        <NameInPlace v-if="renaming === take.id" :name="take.name" @named="(name) => named(take, name)" @leave="renaming = undefined" />
        <button
          v-else
          class="plain cut"
          :title="`${take.name}: select its cues; twice, name it`"
          @click="take.aside || hands.select(performing.cuesOf(take).map((c) => c.id))"
          @dblclick="renaming = take.id"
        >
          {{ take.name }}
          <span class="mute small"
            >{{ things(performing.cuesOf(take).length, 'cue') }}, <span class="mono">{{ spanOfTake(take) }}</span></span
          >
        </button>
        <Tooltip placement="bottomLeft" title="It stands in the scene, and all other takes wait beside"
          ><Button size="small" :disabled="others === 1 && !take.aside" :aria-label="`Hear ${take.name} alone`" @click="performing.only(take)"
            >Alone</Button
          ></Tooltip
        >
        <Button size="small" :aria-label="take.aside ? `Put ${take.name} back` : `Set ${take.name} aside`" @click="performing.setAside(take, !take.aside)">{{
          take.aside ? 'Put back' : 'Set aside'
        }}</Button>
        <Dropdown :trigger="['click']">
          <Button size="small" :aria-label="`More of ${take.name}`">…</Button>
          <template #overlay>
            <Menu>
              <MenuItem :disabled="take.aside !== undefined" @click="draw(performing.cuesOf(take))">Draw all to the picture</MenuItem>
              <MenuItem v-for="p in filled" :key="p.slot" :disabled="take.aside !== undefined" @click="performing.exchange(take, p.slot)"
                >Exchange for pad {{ padNames[p.slot] }}</MenuItem
              >
              <MenuItem @click="renaming = take.id">Rename</MenuItem>
              <MenuItem danger @click="performing.throwAway(take)">Throw away</MenuItem>
            </Menu>
          </template>
        </Dropdown>
      </li>
      <li v-if="performing.takes.length === 0" class="mute none">
        No pass was played yet. Arm the keys, run the picture, and play: each pass is a take that can be set aside, heard against others, or thrown away.
      </li>
    </ul>
  </div>
</template>

<style scoped>
.takes {
  display: grid;
  grid-template-rows: auto minmax(0, 1fr);
  gap: 8px;
  min-height: 0;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  gap: 6px 8px;
  align-items: center;
}
.number {
  width: 100px;
}
/* As wide whatever it says: nothing moves under the pointer when a take is selected. */
.draw {
  width: 148px;
}
.take {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto auto;
  gap: 6px;
  align-items: center;
  min-height: 30px;
  border-bottom: 1px solid var(--line);
}
.small {
  font-size: 12px;
}
.none {
  margin: 6px 4px;
  font-size: 12.5px;
}
</style>
