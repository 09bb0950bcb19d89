<script setup lang="ts">
import { struckInWords, type Layer } from '@core/build';
import { Button, RadioButton, RadioGroup } from 'ant-design-vue';
import { computed } from 'vue';
import { capital } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useBuilds } from '../stores/builds';

/** When keys sound a layer, and how often at once. */
const props = defineProps<{ layer: Layer }>();
const builds = useBuilds();

const struck = computed(() => props.layer.track.struck ?? {});
const said = computed(() => capital(struckInWords(props.layer.track).join(', ') || 'as the key goes down'));

/** As many as the build allows is no limit of its own. */
const setVoices = (voices: number) => builds.setStruck(props.layer, 'voices', voices < builds.played.voices ? Math.round(voices) : undefined);
</script>

<template>
  <PopPanel placement="bottomLeft">
    <template #panel>
      <div class="form" role="group" aria-label="How keys play the layer">
        <span>It sounds as a key</span>
        <RadioGroup
          size="small"
          :value="struck.on ?? 'down'"
          aria-label="When the layer sounds"
          @change="(e) => builds.setStruck(layer, 'on', e.target.value === 'up' ? 'up' : undefined)"
        >
          <RadioButton value="down">goes down</RadioButton>
          <RadioButton value="up">goes up</RadioButton>
        </RadioGroup>
        <label for="layer-voices">Strokes of it at once</label>
        <NumberBox
          id="layer-voices"
          :value="Math.min(struck.voices ?? 64, builds.played.voices)"
          :min="1"
          :max="builds.played.voices"
          aria-label="Strokes of the layer at once"
          @set="setVoices"
        />
      </div>
    </template>
    <Button size="small" title="How keys play it">{{ said }} …</Button>
  </PopPanel>
</template>

<style scoped>
.form {
  display: grid;
  grid-template-columns: auto auto;
  gap: 8px 12px;
  align-items: center;
}
</style>
