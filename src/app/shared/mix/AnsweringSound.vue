<script setup lang="ts">
import { effectOf } from '@core/effects';
import { nameOf, type Sound } from '@core/library';
import type { LineEffect } from '@core/scene';
import { Button } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import SoundPick from '../sound/SoundPick.vue';
import { bringsSounds, droppedSounds } from '../take/drag';
import { tell } from '../../shell/notice';
import { useAudition } from '../../stores/audition';
import { useLibrary } from '../../stores/library';
import { useMix } from '../../stores/mix';

/** The sound that an effect is made of: heard, or another one put in its place, by its words or by drag. */
const props = defineProps<{ effect: LineEffect }>();
const mix = useMix();
const library = useLibrary();
const audition = useAudition();
const label = computed(() => effectOf(props.effect.kind)?.madeOf ?? '');
/** None while it is looked for, or where it is gone. */
const own = shallowRef<Sound>();
watch(
  () => [props.effect.sound?.id, library.revision] as const,
  async ([id]) => {
    const [found] = id === undefined ? [] : await library.need([id]);
    if (id === props.effect.sound?.id) own.value = found;
  },
  { immediate: true },
);
const placeholder = computed(() => (props.effect.sound ? 'A sound that is gone' : 'Nothing yet: choose a sound'));
const absent = computed(() => own.value && library.absence(own.value));

async function take(sound: Sound): Promise<void> {
  if (library.loose.has(sound.rootId)) return tell.error(`${nameOf(sound)} is not in the library: add it first`);
  await mix.change(props.effect, `Make ${mix.nameOf(props.effect)} of ${nameOf(sound)}`, {
    sound: { id: sound.id, rate: sound.format.rate },
  });
}
async function dropped(event: DragEvent): Promise<void> {
  const [sound] = await library.need((droppedSounds(event) ?? []).slice(0, 1));
  if (sound) await take(sound);
}
</script>

<template>
  <div class="tools" role="group" :aria-label="label" @dragover="bringsSounds($event) && $event.preventDefault()" @drop.prevent.stop="dropped">
    <span class="mute">{{ label }}</span>
    <SoundPick :label="label" :sound="own" :placeholder="placeholder" @pick="take" />
    <span v-if="absent" class="bad">{{ absent.toLowerCase() }}</span>
    <Button v-if="own" size="small" :title="`Hear ${nameOf(own)}`" @click="audition.choose(own, true)">Hear it</Button>
  </div>
</template>
