<script setup lang="ts">
import { bends, moverKinds, type Move } from '@core/effects';
import { MAIN } from '@core/engine';
import { Button, Menu, Modal, Select } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useCommands } from '../shared/controls/commands';
import NumberBox from '../shared/controls/NumberBox.vue';
import { tell } from '../shell/notice';
import { useMovers, type Target } from '../stores/movers';
import { useRanges, type Left } from '../stores/ranges';
import { useScene } from '../stores/scene';
import ChanceRows from './ChanceRows.vue';
import MoverPanel from './MoverPanel.vue';

/** What moves values of the build, as sentences; any of them opens in place. */
const movers = useMovers();
const scene = useScene();
const ranges = useRanges();

const bendNames = { straight: 'straight', late: 'late, then fast', early: 'fast, then late' } as const;
const bendOptions = bends.map((value) => ({ value, label: bendNames[value], title: bendNames[value] }));
const step = (move: Move) => {
  const { least, most } = movers.specOf(move) ?? { least: 0, most: 1 };
  return most - least <= 4 ? 0.05 : most - least <= 200 ? 0.5 : 10;
};
/** Where a mover is now, as a bar under its name. */
const shareOf = (id: number) => `${Math.round((movers.shares.get(id) ?? 0) * 100)}%`;

/** The value that is pointed at, while it is asked what moves it. */
const asked = ref<Target>();
const isAsked = computed({ get: () => asked.value !== undefined, set: (is) => is || (asked.value = undefined) });
function point(): void {
  const under = [...document.querySelectorAll(':hover')].at(-1)?.closest('[data-moves]');
  const element = under ?? document.activeElement?.closest('[data-moves]');
  const [of, id, key] = element?.getAttribute('data-moves')?.split(' ') ?? [];
  if (!key) return tell.info('Point at a level, a place, a time, a pitch or a value of an effect first');
  // What belongs to the sound itself is left to chance or to nobody.
  if (of === 'layer') return void ranges.add({ of, id: Number(id), key });
  asked.value = { of: of as Target['of'], id: Number(id), key };
}
/** The same value as chance knows it; undefined where it does not. */
function leftOf({ of, id, key }: Target): Left | undefined {
  if (of === 'effect') return { of, id, key };
  return key === 'gain' && id !== MAIN ? { of: 'layer', id, key } : undefined;
}
function chosen({ key }: { key: string | number }): void {
  const target = asked.value;
  asked.value = undefined;
  if (!target) return;
  const [what, own] = String(key).split(' ');
  const left = leftOf(target);
  if (what === 'chance') return void (left && ranges.add(left));
  void movers.add(target, what === 'own' ? { id: Number(own) } : { kind: own });
}
/** A box for numbers takes no letters: there the key means the value in it. */
const writes = () => document.activeElement?.matches('input:not([role="spinbutton"]):not([type="checkbox"]), textarea') === true;
useCommands('The build', [{ label: 'Let something move the value that is pointed at', keys: ['v'], run: point, inText: true, enabled: () => !writes() }]);
</script>

<template>
  <section class="movers" aria-label="Movers">
    <h2>Movers</h2>
    <div role="list" aria-label="What moves values">
      <template v-for="mover in scene.movers" :key="mover.id">
        <div v-for="(move, i) in mover.moves" :key="i" class="row" role="listitem">
          <button
            class="chip"
            :class="{ chosen: movers.openedId === mover.id }"
            :aria-expanded="movers.openedId === mover.id"
            @click="movers.openedId = movers.openedId === mover.id ? undefined : mover.id"
          >
            {{ movers.nameOf(mover) }}<span class="now" :style="{ width: shareOf(mover.id) }" aria-hidden="true" />
          </button>
          <span class="cut" :class="{ gone: !movers.specOf(move) }" :title="movers.targetName(move)">moves {{ movers.targetName(move) }}</span>
          <span class="tools range">
            <label
              >from
              <NumberBox
                :value="Number(move.from.toPrecision(4))"
                :min="movers.specOf(move)?.least ?? -1e6"
                :max="movers.specOf(move)?.most ?? 1e6"
                :step="step(move)"
                :aria-label="`From, for ${movers.targetName(move)}`"
                class="number"
                @set="(from) => movers.setMove(mover, move, { from })"
            /></label>
            <label
              >to
              <NumberBox
                :value="Number(move.to.toPrecision(4))"
                :min="movers.specOf(move)?.least ?? -1e6"
                :max="movers.specOf(move)?.most ?? 1e6"
                :step="step(move)"
                :aria-label="`To, for ${movers.targetName(move)}`"
                class="number"
                @set="(to) => movers.setMove(mover, move, { to })"
            /></label>
            <span class="mute">{{ movers.specOf(move)?.unit }}</span>
          </span>
          <Select
            size="small"
            :value="move.bend"
            :options="bendOptions"
            :aria-label="`How ${movers.targetName(move)} follows`"
            class="bend"
            @change="(bend) => movers.setMove(mover, move, { bend: bend as Move['bend'] })"
          />
          <span class="tools">
            <Button size="small" title="It goes the other way" @click="movers.setMove(mover, move, { from: move.to, to: move.from })">Reverse</Button>
            <Button size="small" :title="`${movers.nameOf(mover)} lets it be`" @click="movers.letBe(mover, move)">Let it be</Button>
          </span>
        </div>
        <div v-if="movers.openedId === mover.id" role="listitem"><MoverPanel :mover="mover" /></div>
      </template>
    </div>
    <ChanceRows />
    <p class="mute hint">Let something move a value: point at any number above and press V.</p>
    <Modal v-model:open="isAsked" :title="asked ? `What moves ${movers.targetName(asked)}?` : ''" :footer="null" :width="620">
      <Menu aria-label="What moves it" @click="chosen">
        <Menu.ItemGroup v-if="scene.movers.length > 0" title="What moves values already">
          <Menu.Item v-for="mover in scene.movers" :key="`own ${mover.id}`">{{ movers.nameOf(mover) }}</Menu.Item>
        </Menu.ItemGroup>
        <Menu.ItemGroup v-if="asked && leftOf(asked)" title="Nobody, but chance">
          <Menu.Item key="chance all"
            >Chance <span class="mute small" aria-hidden="true">Another value with each variation, and of a layer with each stroke.</span></Menu.Item
          >
        </Menu.ItemGroup>
        <Menu.ItemGroup title="A new one">
          <Menu.Item v-for="kind in moverKinds" :key="`new ${kind.kind}`" :title="kind.about"
            >{{ kind.name }} <span class="mute small" aria-hidden="true">{{ kind.about }}</span></Menu.Item
          >
        </Menu.ItemGroup>
      </Menu>
    </Modal>
  </section>
</template>

<style scoped>
.movers {
  display: block;
}
h2 {
  padding: 16px 20px 6px;
}
.row {
  display: grid;
  grid-template-columns: minmax(150px, 260px) minmax(160px, 1fr) auto 150px auto;
  gap: 12px;
  align-items: center;
  min-height: 40px;
  padding: 0 16px 0 20px;
  border-bottom: 1px solid var(--line);
}
.chip {
  position: relative;
  overflow: hidden;
  justify-self: start;
  max-width: 100%;
  padding: 3px 12px;
  border: 1px solid var(--line);
  border-radius: 14px;
  background: var(--raft2);
  color: inherit;
  text-overflow: ellipsis;
  white-space: nowrap;
  cursor: pointer;
}
.chosen {
  border-color: var(--sky);
}
.now {
  position: absolute;
  bottom: 0;
  left: 0;
  height: 2px;
  background: var(--glass);
}
.gone {
  text-decoration: line-through;
}
label {
  display: flex;
  gap: 6px;
  align-items: center;
}
.number {
  width: 84px;
}
.hint {
  margin: 0;
  padding: 10px 20px 16px;
  font-size: 13px;
}
</style>
