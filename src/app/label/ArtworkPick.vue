<script setup lang="ts">
import { pictureOf, type PictureUse } from '@platform/index';
import { Select } from 'ant-design-vue';
import { ref, shallowRef, watch } from 'vue';
import FilePick from '../shared/controls/FilePick.vue';
import { tell } from '../shell/notice';

/** What becomes of the pictures in files that are written; undefined leaves them as they are. */
const use = defineModel<PictureUse>();
type To = 'stays' | PictureUse['to'];
const ways: { value: To; label: string }[] = [
  { value: 'stays', label: 'Artwork stays' },
  { value: 'lacking', label: 'Artwork where there is none' },
  { value: 'all', label: 'Artwork in all files' },
  { value: 'none', label: 'Take artwork out' },
];
const to = ref<To>('stays');
const picture = shallowRef<Extract<PictureUse, { picture: unknown }>['picture']>();
const shown = ref('');

watch([to, picture], () => {
  if (to.value === 'stays') use.value = undefined;
  else if (to.value === 'none') use.value = { to: 'none' };
  else use.value = picture.value && { to: to.value, picture: picture.value };
});
watch(picture, (now, _, done) => {
  if (!now) return;
  shown.value = URL.createObjectURL(new Blob([now.bytes as Uint8Array<ArrayBuffer>], { type: now.mime }));
  done(() => URL.revokeObjectURL(shown.value));
});

async function pick(file: File): Promise<void> {
  try {
    picture.value = await pictureOf(file);
  } catch (error) {
    tell.error(`${file.name} cannot be put into files: ${(error as Error).message}. Choose another picture.`);
  }
}
</script>

<template>
  <Select v-model:value="to" :options="ways" class="way" aria-label="Artwork" :dropdown-match-select-width="false" />
  <template v-if="to === 'lacking' || to === 'all'">
    <img v-if="picture" :src="shown" alt="The chosen picture" width="24" height="24" class="thumb" />
    <FilePick :label="picture ? 'Another picture' : 'Choose a picture'" accept="image/*" :main="!picture" @pick="pick" />
  </template>
</template>

<style scoped>
.way {
  width: 210px;
}
.thumb {
  object-fit: cover;
  border-radius: 2px;
}
</style>
