<script setup lang="ts">
import { removalOf } from '@core/library';
import { fold, searchWords } from '@core/naming';
import { valueText, type FacetCount } from '@core/search';
import { categoryName, catIdsMeant, categoryOf } from '@core/suggest';
import { Button, Input, Modal, RadioGroup, Select, Tag as Chip, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { count, things } from '../shared/controls/format';
import VirtualRows from '../shared/list/VirtualRows.vue';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';

/** The words of this library: how much each finds, what it means, what it stands beside, and what else is to be found with it. */
const open = defineModel<boolean>('open', { required: true });

const find = useFind();
const library = useLibrary();
const all = shallowRef<FacetCount[]>([]);
const part = ref('');
const order = ref<'count' | 'word'>('count');
const current = ref<string>();
const neighbours = shallowRef<FacetCount[]>([]);
const found = ref<number>();

watch(
  [open, () => library.revision],
  async ([shown]) => {
    if (shown) all.value = (await catalogue.words('', 1_000_000)).filter((w) => /\p{L}{2}|[^\p{N}a-z]/u.test(w.value));
  },
  { immediate: true },
);
const listed = computed(() => {
  const asked = fold(part.value.trim());
  const some = asked ? all.value.filter((w) => w.value.includes(asked)) : all.value;
  return order.value === 'count' ? some : [...some].sort((a, b) => (a.value < b.value ? -1 : 1));
});
const index = computed(() => listed.value.findIndex((w) => w.value === current.value));

watch([current, () => library.revision], async ([word]) => {
  neighbours.value = [];
  found.value = undefined;
  if (word === undefined) return;
  const [near, ids] = [await catalogue.neighbours(word, 14), await catalogue.ids({ text: `${word} ` })];
  if (current.value !== word) return;
  neighbours.value = near;
  found.value = ids.length;
});

/** Categories that the word stands for. */
const meanings = computed(() =>
  current.value === undefined
    ? []
    : catIdsMeant(current.value, false)
        .flatMap((id) => categoryOf(id) ?? [])
        .slice(0, 6),
);
const own = computed(() => library.alikes.filter((a) => current.value !== undefined && a.words.includes(current.value)));
const others = computed(() => [...new Set(own.value.flatMap((a) => a.words).filter((w) => w !== current.value))]);

/** Says which words are to be found with this one; the others are found with each other then, too. */
async function setOthers(words: unknown): Promise<void> {
  const word = current.value;
  if (word === undefined) return;
  const wanted = [...new Set((words as string[]).flatMap((w) => searchWords(w)))].filter((w) => w !== word);
  const [first, ...rest] = own.value;
  const label = `Words that mean ${word}`;
  const gone = rest.map((a) => removalOf('alikes' as const, a));
  if (wanted.length === 0)
    return void (await library.edit(
      label,
      own.value.map((a) => removalOf('alikes', a)),
    ));
  const next = [word, ...wanted];
  if (first) return void (await library.edit(label, [{ table: 'alikes', id: first.id, before: { words: first.words }, after: { words: next } }, ...gone]));
  const [id] = await catalogue.newIds('alikes', 1);
  await library.edit(label, [{ table: 'alikes', id, after: { id, words: next } }]);
}

function look(word: string, add: boolean): void {
  const { text } = find.view;
  find.go({ text: `${add && text.trim() ? `${text.trim()} ` : ''}${valueText(word)} ` });
  open.value = false;
}
function walk(event: KeyboardEvent): void {
  const by = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12 }[event.key];
  if (event.key === 'Enter' && current.value !== undefined) look(current.value, false);
  else if (by !== undefined && listed.value.length > 0) current.value = listed.value[Math.max(0, Math.min(listed.value.length - 1, index.value + by))].value;
  else return;
  event.preventDefault();
}
const orders = [
  { value: 'count', label: 'Most first' },
  { value: 'word', label: 'A to Z' },
];
</script>

<template>
  <Modal v-model:open="open" title="Words of this library" width="860px" :footer="null">
    <div class="head">
      <Input v-model:value="part" allow-clear autofocus placeholder="Part of a word" aria-label="Part of a word" @keydown="walk" />
      <RadioGroup v-model:value="order" option-type="button" :options="orders" aria-label="Order" />
      <span class="mono mute" role="status">{{ things(listed.length, 'word') }}</span>
    </div>
    <div class="columns">
      <VirtualRows :count="listed.length" :row-height="26" label="Words" :current="index" @keydown="walk">
        <template #default="{ index: i }">
          <div role="row" :aria-rowindex="i + 1" :aria-selected="i === index">
            <span role="gridcell">
              <button
                class="line-button"
                tabindex="-1"
                :class="{ here: i === index }"
                @click="current = listed[i].value"
                @dblclick="look(listed[i].value, false)"
              >
                <bdi>{{ listed[i].value }}</bdi> <span class="count">{{ count(listed[i].count) }}</span>
              </button>
            </span>
          </div>
        </template>
      </VirtualRows>
      <section v-if="current !== undefined" class="word" :aria-label="`The word ${current}`">
        <h2 class="big">
          <bdi>{{ current }}</bdi>
        </h2>
        <p class="mute">{{ found === undefined ? 'Looking' : `finds ${count(found)} sounds` }}, with its other forms and what means it</p>
        <div class="row">
          <Button type="primary" size="small" @click="look(current, false)">Find it</Button>
          <Button size="small" :disabled="!find.view.text.trim()" @click="look(current, true)">Add it to the query</Button>
        </div>
        <h2>Meaning</h2>
        <p v-if="meanings.length === 0" class="mute">The category list does not know this word.</p>
        <p v-for="m in meanings" :key="m.catId">
          <button class="link" @click="(find.go({ facets: { ...find.view.facets, catId: [m.catId] } }), (open = false))">
            {{ categoryName(m.catId) }}
          </button>
          <span class="mute meaning">{{ m.explanation }}</span>
        </p>
        <h2>Stands beside</h2>
        <p v-if="neighbours.length === 0" class="mute">No word in particular</p>
        <p v-else class="chips">
          <Tooltip v-for="n in neighbours" :key="n.value" :title="`In ${count(n.count)} of the sounds looked at`"
            ><Chip class="chip" role="button" tabindex="0" @click="current = n.value" @keydown.enter="current = n.value">{{ n.value }}</Chip></Tooltip
          >
        </p>
        <h2>Means the same here</h2>
        <Select
          mode="tags"
          size="small"
          class="others"
          :value="others"
          :options="neighbours.map((n) => ({ value: n.value }))"
          :token-separators="[' ', ',']"
          placeholder="Words that are to be found with it"
          aria-label="Words that mean the same here"
          @update:value="setOthers"
        />
      </section>
      <p v-else class="mute">Choose a word to see what it means and what it stands beside.</p>
    </div>
  </Modal>
</template>

<style scoped>
.head,
.row {
  display: flex;
  align-items: center;
  gap: 10px;
}
.head > :not(:first-child) {
  flex: none;
}
.meaning {
  margin-left: 8px;
}
.columns {
  display: grid;
  grid-template-columns: 300px minmax(0, 1fr);
  gap: 24px;
  height: 440px;
  margin-top: 12px;
}
.word {
  overflow-y: auto;
}
.word h2 {
  margin: 14px 0 4px;
}
.word .big {
  margin: 0;
  font-size: 20px;
  color: var(--bone);
}
p {
  margin: 0 0 6px;
}
.here {
  background: var(--raft2);
}
.link {
  padding: 0;
  border: 0;
  background: none;
  color: var(--sky);
  cursor: pointer;
}
.chips {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
}
.chip {
  margin: 0;
  cursor: pointer;
}
.others {
  width: 100%;
}
</style>
