<script setup lang="ts">
import { creditsCrawl, creditsCsv, creditsMarkdown, type CreditLine } from '@core/scene';
import { useLocalStorage } from '@vueuse/core';
import { Button, Select } from 'ant-design-vue';
import { useCommands } from '../shared/controls/commands';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useScene } from '../stores/scene';
import { creditPart } from './credit-part';

/** The credits of a scene: a sheet of all sounds, or what has to be printed. */
const props = defineProps<{ lines: readonly CreditLine[] }>();
const scene = useScene();
type CreditForm = 'sheet' | 'crawl' | 'markdown' | 'html';
const creditForm = useLocalStorage<CreditForm>('form of credits', 'sheet');
const creditForms = Object.entries({ sheet: 'as CSV', crawl: 'for an end crawl', markdown: 'as Markdown', html: 'as HTML' }).map(([value, label]) => ({
  value,
  label,
  title: label,
}));
function saveCredits(): void {
  const { lines } = props;
  const name = `${scene.current?.name ?? 'scene'} credits`;
  if (creditForm.value === 'sheet') return save(creditsCsv(lines), 'text/csv', `${name}.csv`);
  if (!lines.some((l) => l.credit)) return tell.info('No sound of this scene asks for a credit: there is nothing to print');
  if (creditForm.value === 'crawl') save(creditsCrawl(lines), 'text/plain', `${name}.txt`);
  else if (creditForm.value === 'markdown') save(creditsMarkdown(lines), 'text/markdown', `${name}.md`);
  else save(creditPart(lines), 'text/html', `${name}.html`);
}
useCommands('Using a sound', [{ label: 'Save the credits', keys: ['c'], run: saveCredits }]);
</script>

<template>
  <li>
    <div><strong>Credits</strong><span class="mute">What each licence asks for: a sheet of all sounds, or what has to be printed, by author</span></div>
    <Select v-model:value="creditForm" :options="creditForms" aria-label="Form of the credits" class="by" />
    <Button @click="saveCredits">Save the credits</Button>
  </li>
</template>
