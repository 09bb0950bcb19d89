<script setup lang="ts">
import { frameToSample, sampleToFrame, timecodeAt, usesOf, type Cue } from '@core/scene';
import { RATE } from '@platform/index';
import { nameOf, type Sound } from '@core/library';
import { Button, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import { things } from '../shared/controls/format';
import { useAudition } from '../stores/audition';
import { useTransport } from '../stores/transport';
import { useFind } from '../stores/find';
import { useHands } from '../stores/hands';
import { useLibrary } from '../stores/library';
import { useScene } from '../stores/scene';

/** Every sound that the scene uses, in the order in which it is first heard: played, found and selected from here. */
const scene = useScene();
const hands = useHands();
const library = useLibrary();
const audition = useAudition();
const transport = useTransport();
const find = useFind();
const router = useRouter();
const uses = computed(() => usesOf(scene.cues));
/** Those that effects are made of and no cue plays. */
const answering = shallowRef<readonly Sound[]>([]);
watch(
  () => [scene.answering, uses.value] as const,
  async ([ids, used]) => {
    const placed = new Set(used.map((u) => u.soundId));
    answering.value = await library.need(ids.filter((id) => !placed.has(id)));
  },
  { immediate: true },
);
const open = ref<number>();

const at = (cue: Cue) => (scene.current ? timecodeAt(scene.current, sampleToFrame(cue.at, scene.rate, RATE)) : '');
const when = new Intl.DateTimeFormat(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const placed = (cues: readonly Cue[]) => {
  const times = cues.flatMap((c) => c.made ?? []);
  return times.length > 0 ? when.format(Math.max(...times)) : undefined;
};

async function play(soundId: number): Promise<void> {
  const [sound] = await library.need([soundId]);
  if (sound) audition.choose(sound, true);
}
async function show(soundId: number): Promise<void> {
  const [sound] = await library.need([soundId]);
  if (!sound) return;
  find.begin({ text: `"${nameOf(sound).replaceAll('"', '')}"` });
  await router.push({ name: 'find' });
}
function go(cue: Cue): void {
  void hands.select([cue.id]);
  transport.seek(frameToSample(sampleToFrame(cue.at, scene.rate, RATE), scene.rate, RATE));
}
</script>

<template>
  <section class="part" aria-label="In this scene">
    <ul class="listing">
      <li v-for="use in uses" :key="use.soundId" class="use">
        <div class="row">
          <button class="plain cut" :aria-expanded="open === use.soundId" :title="use.name" @click="open = open === use.soundId ? undefined : use.soundId">
            {{ use.name }}
            <span class="mute small"
              >{{ things(use.cues.length, 'cue') }}<template v-if="placed(use.cues)">, placed {{ placed(use.cues) }}</template></span
            >
          </button>
          <Tooltip title="Select its cues"
            ><Button size="small" type="text" :aria-label="`Select the cues of ${use.name}`" @click="hands.select(use.cues.map((c) => c.id))"
              >Select</Button
            ></Tooltip
          >
          <Button size="small" type="text" :aria-label="`Play ${use.name}`" @click="play(use.soundId)">Play</Button>
          <Button size="small" type="text" :aria-label="`Show ${use.name} in Find`" @click="show(use.soundId)">Find</Button>
        </div>
        <div v-if="open === use.soundId" class="places">
          <Button
            v-for="cue in use.cues"
            :key="cue.id"
            size="small"
            class="mono"
            :type="hands.selected.has(cue.id) ? 'primary' : 'default'"
            ghost
            @click="go(cue)"
            >{{ at(cue) }}</Button
          >
        </div>
      </li>
      <li v-for="sound in answering" :key="`effect ${sound.id}`" class="use">
        <div class="row">
          <span class="cut" :title="nameOf(sound)">{{ nameOf(sound) }} <span class="mute small">an effect is made of it</span></span>
          <span />
          <Button size="small" type="text" :aria-label="`Play ${nameOf(sound)}`" @click="play(sound.id)">Play</Button>
          <Button size="small" type="text" :aria-label="`Show ${nameOf(sound)} in Find`" @click="show(sound.id)">Find</Button>
        </div>
      </li>
      <li v-if="uses.length === 0" class="mute none">Nothing is placed yet.</li>
    </ul>
    <p class="mute small sum">{{ things(uses.length, 'sound') }} in {{ things(scene.cues.length, 'cue') }}</p>
  </section>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-rows: minmax(0, 1fr) auto;
  min-height: 0;
}
.use {
  border-bottom: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: minmax(0, 1fr) auto auto auto;
  align-items: center;
  min-height: 34px;
}
.small {
  font-size: 12px;
}
.places {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  padding: 2px 6px 8px;
}
.none,
.sum {
  margin: 6px 4px 0;
}
</style>
