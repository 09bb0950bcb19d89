<script setup lang="ts">
import type { Sound } from '@core/library';
import { labelCount, lengthOf, nameOf } from '@core/library';
import { Button, Progress, Tooltip } from 'ant-design-vue';
import { computed, onMounted, ref, useTemplateRef, watch } from 'vue';
import AuditionBar from '../shared/listen/AuditionBar.vue';
import { useCommands, withKey } from '../shared/controls/commands';
import ContourView from '../shared/list/ContourView.vue';
import { useRowWindow } from '../shared/list/useRowWindow';
import { bytes, count, seconds, things } from '../shared/controls/format';
import { useAudition } from '../stores/audition';
import { useCopies, type Copies } from '../stores/copies';
import { useLibrary } from '../stores/library';

type Row = { kind: 'group'; group: Copies } | { kind: 'sound'; group: Copies; sound: Sound };

const copies = useCopies();
const library = useLibrary();
const audition = useAudition();
const scroller = useTemplateRef('scroller');
const currentId = ref<number>();

const rows = computed<Row[]>(() =>
  copies.open.flatMap((group) => [{ kind: 'group', group } as Row, ...group.sounds.map((sound): Row => ({ kind: 'sound', group, sound }))]),
);
const index = computed(() => rows.value.findIndex((r) => r.kind === 'sound' && r.sound.id === currentId.value));
const { rows: items, total, reveal } = useRowWindow(scroller, () => ({ count: rows.value.length, height: 44 }));
watch(items, (shown) => void library.needPeaks(shown.flatMap((i) => soundAt(i.index)?.id ?? [])), { immediate: true });
onMounted(() => void copies.refreshHidden());

function soundAt(i: number): Sound | undefined {
  const row = rows.value[i];
  return row?.kind === 'sound' ? row.sound : undefined;
}

function choose(i: number): void {
  const sound = soundAt(i);
  if (!sound) return;
  currentId.value = sound.id;
  audition.choose(sound, true);
  reveal(i);
  audition.prepare([soundAt(i + 1), soundAt(i + 2), soundAt(i - 1)].filter((s) => s !== undefined));
}

/** To the next or previous sound; headings are stepped over. */
function walk(by: 1 | -1): void {
  let i = index.value + by;
  if (index.value < 0) i = 0;
  while (rows.value[i]?.kind === 'group') i += by;
  choose(i);
}

/** Keeps a sound and hides the rest of its group; the next group comes under the hand. */
async function keep(row: { group: Copies; sound: Sound } | undefined, how: 'aside' | 'retired'): Promise<void> {
  if (!row) return;
  const at = copies.open.findIndex((g) => g.ids === row.group.ids);
  await copies.keep([{ keepId: row.sound.id, sounds: row.group.sounds }], how);
  await copies.refreshHidden();
  const next = copies.open[Math.min(at, copies.open.length - 1)];
  if (next) choose(rows.value.findIndex((r) => r.kind === 'sound' && r.sound.id === next.sounds[0].id));
}

const current = () => {
  const row = rows.value[index.value];
  return row?.kind === 'sound' ? row : undefined;
};
const exact = computed(() => copies.open.filter((g) => g.kind === 'exact'));
const keepBetter = (groups: readonly Copies[]) =>
  copies.keep(
    groups.map((g) => ({ keepId: g.better.id, sounds: g.sounds })),
    'aside',
  );

useCommands('Going through the list', [
  { label: 'Next copy', keys: ['ArrowDown'], run: () => walk(1) },
  { label: 'Previous copy', keys: ['ArrowUp'], run: () => walk(-1) },
  { label: 'Play or stop', keys: ['Space'], run: () => audition.toggle() },
  { label: 'Keep this one, set the others aside', keys: ['Enter'], run: () => void keep(current(), 'aside') },
  { label: 'Keep this one, retire the others', keys: ['Delete'], run: () => void keep(current(), 'retired') },
]);

const coding = (s: Sound) =>
  `${s.format.container} ${s.format.encoding === 'coded' && s.format.container !== 'FLAC' ? '' : `${s.format.bits} bit `}${s.format.rate / 1000} kHz`;
const place = (s: Sound) => `${library.rootById.get(s.rootId)?.name ?? ''}/${s.path}`;
</script>

<template>
  <div class="stage">
    <section class="duplicates" aria-label="Duplicates">
      <div class="title">
        <h1 v-if="copies.found">{{ things(copies.open.length, 'group') }} of duplicates</h1>
        <h1 v-else>Duplicates</h1>
        <Button v-if="copies.hidden.size > 0" size="small" @click="copies.bringBack()">Bring back {{ count(copies.hidden.size) }} hidden</Button>
        <Tooltip v-if="exact.length > 0" title="Keeps the one that is marked in each group of exact copies"
          ><Button size="small" @click="keepBetter(exact)">Settle {{ things(exact.length, 'exact group') }}</Button></Tooltip
        >
        <Button v-if="copies.progress === undefined" size="small" :type="copies.found ? 'default' : 'primary'" @click="copies.look()">{{
          copies.found ? 'Look again' : 'Look for duplicates'
        }}</Button>
      </div>
      <div v-if="copies.progress !== undefined" class="busy">
        <Progress :percent="Math.floor(copies.progress * 100)" size="small" aria-label="Looking for duplicates" />
        <Button size="small" @click="copies.cancel()">Cancel</Button>
      </div>
      <div v-if="copies.open.length === 0" class="empty">
        <template v-if="copies.found">
          <strong>No duplicates</strong>
          <span>No two of the sounds that were measured are the same recording.</span>
        </template>
        <template v-else>
          <strong>The same recording, under any name</strong>
          <span>Exact copies have the same samples. Near ones differ in rate, level, coding or a cut. Nothing on disk is ever deleted.</span>
        </template>
      </div>
      <div v-else ref="scroller" class="scroll" role="grid" aria-label="Duplicates" :aria-rowcount="rows.length" tabindex="0">
        <div role="rowgroup" :style="{ height: `${total}px`, position: 'relative' }">
          <template v-for="item in items" :key="item.index">
            <div
              v-if="rows[item.index].kind === 'group'"
              class="item group"
              role="row"
              :aria-rowindex="item.index + 1"
              :style="{ transform: `translateY(${item.top}px)` }"
            >
              <span role="gridcell" aria-colspan="6">
                <strong>{{ rows[item.index].group.kind === 'exact' ? 'The same samples' : 'The same recording' }}</strong>{{ ' ' }}
                <span class="mute small">{{ things(rows[item.index].group.sounds.length, 'copy', 'copies') }}</span>
              </span>
            </div>
            <div
              v-else
              class="item sound"
              role="row"
              :aria-rowindex="item.index + 1"
              :aria-selected="item.index === index"
              :class="{ current: item.index === index }"
              :style="{ transform: `translateY(${item.top}px)` }"
              @click="choose(item.index)"
            >
              <span role="gridcell" class="verdict">
                <span
                  v-if="soundAt(item.index)!.id === rows[item.index].group.better.id"
                  class="better"
                  :title="rows[item.index].group.better.reasons.join(', ')"
                  >Better</span
                >
              </span>
              <span role="gridcell" class="names">
                <span class="cut name"
                  ><bdi>{{ nameOf(soundAt(item.index)!) }}</bdi></span
                >
                <span class="cut mute small" :title="place(soundAt(item.index)!)"
                  ><bdi>{{ place(soundAt(item.index)!) }}</bdi></span
                >
              </span>
              <span role="gridcell" class="wave">
                <ContourView :sound="soundAt(item.index)" :lit="item.index === index" :plumb="0.3" :pixels-per-second="50" />
              </span>
              <span role="gridcell" class="mono small mute">{{ coding(soundAt(item.index)!) }}</span>
              <span role="gridcell" class="mono small mute end">{{ seconds(lengthOf(soundAt(item.index)!)) }} s, {{ bytes(soundAt(item.index)!.size) }}</span>
              <span role="gridcell" class="small mute end">{{ things(labelCount(soundAt(item.index)!), 'label') }}</span>
              <span role="gridcell" class="acts">
                <Tooltip :title="withKey('Sets the others of this group aside', 'Keep this one, set the others aside')"
                  ><Button
                    size="small"
                    :aria-label="`Keep ${nameOf(soundAt(item.index)!)}`"
                    @click.stop="keep({ group: rows[item.index].group, sound: soundAt(item.index)! }, 'aside')"
                    >Keep</Button
                  ></Tooltip
                >
              </span>
              <span v-if="soundAt(item.index)!.id === rows[item.index].group.better.id" class="unseen">{{
                rows[item.index].group.better.reasons.join(', ')
              }}</span>
            </div>
          </template>
        </div>
      </div>
    </section>
    <AuditionBar>
      <span v-if="current()" class="mute small cut">
        {{
          current()!.sound.id === current()!.group.better.id
            ? `Better: ${current()!.group.better.reasons.join(', ')}`
            : 'Enter keeps this one and sets the others aside; Delete retires them'
        }}
      </span>
    </AuditionBar>
  </div>
</template>

<style scoped>
.duplicates {
  display: flex;
  flex-direction: column;
  min-height: 0;
}
.title {
  display: flex;
  align-items: center;
  gap: 10px;
  padding: 12px 24px;
}
h1 {
  flex: 1;
  margin: 0;
  font-size: 16px;
  color: var(--text);
}
.busy {
  display: flex;
  gap: 16px;
  padding: 0 24px 8px;
}
.scroll {
  flex: 1;
  overflow-y: auto;
  border-top: 1px solid var(--line);
}
.empty {
  flex: 1;
  max-width: 60ch;
  margin: 0 auto;
}
.item {
  position: absolute;
  left: 0;
  right: 0;
  padding: 0 24px;
}
.group {
  height: 44px;
  padding-top: 14px;
  border-bottom: 1px solid var(--line);
}
.group strong {
  margin-right: 10px;
}
.sound {
  display: grid;
  grid-template-columns: 62px minmax(180px, 1fr) minmax(160px, 0.7fr) 130px 130px 70px 70px;
  align-items: center;
  gap: 10px;
  height: 44px;
  border-bottom: 1px solid var(--line);
  cursor: default;
}
.sound:hover {
  background: color-mix(in srgb, var(--raft) 50%, transparent);
}
.current {
  background: var(--raft);
}
.names {
  display: grid;
  min-width: 0;
}
.current .name {
  color: var(--bone);
  font-weight: 650;
}
.wave {
  height: 100%;
}
.better {
  padding: 1px 7px;
  border: 1px solid var(--glass);
  border-radius: 5px;
  font-size: 12px;
  color: var(--glass);
}
.small {
  font-size: 12px;
}
.end {
  text-align: right;
}
</style>
