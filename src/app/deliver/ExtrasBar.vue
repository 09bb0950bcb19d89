<script setup lang="ts">
import { Button, Checkbox, Input, Select } from 'ant-design-vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { usePublishing } from '../stores/publishing';

/** What lies beside the sounds of a published library. */
const out = usePublishing();
const sheets = [
  { value: 'csv', label: 'a CSV sheet' },
  { value: 'xlsx', label: 'an XLSX sheet' },
  { value: 'none', label: 'no sheet' },
];
</script>

<template>
  <div class="tools extras" role="group" aria-label="What lies beside the sounds">
    <span class="mute">Beside them</span>
    <Select v-model:value="out.extras.sheet" size="small" :options="sheets" aria-label="Sheet" :dropdown-match-select-width="false" />
    <Checkbox v-model:checked="out.extras.artwork">Artwork</Checkbox>
    <Checkbox v-model:checked="out.extras.contents">Contents</Checkbox>
    <Checkbox v-model:checked="out.extras.credits">Credits</Checkbox>
    <Checkbox v-model:checked="out.extras.sums">Checksums</Checkbox>
    <Checkbox v-model:checked="out.extras.licence">Licence</Checkbox>
    <PopPanel v-if="out.extras.licence" placement="bottomLeft">
      <template #panel>
        <div class="terms">
          <label for="terms">Your own terms, which stand above the licences of the sounds</label>
          <Input.TextArea id="terms" v-model:value="out.extras.terms" :rows="6" :maxlength="20000" aria-label="Your own terms" />
        </div>
      </template>
      <Button size="small">Terms …</Button>
    </PopPanel>
  </div>
</template>

<style scoped>
.extras {
  white-space: nowrap;
}
.terms {
  display: grid;
  gap: 8px;
  width: 420px;
}
</style>
