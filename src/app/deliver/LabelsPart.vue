<script setup lang="ts">
import { nameOf } from '@core/library';
import { PublisherKeys, type PublisherKey, type PublishPlan } from '@platform/index';
import { Alert, Button, Checkbox, Input, Popconfirm, Select } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import QueryLine from '../find/QueryLine.vue';
import FilePick from '../shared/controls/FilePick.vue';
import { toldName } from '../shared/controls/fields';
import { count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { useServices } from '../stores/services';
import { useSource } from './useSource';

/** Tells others on the exchange what these sounds are: what would be said is seen first, and can be taken back. */
const { find, source, sources, ids } = useSource();
const labels = useLabels();
const library = useLibrary();
const prefs = usePrefs();
const services = useServices();
void services.look();

const keys = new PublisherKeys();
const publisher = ref(prefs.publishedAs);
const note = ref('');
const withArtwork = ref(true);
const key = shallowRef<PublisherKey>();
const plan = shallowRef<PublishPlan>();
const failure = ref('');
const busy = ref(false);
const base = computed(() => services.known.exchange);
watch(
  publisher,
  async (name) => {
    plan.value = undefined;
    key.value = name.trim() === '' ? undefined : await keys.of(name);
  },
  { immediate: true },
);
watch([() => find.answer.ids, source, withArtwork, () => library.undoState], () => {
  if (!busy.value) plan.value = undefined;
});

/** Whether this browser may publish under the name: nobody does yet, or it has the key that began it. */
const isOurs = computed(() => {
  const facts = plan.value?.facts;
  return !facts || (key.value !== undefined && facts.key.x === key.value.public.x && facts.key.y === key.value.public.y);
});

async function tried(task: () => Promise<void>): Promise<void> {
  failure.value = '';
  busy.value = true;
  try {
    await task();
  } catch (error) {
    failure.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
const address = () => new URL(base.value!, location.href).href;
async function look(): Promise<void> {
  const name = publisher.value.trim();
  const wanted = await ids();
  const made = await labels.run((l, report) => l.planLabels(address(), name, wanted, report, withArtwork.value));
  if (!made) return;
  plan.value = made;
  prefs.publishedAs = name;
}
async function publish(what: 'say' | 'take back'): Promise<void> {
  const own = key.value ?? (await keys.make(publisher.value));
  key.value = own;
  const said = await labels.run((l) => l.publishLabels(address(), { ...own }, note.value.trim(), what));
  if (!said) return;
  const counts = [said.added && `${said.added} new`, said.changed && `${said.changed} corrected`, said.withdrawn && `${said.withdrawn} taken back`];
  tell.done(`Revision ${said.revision} of ${own.publisher} is published: ${counts.filter(Boolean).join(', ')}`);
  note.value = '';
  await look();
}
async function saveKey(): Promise<void> {
  if (!key.value) return;
  save(JSON.stringify(await keys.file(key.value), undefined, 2), 'application/json', `${key.value.publisher} key.json`);
}
const openKey = (file: File) =>
  tried(async () => {
    const own = await keys.open(await file.text());
    publisher.value = own.publisher;
    key.value = own;
    tell.done(`This browser may publish as ${own.publisher} now`);
  });

const rows = computed(() => (plan.value?.rows ?? []).filter((r) => r.state !== 'same'));
const saying = computed(() => (plan.value ? plan.value.counts.added + plan.value.counts.changed : 0));
const states = { added: 'New', changed: 'Corrected', same: 'The same' } as const;
const summary = computed(() => {
  const p = plan.value;
  if (!p) return '';
  const parts = [
    `${count(p.counts.added)} new`,
    `${count(p.counts.changed)} corrected`,
    `${count(p.counts.same)} as published`,
    p.unlabelled.length > 0 ? `${count(p.unlabelled.length)} without name, description or category` : '',
    p.unmeasured.length > 0 ? `${count(p.unmeasured.length)} not measured yet` : '',
    p.unpictured.length > 0 ? `${count(p.unpictured.length)} without their artwork, which cannot be read or is more than goes at once` : '',
  ];
  return parts.filter(Boolean).join('; ');
});
</script>

<template>
  <div class="part">
    <QueryLine />
    <div class="tools">
      <label for="labels-source">Of</label>
      <Select id="labels-source" v-model:value="source" size="small" :options="sources" aria-label="What is published" class="source" />
      <label for="labels-as">as</label>
      <Input
        id="labels-as"
        v-model:value="publisher"
        size="small"
        :maxlength="200"
        placeholder="Name of the publisher"
        aria-label="Published as"
        class="name"
      />
      <Checkbox v-model:checked="withArtwork">with the artwork in the files</Checkbox>
      <Button size="small" :disabled="base === undefined || publisher.trim() === '' || busy || labels.work.running" @click="tried(look)"
        >See what would be said</Button
      >
      <span class="push" />
      <span class="mute small">{{ key ? 'This browser has the key of that name.' : publisher.trim() ? 'This browser has no key of that name.' : '' }}</span>
      <Button v-if="key" size="small" @click="saveKey">Save the key</Button>
      <FilePick label="Open a key" accept=".json" @pick="openKey" />
    </div>
    <Alert v-if="failure" type="error" :message="failure" closable class="alert" @close="failure = ''" />
    <Alert
      v-if="plan && !isOurs"
      type="warning"
      class="alert"
      :message="`“${plan.facts?.publisher}” is published by somebody else, and only the key that began it may go on. If that is you, open the key; else choose another name.`"
    />
    <div v-if="base === undefined" class="empty">
      <strong>No exchange is known</strong>
      <span>Start Cormorant with the address of one: npm start -- --exchange ADDRESS FOLDER</span>
    </div>
    <div v-else-if="!plan" class="empty">
      <strong>What your sounds are, told to whoever has them</strong>
      <span
        >Labels are published with the fingerprints of the sounds; no audio leaves this machine. The first time a key is made for the name: save it, as only it
        may correct what was published.</span
      >
    </div>
    <template v-else>
      <div class="tools" role="status">
        <span>{{ summary }}</span>
        <span class="push" />
        <Input
          v-model:value="note"
          size="small"
          :maxlength="1000"
          placeholder="What is new, for those who look"
          aria-label="Note on this revision"
          class="note"
        />
        <Popconfirm
          v-if="plan.published > 0 && isOurs"
          :title="`Nothing more is said of ${things(plan.published, 'sound')} then.`"
          ok-text="Take it back"
          cancel-text="Leave it"
          @confirm="tried(() => publish('take back'))"
        >
          <Button size="small" danger :disabled="busy">Take back {{ things(plan.published, 'sound') }}</Button>
        </Popconfirm>
        <Button size="small" type="primary" :disabled="saying === 0 || !isOurs || busy" @click="tried(() => publish('say'))"
          >Publish {{ things(saying, 'sound') }}</Button
        >
      </div>
      <ol v-if="plan.facts" class="before" aria-label="Revisions">
        <li v-for="p in [...plan.facts.publications].reverse().slice(0, 4)" :key="p.revision" class="small">
          <span class="mono mute">{{ p.revision }}</span> {{ p.at.slice(0, 10) }} {{ p.note }}
          <span class="mute">{{ p.added }} new, {{ p.changed }} corrected, {{ p.withdrawn }} taken back</span>
        </li>
      </ol>
      <VirtualRows
        v-if="rows.length > 0"
        :count="rows.length"
        :row-height="32"
        label="What would be said"
        class="rows"
        @show="(shown) => library.need(shown.flatMap((i) => rows[i]?.id ?? []))"
      >
        <template #head>
          <div class="list-row row head" role="row">
            <span role="columnheader">Sound</span><span role="columnheader">Is</span><span role="columnheader">Fields</span>
          </div>
        </template>
        <template #default="{ index }">
          <div v-if="rows[index]" class="list-row row" role="row" :aria-rowindex="index + 2">
            <bdi role="gridcell" class="cut">{{ library.sounds.has(rows[index].id) ? nameOf(library.sounds.get(rows[index].id)!) : '' }}</bdi>
            <span role="gridcell">{{ states[rows[index].state] }}</span>
            <span role="gridcell" class="cut mute">{{ rows[index].keys.map(toldName).join(', ') }}</span>
          </div>
        </template>
      </VirtualRows>
      <div v-else class="empty"><strong>All of this is published already</strong></div>
    </template>
  </div>
</template>

<style scoped>
.part {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.part > .tools {
  flex-wrap: wrap;
  padding: 0 16px 8px;
}
.source {
  width: 230px;
}
.name {
  width: 200px;
}
.note {
  width: 260px;
}
.alert {
  margin: 0 16px 8px;
}
.rows {
  flex: 1;
  min-height: 0;
}
.row {
  grid-template-columns: minmax(0, 1fr) 110px minmax(0, 1.6fr);
}
.before {
  margin: 0 0 8px;
  padding: 0 16px;
  list-style: none;
}
</style>
