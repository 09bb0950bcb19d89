<script setup lang="ts">
import { Button, RadioButton, RadioGroup } from 'ant-design-vue';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { things } from '../shared/controls/format';
import { useBuilds } from '../stores/builds';

/** How a build answers to keys. */
const builds = useBuilds();
</script>

<template>
  <PopPanel placement="topLeft">
    <template #panel>
      <div class="form" role="group" aria-label="How keys play it">
        <label for="build-voices">Strokes at once</label>
        <NumberBox
          id="build-voices"
          :value="builds.played.voices"
          :min="1"
          :max="64"
          aria-label="Strokes at once"
          @set="(voices) => builds.setPlayed({ voices: Math.round(voices) })"
        />
        <span>One more ends</span>
        <RadioGroup size="small" :value="builds.played.gives" aria-label="Which stroke gives way" @change="(e) => builds.setPlayed({ gives: e.target.value })">
          <RadioButton value="first">the first</RadioButton>
          <RadioButton value="quietest">the quietest</RadioButton>
        </RadioGroup>
        <span>Another key</span>
        <RadioGroup
          size="small"
          :value="builds.played.keys ?? 'pitch'"
          aria-label="What another key is"
          @change="(e) => builds.setPlayed({ keys: e.target.value })"
        >
          <RadioButton value="pitch">higher or lower</RadioButton>
          <RadioButton value="sounds">another sound</RadioButton>
        </RadioGroup>
        <span>Key up</span>
        <RadioGroup
          size="small"
          :value="builds.played.keyUp"
          aria-label="What a key does that goes up"
          @change="(e) => builds.setPlayed({ keyUp: e.target.value })"
        >
          <RadioButton value="ends">ends it</RadioButton>
          <RadioButton value="plays on">lets it play on</RadioButton>
        </RadioGroup>
      </div>
    </template>
    <Button size="small">{{ things(builds.played.voices, 'stroke') }} at most …</Button>
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
