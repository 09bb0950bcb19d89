<script setup lang="ts">
import { changeOf, type Change } from '@core/library';
import {
  categories,
  categoriesFromSheet,
  categoryOf,
  categoryWords,
  findCategories,
  isCatId,
  languageNames,
  languages,
  successorOf,
  type Category,
  type OwnCategory,
} from '@core/suggest';
import { Button, Form, FormItem, Input, Modal } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useRouter } from 'vue-router';
import FilePick from '../shared/controls/FilePick.vue';
import { count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { tell } from '../shell/notice';
import { useFind } from '../stores/find';
import { useLabels } from '../stores/labels';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { catalogue } from '../stores/workers';

const library = useLibrary();
const labels = useLabels();
const find = useFind();
const router = useRouter();
const prefs = usePrefs();
const text = ref('');
const counts = shallowRef<Record<string, number>>({});
const chosen = ref<string>();
const editing = ref<Omit<OwnCategory, 'id' | 'synonyms' | 'own'> & { id?: number; synonyms: string }>();

watch(
  () => library.revision,
  async () => (counts.value = await catalogue.categoryCounts()),
  { immediate: true },
);
const rows = computed<readonly Category[]>(() => {
  void library.ownCategories;
  return text.value.trim() ? findCategories(text.value) : categories;
});
const current = computed(() => {
  void library.ownCategories;
  return chosen.value ? categoryOf(chosen.value) : undefined;
});
/** CatIDs that sounds have and the list has not, with what took their place. */
const lost = computed(() => {
  void library.ownCategories;
  return Object.entries(counts.value).flatMap(([catId, n]) => (categoryOf(catId) ? [] : [{ catId, n, next: successorOf(catId) }]));
});
const replaced = computed(() => lost.value.filter((l) => l.next !== undefined));
const inUse = computed(() => {
  const fromSheet = library.ownCategories.filter((c) => !c.own).length;
  const made = library.ownCategories.length - fromSheet;
  const parts = [
    'In use: the built-in list, based on UCS 8.2',
    fromSheet > 0 ? `${things(fromSheet, 'row')} as a loaded sheet has ${fromSheet === 1 ? 'it' : 'them'}` : '',
    made > 0 ? `${things(made, 'row')} of your own` : '',
  ];
  return parts.filter(Boolean).join(', ');
});

/** Gives sounds, and the names planned for their files, the CatIDs that took the place of theirs, as one edit. */
async function carryOver(): Promise<void> {
  const rows: { id: number; texts: Record<string, string> }[] = [];
  for (const { catId, next } of replaced.value) {
    const ids = [...(await catalogue.ids({ text: `catid:"${catId}"`, reach: 'words' }))];
    const sounds = (await library.need(ids)).filter((s) => s.fields.catId === catId);
    for (const { id, fields } of sounds) {
      const planned = String(fields.plannedName ?? '');
      const texts: Record<string, string> = { catId: next! };
      if (planned.startsWith(catId)) texts.plannedName = next! + planned.slice(catId.length);
      rows.push({ id, texts });
    }
  }
  const label = `Carry ${things(rows.length, 'sound')} over to the corrected CatIDs`;
  const done = await labels.run((l) => l.putTexts(rows, label, false));
  if (done) tell.done(`${label}; Ctrl Z takes it back`);
}
const own = computed(() => library.ownCategories.find((c) => c.catId === chosen.value));
const words = computed(() => (current.value ? categoryWords.get(current.value.category) : undefined));

function show(catId: string): void {
  find.go({ text: `catid:${catId}`, facets: {}, pullId: undefined, intakeId: undefined });
  void router.push({ name: 'label', query: { q: `catid:${catId}` } });
}
async function assign(catId: string): Promise<void> {
  const ids = [...labels.selected];
  const label = `Set the category of ${things(ids.length, 'sound')}`;
  const done = await labels.run((l) =>
    l.putTexts(
      ids.map((id) => ({ id, texts: { catId } })),
      label,
      prefs.keepVendor,
    ),
  );
  if (done) tell.done(`${label}; Ctrl Z takes it back`);
}
function begin(from?: Category): void {
  const { id } = own.value ?? {};
  editing.value = from
    ? { ...from, id, synonyms: from.synonyms.join(', ') }
    : { category: '', subCategory: '', catId: '', catShort: '', explanation: '', synonyms: '' };
}
async function keep(): Promise<void> {
  const e = editing.value!;
  const row = {
    category: e.category.trim().toUpperCase(),
    subCategory: e.subCategory.trim().toUpperCase(),
    catId: e.catId.trim(),
    catShort: e.catShort.trim().toUpperCase(),
    explanation: e.explanation.trim(),
    synonyms: e.synonyms
      .split(',')
      .map((s) => s.trim())
      .filter(Boolean),
    own: true,
  };
  if (!row.category || !row.subCategory || !isCatId(row.catId))
    return tell.error('A row needs a category, a subcategory and a CatID of 3 to 24 letters and digits.');
  if (e.id === undefined && categoryOf(row.catId)) return tell.error(`${row.catId} is in the list already; change that row instead.`);
  const before = library.ownCategories.find((c) => c.id === e.id);
  const [id] = before ? [before.id] : await catalogue.newIds('categories', 1);
  await library.edit(`Keep the category ${row.catId}`, [before ? changeOf('categories', before, row) : { table: 'categories', id, after: { id, ...row } }]);
  editing.value = undefined;
  chosen.value = row.catId;
}

/** Lays a newer sheet of the list over ours; what is the same in it is left alone. */
async function load(file: File): Promise<void> {
  try {
    const bytes = new Uint8Array(await file.arrayBuffer());
    const sheet = await labels.run((l) => l.readCells(bytes), true);
    if (!sheet) return;
    const rows = categoriesFromSheet(sheet);
    const ids = await catalogue.newIds('categories', rows.length);
    const known = new Map(library.ownCategories.map((c) => [c.catId, c]));
    const changes = rows.map((row, i): Change | undefined => {
      const before = known.get(row.catId);
      return before ? changeOf('categories', before, row) : { table: 'categories', id: ids[i], after: { id: ids[i], ...row } };
    });
    await library.edit(`Load ${file.name} over the category list`, changes);
    tell.done(`${things(rows.length, 'row')} of ${count(sheet.rows.length)} are new or differ; Ctrl Z takes them back`);
  } catch (error) {
    tell.error(`${file.name} is no category list: ${(error as Error).message}.`);
  }
}
const need = () => undefined;
</script>

<template>
  <div class="categories">
    <section class="label-part">
      <div class="tools">
        <Input v-model:value="text" placeholder="Any word, in any of eight languages, or a CatID" aria-label="Find a category" allow-clear class="find" />
        <span class="mute" role="status">{{ things(rows.length, 'row') }}</span>
        <span class="push" />
        <FilePick label="Load a newer list" accept=".csv,.tsv,.xlsx" @pick="load" />
        <Button @click="begin()">Own row</Button>
      </div>
      <p class="mute small in-use">{{ inUse }}</p>
      <div v-if="lost.length > 0" class="lost" role="note">
        <span
          >Some sounds have CatIDs that are not in the list:
          <template v-for="(l, i) in lost.slice(0, 8)" :key="l.catId"
            >{{ i ? ', ' : '' }}<span class="mono">{{ l.catId }}{{ l.next ? ` → ${l.next}` : '' }}</span> ({{ count(l.n) }})</template
          >{{ lost.length > 8 ? ' and more' : '' }}.</span
        >
        <Button v-if="replaced.length > 0" size="small" type="primary" @click="carryOver">Carry over as one edit</Button>
      </div>
      <VirtualRows :count="rows.length" label="Categories" class="rows" @show="need">
        <template #head>
          <div class="list-row row head" role="row">
            <span role="columnheader">Category</span><span role="columnheader">SubCategory</span><span role="columnheader">CatID</span
            ><span role="columnheader">Explanation</span><span role="columnheader" class="end">Sounds</span>
          </div>
        </template>
        <template #default="{ index }">
          <div
            v-if="rows[index]"
            class="list-row row"
            role="row"
            :aria-rowindex="index + 2"
            :aria-selected="rows[index].catId === chosen"
            :class="{ current: rows[index].catId === chosen }"
            @click="chosen = rows[index].catId"
            @dblclick="show(rows[index].catId)"
          >
            <span role="gridcell" class="cut">{{ rows[index].category }}</span><span role="gridcell" class="cut">{{ rows[index].subCategory }}</span
            ><span role="gridcell" class="mono cut">{{ rows[index].catId }}</span
            ><span role="gridcell" class="cut mute">{{ rows[index].explanation }}</span
            ><span role="gridcell" class="mono end">{{ counts[rows[index].catId] ? count(counts[rows[index].catId]) : '' }}</span>
          </div>
        </template>
      </VirtualRows>
    </section>
    <aside class="side" aria-label="Category">
      <template v-if="current">
        <h1>{{ current.category }}, {{ current.subCategory }}</h1>
        <p class="mono">{{ current.catId }}</p>
        <p>{{ current.explanation }}</p>
        <h2>Synonyms</h2>
        <p>{{ current.synonyms.join(', ') }}</p>
        <template v-if="words">
          <h2>In other languages</h2>
          <dl>
            <template v-for="l in languages.filter((x) => x !== 'en')" :key="l"
              ><dt>{{ languageNames[l] }}</dt>
              <dd :lang="l">{{ words[l].join(', ') }}</dd></template
            >
          </dl>
        </template>
        <div class="buttons">
          <Button :disabled="!counts[current.catId]" @click="show(current.catId)">Show {{ things(counts[current.catId] ?? 0, 'sound') }}</Button>
          <Button type="primary" :disabled="labels.selected.size === 0" @click="assign(current.catId)"
            >Assign to {{ things(labels.selected.size, 'selected sound') }}</Button
          >
          <Button @click="begin(current)">Change the row</Button>
          <Button v-if="own" @click="library.discard('categories', own)">{{ own.own ? 'Delete the row' : 'Back to ours' }}</Button>
        </div>
      </template>
      <div v-else class="empty"><strong>Choose a row</strong><span>It shows its synonyms and how it is called in other languages.</span></div>
    </aside>
    <Modal :open="editing !== undefined" title="A row of the category list" ok-text="Keep" @ok="keep" @cancel="editing = undefined">
      <Form v-if="editing" layout="vertical">
        <FormItem label="Category" html-for="c-category"><Input id="c-category" v-model:value="editing.category" /></FormItem>
        <FormItem label="SubCategory" html-for="c-sub"><Input id="c-sub" v-model:value="editing.subCategory" /></FormItem>
        <FormItem label="CatID" html-for="c-id"
          ><Input id="c-id" v-model:value="editing.catId" :disabled="categoryOf(editing.catId) !== undefined && editing.catId === chosen" class="mono"
        /></FormItem>
        <FormItem label="CatShort" html-for="c-short"><Input id="c-short" v-model:value="editing.catShort" class="mono" /></FormItem>
        <FormItem label="Explanation" html-for="c-text"><Input id="c-text" v-model:value="editing.explanation" /></FormItem>
        <FormItem label="Synonyms, with commas between" html-for="c-words"
          ><Input.TextArea id="c-words" v-model:value="editing.synonyms" :auto-size="{ minRows: 2 }"
        /></FormItem>
      </Form>
    </Modal>
  </div>
</template>

<style scoped>
.in-use {
  margin: 0;
  padding: 0 16px 6px;
}
.lost {
  padding: 0 16px 8px;
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 12px;
  color: var(--amber);
  font-size: 13px;
}

.categories {
  display: grid;
  grid-template-columns: minmax(0, 1fr) 320px;
  height: 100%;
}
.find {
  width: 340px;
}
.row {
  grid-template-columns: 150px 170px 110px minmax(0, 1fr) 60px;
}
.row:hover,
.current {
  background: var(--raft2);
}
.side {
  padding: 16px 14px;
  overflow-y: auto;
  border-left: 1px solid var(--line);
  background: var(--deep);
}
h1 {
  font-size: 16px;
  color: var(--bone);
}
h2 {
  margin-top: 16px;
}
p {
  margin: 4px 0;
}
dl {
  display: grid;
  grid-template-columns: 90px 1fr;
  gap: 3px 8px;
  margin: 4px 0;
  font-size: 13px;
}
dt {
  color: var(--mute);
}
dd {
  margin: 0;
}
.buttons {
  display: grid;
  gap: 8px;
  margin-top: 16px;
}
</style>
