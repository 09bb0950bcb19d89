<script setup lang="ts">
import { fieldStates, publisherKey, takenFrom, usualChoices, type Choice, type Choices, type FieldState } from '@core/elsewhere';
import { nameOf } from '@core/library';
import { Exchange, Service, type LookedUpAll } from '@platform/index';
import { Alert, AutoComplete, Button, RadioGroup, Select } from 'ant-design-vue';
import { computed, onUnmounted, reactive, ref, shallowRef, watch } from 'vue';
import { useCommands, withKey } from '../shared/controls/commands';
import { toldName } from '../shared/controls/fields';
import { count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useServices } from '../stores/services';
import ScopeBar from './ScopeBar.vue';

/** Labels that publishers tell on the exchange, found by the sounds themselves; nothing changes before each value was seen. */
const labels = useLabels();
const library = useLibrary();
const find = useFind();
const prefs = usePrefs();
const services = useServices();
void services.look();

const publisher = ref(prefs.publisher);
const found = shallowRef<LookedUpAll>();
const choices = reactive<Choices>({ ...usualChoices });
/** What somebody chose for single values, by sound and field. */
const chosen = reactive<Record<number, Record<string, Choice>>>({});
const shown = ref<FieldState | 'differing'>('differing');

/** Names that sounds here have as their publisher's or their library's. */
const names = computed(() => {
  const { library: libraries, manufacturer } = find.answer.facets;
  const all = [...(libraries?.values ?? []), ...(manufacturer?.values ?? [])].map((v) => v.value);
  return [...new Set(all)].map((value) => ({ value }));
});
const base = computed(() => services.known.exchange);

async function look(): Promise<void> {
  const address = base.value;
  const name = publisher.value.trim();
  if (address === undefined || name === '') return;
  found.value = undefined;
  for (const id of Object.keys(chosen)) delete chosen[Number(id)];
  const { ids } = labels;
  const url = new URL(address, location.href).href;
  const made = await labels.run((l, report) => l.lookLabelsUp(url, name, ids, report));
  if (!made) return;
  found.value = made;
  prefs.publisher = name;
}
// What was seen is of these sounds and this name.
watch(
  () => [labels.ids, publisher.value] as const,
  ([ids, name], [before, named]) => {
    const same = name === named && ids.length === before.length && ids.every((id, i) => id === before[i]);
    if (!same && !labels.work.running) found.value = undefined;
  },
);

/** One value of one sound; the first of a sound says which it is. */
const lines = computed(() =>
  (found.value?.rows ?? []).flatMap(({ id, match, fields }) =>
    fields
      .filter(({ state }) => (shown.value === 'differing' ? state !== 'same' : state === shown.value))
      .map((field, i) => ({ id, match, first: i === 0, ...field })),
  ),
);
const choiceOf = (line: (typeof lines.value)[number]): Choice => chosen[line.id]?.[line.key] ?? (line.state === 'same' ? 'mine' : choices[line.state]);
function choose(line: (typeof lines.value)[number], choice: Choice): void {
  chosen[line.id] = { ...chosen[line.id], [line.key]: choice };
}
const changing = computed(() => (found.value?.rows ?? []).filter(({ id, fields }) => Object.keys(takenFrom(fields, choices, chosen[id])).length > 0).length);
async function take(): Promise<void> {
  const n = changing.value;
  const name = found.value?.publisher;
  const own = JSON.parse(JSON.stringify(chosen)) as typeof chosen;
  const kept = await labels.run((l, report) => l.takeLabels({ ...choices }, own, report));
  if (kept === undefined) return;
  tell.done(`${things(n, 'sound')} labelled as ${name} does; Ctrl Z takes it back`);
  await look();
}

const said: Record<FieldState, string> = {
  new: 'where nothing is yet',
  same: 'the same',
  corrected: 'corrected by the publisher',
  guessed: 'worked out here',
  edited: 'written here or in the file',
};
const shows = computed(() => [
  { value: 'differing', label: 'All that differs' },
  ...fieldStates.map((s) => ({ value: s, label: `${count(found.value?.counts[s] ?? 0)} ${said[s]}`, disabled: !found.value?.counts[s] })),
]);
const kinds = [
  { state: 'new', label: 'Where nothing is yet', options: ['Take theirs', 'Leave it empty'] },
  { state: 'guessed', label: 'What was worked out here', options: ['Take theirs', 'Keep mine'] },
  { state: 'corrected', label: 'What they corrected', options: ['Take theirs', 'Keep mine'] },
  { state: 'edited', label: 'What was written here', options: ['Take theirs', 'Keep mine'] },
] as const;
const optionsOf = (texts: readonly string[]) => texts.map((label, i) => ({ value: (['theirs', 'mine'] as const)[i], label, title: label }));

const summary = computed(() => {
  const all = found.value;
  if (!all) return '';
  const near = all.rows.filter((r) => r.match === 'near').length;
  const parts = [
    `${things(all.rows.length, 'sound')} known to ${all.publisher}${near > 0 ? `, ${count(near)} of them in another coding` : ''}`,
    all.unknown.length > 0 ? `${count(all.unknown.length)} not known there` : '',
    all.unmeasured.length > 0 ? `${count(all.unmeasured.length)} not measured yet` : '',
    all.withdrawn.length > 0 ? `${count(all.withdrawn.length)} withdrawn by the publisher` : '',
  ];
  return parts.filter(Boolean).join('; ');
});

// While one looks at this part, corrections that are published meanwhile are noticed.
const WATCHED = 60_000;
const news = ref(0);
const timer = setInterval(async () => {
  const all = found.value;
  if (!base.value || !all?.publisher || labels.work.running) return;
  const service = new Service(new URL(base.value, location.href).href, 'the exchange');
  // One that is gone for now has nothing new.
  const facts = await new Exchange(service).publisher(all.publisher).catch(() => undefined);
  if (found.value === all) news.value = Math.max(0, (facts?.revision ?? 0) - all.revision);
}, WATCHED);
onUnmounted(() => clearInterval(timer));
watch(found, () => (news.value = 0));

useCommands('Labelling', [
  { label: 'Look labels up on the exchange', keys: ['Ctrl+Enter'], run: () => void look(), inText: true, enabled: () => base.value !== undefined },
  { label: 'Take the labels that are chosen', keys: ['Shift+Enter'], run: () => void take(), enabled: () => changing.value > 0 && !labels.work.running },
]);
</script>

<template>
  <div class="label-part">
    <div class="tools">
      <label for="exchange-publisher">Published by</label>
      <AutoComplete
        id="exchange-publisher"
        v-model:value="publisher"
        :options="names"
        :filter-option="(typed: string, option: { value: string }) => publisherKey(option.value).includes(publisherKey(typed))"
        placeholder="Name of the publisher"
        aria-label="Published by"
        class="name"
      />
      <ScopeBar />
      <Button
        type="primary"
        :disabled="base === undefined || publisher.trim() === '' || labels.ids.length === 0 || labels.work.running"
        :title="withKey('Fingerprints are sent, and no audio', 'Look labels up on the exchange')"
        @click="look"
        >Look up {{ things(labels.ids.length, 'sound') }}</Button
      >
      <span class="push" />
      <span class="mute small">Only fingerprints are sent, no audio.</span>
    </div>
    <Alert v-if="news > 0" type="info" :message="`${found?.publisher} published something new. Look the sounds up again.`" class="alert" />
    <div v-if="base === undefined" class="empty">
      <strong>No exchange is known</strong>
      <span>Start Cormorant with the address of one: npm start -- --exchange ADDRESS FOLDER</span>
    </div>
    <div v-else-if="!found" class="empty">
      <strong>Labels by the sounds themselves</strong>
      <span
        >Publishers tell on the exchange what their sounds are. Yours are recognised by what is heard, whatever their files are called by now. Nothing changes
        before you have seen each value.</span
      >
    </div>
    <div v-else-if="found.publisher === undefined" class="empty">
      <strong>Nobody publishes there under this name</strong>
      <span>Write it as the publisher does; it stands on the library, or in its licence.</span>
    </div>
    <template v-else>
      <Alert
        v-if="found.faults.length > 0"
        type="warning"
        class="alert"
        :message="`${things(found.faults.length, 'value')} left out, as the field cannot hold it: ${found.faults[0].message}`"
      />
      <div class="tools" role="status">
        <span>{{ summary }}</span>
        <span class="push" />
        <Button
          type="primary"
          :disabled="changing === 0 || labels.work.running"
          :title="withKey('As one step that can be taken back', 'Take the labels that are chosen')"
          @click="take"
          >Change {{ things(changing, 'sound') }}</Button
        >
      </div>
      <div class="tools">
        <template v-for="kind in kinds" :key="kind.state">
          <label :for="`choice-${kind.state}`" class="mute">{{ kind.label }}</label>
          <Select :id="`choice-${kind.state}`" v-model:value="choices[kind.state]" size="small" :options="optionsOf(kind.options)" class="choice" />
        </template>
      </div>
      <div class="tools">
        <RadioGroup v-model:value="shown" size="small" option-type="button" :options="shows" aria-label="Values to show" />
      </div>
      <VirtualRows
        v-if="lines.length > 0"
        :count="lines.length"
        :row-height="34"
        label="Values of the publisher"
        class="rows"
        @show="(rows) => library.need(rows.flatMap((i) => lines[i]?.id ?? []))"
      >
        <template #head>
          <div class="list-row row head" role="row">
            <span role="columnheader">Sound</span><span role="columnheader">Field</span><span role="columnheader">Here</span
            ><span role="columnheader">Published</span><span role="columnheader">Wanted</span>
          </div>
        </template>
        <template #default="{ index }">
          <div v-if="lines[index]" class="list-row row" role="row" :aria-rowindex="index + 2">
            <bdi role="gridcell" class="cut" :class="{ mute: !lines[index].first }">{{
              library.sounds.has(lines[index].id) ? nameOf(library.sounds.get(lines[index].id)!) : ''
            }}</bdi>
            <span role="gridcell" class="cut mute" :title="said[lines[index].state]">{{ toldName(lines[index].key) }}</span>
            <bdi role="gridcell" class="cut" :class="{ off: choiceOf(lines[index]) === 'theirs' }" :title="lines[index].mine">{{ lines[index].mine }}</bdi>
            <bdi
              role="gridcell"
              class="cut"
              :class="{ off: choiceOf(lines[index]) === 'mine', amber: lines[index].state === 'corrected' }"
              :title="lines[index].theirs"
              >{{ lines[index].theirs }}</bdi
            >
            <span role="gridcell">
              <RadioGroup
                v-if="lines[index].state !== 'same'"
                size="small"
                option-type="button"
                :value="choiceOf(lines[index])"
                :options="[
                  { value: 'mine', label: 'Mine' },
                  { value: 'theirs', label: 'Theirs' },
                ]"
                :aria-label="`${toldName(lines[index].key)} that is wanted`"
                @change="(e: { target: { value?: unknown } }) => choose(lines[index], e.target.value as Choice)"
              />
            </span>
          </div>
        </template>
      </VirtualRows>
      <div v-else class="empty"><strong>Nothing differs</strong><span>These sounds say what their publisher says.</span></div>
    </template>
  </div>
</template>

<style scoped>
.name {
  width: 230px;
}
.choice {
  width: 140px;
}
.alert {
  margin: 0 16px 8px;
}
.row {
  grid-template-columns: minmax(0, 0.8fr) 130px minmax(0, 1fr) minmax(0, 1fr) 130px;
}
.off {
  color: var(--mute);
  text-decoration: line-through;
}
.amber {
  color: var(--amber);
}
</style>
