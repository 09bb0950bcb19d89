<script setup lang="ts">
import { Button, Checkbox } from 'ant-design-vue';
import { RouterLink } from 'vue-router';
import { useAudition } from '../../stores/audition';
import { usePrefs } from '../../stores/prefs';
import NumberBox from '../controls/NumberBox.vue';
import { withKey } from '../controls/commands';
import PopPanel from '../controls/PopPanel.vue';

/** How one listens, whatever the sound. */
defineProps<{ through?: () => void }>();
const audition = useAudition();
const prefs = usePrefs();
/** LUFS, to begin with: quiet enough that hardly any sound is held back by its peak. */
const USUAL = -23;
</script>

<template>
  <PopPanel placement="top">
    <template #panel>
      <div class="menu" role="group" aria-label="How to listen">
        <Checkbox v-model:checked="prefs.playWhole">Play whole sounds, not their regions</Checkbox>
        <Checkbox :checked="prefs.levelTo !== 0" @change="prefs.levelTo = prefs.levelTo === 0 ? USUAL : 0">Bring all to one loudness, never clipping</Checkbox>
        <NumberBox
          v-if="prefs.levelTo !== 0"
          :value="prefs.levelTo"
          :min="-60"
          :max="-6"
          :empty="USUAL"
          unit="LUFS"
          aria-label="Loudness to which sounds are brought"
          @set="(level) => (prefs.levelTo = level)"
        />
        <label v-if="through" for="through">{{ withKey('While the list plays through', 'Play the list through') }}, each for</label>
        <NumberBox
          v-if="through"
          id="through"
          :value="prefs.throughSeconds"
          :min="0.5"
          :max="600"
          :step="0.5"
          unit="s"
          @set="(seconds) => (prefs.throughSeconds = seconds)"
        />
        <Button v-if="through" size="small" :aria-pressed="audition.through" @click="through()">{{
          audition.through ? 'Stop playing through' : 'Play the list through'
        }}</Button>
        <RouterLink :to="{ name: 'diagnostics' }">How fast it is heard</RouterLink>
      </div>
    </template>
    <Button size="small" :class="{ on: prefs.levelTo !== 0 || prefs.playWhole }">How to listen</Button>
  </PopPanel>
</template>

<style scoped>
.menu {
  display: grid;
  gap: 10px;
  width: 280px;
}
.menu :deep(.ant-checkbox-wrapper) {
  margin: 0;
}
.on {
  border-color: var(--glass);
  color: var(--glass);
}
</style>
