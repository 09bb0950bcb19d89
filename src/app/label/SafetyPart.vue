<script setup lang="ts">
import { changeOf, fieldOf, isField, nameOf, textOf, valueAt, type FieldValue, type Sound } from '@core/library';
import type { HistoryEntry, JournalEntry } from '@platform/index';
import { Button } from 'ant-design-vue';
import { computed, shallowRef, watch } from 'vue';
import { things } from '../shared/controls/format';
import { useFind } from '../stores/find';
import { useLibrary } from '../stores/library';
import { catalogue } from '../stores/workers';
import BackupColumn from './BackupColumn.vue';

const library = useLibrary();
const find = useFind();

const journal = shallowRef<JournalEntry[]>([]);
const history = shallowRef<HistoryEntry[]>([]);
const sound = shallowRef<Sound>();
watch(
  () => [library.changes, find.view.soundId] as const,
  async ([, id]) => {
    journal.value = await catalogue.journal(100);
    [sound.value] = id === undefined ? [] : await catalogue.sounds([id]);
    history.value = id === undefined ? [] : await catalogue.history(id);
  },
  { immediate: true },
);
const when = (at: number) => new Date(at).toLocaleString(undefined, { dateStyle: 'medium', timeStyle: 'short' });
const by = (entry: JournalEntry) => (entry.by === undefined || entry.by === 'typed' ? 'typed' : entry.by);
const tagNames = computed(() => new Map(library.tags.map((t) => [t.id, t.name])));

/** The fields that an entry changed of the sound, with what was and what came. */
function parts({ changes }: HistoryEntry): { path: string; label: string; before: string; after: string; was: unknown }[] {
  return changes.flatMap((c) => {
    if (!c.before || !c.after) return [];
    return Object.keys(c.after)
      .filter((path) => !path.startsWith('from.'))
      .map((path) => {
        const key = path.replace(/^fields\./, '');
        const text = (value: unknown) =>
          path.startsWith('fields.') && isField(key)
            ? textOf(fieldOf(key), value as FieldValue | undefined, tagNames.value)
            : value === undefined
              ? ''
              : JSON.stringify(value);
        const label = path.startsWith('fields.') && isField(key) ? fieldOf(key).label : key;
        return { path, label, before: text(c.before![path]), after: text(c.after![path]), was: c.before![path] };
      });
  });
}
const isNow = (path: string, was: unknown) => sound.value !== undefined && JSON.stringify(valueAt(sound.value, path)) === JSON.stringify(was);
async function putBack(path: string, was: unknown, label: string): Promise<void> {
  if (!sound.value) return;
  const after: Record<string, unknown> = { [path]: was };
  if (path.startsWith('fields.')) after[path.replace('fields.', 'from.')] = was === undefined ? undefined : 'typed';
  await library.edit(`Put ${label.toLowerCase()} of ${nameOf(sound.value)} back`, [changeOf('sounds', sound.value, after)]);
}
</script>

<template>
  <div class="safety">
    <section class="column" aria-label="Edits">
      <div class="tools">
        <h1>Edits</h1>
        <span class="push" />
        <Button size="small" :disabled="!library.undoState.undo" @click="library.undo()">Undo</Button>
        <Button size="small" :disabled="!library.undoState.redo" @click="library.redo()">Redo</Button>
      </div>
      <p v-if="journal.length === 0" class="mute">Nothing has been changed yet. Everything that you change is listed here, and can be taken back.</p>
      <ol class="journal">
        <li v-for="e in journal" :key="e.seq" :class="{ undone: e.state === 'undone' }">
          <span class="cut"
            ><bdi>{{ e.label }}</bdi></span
          >
          <span class="mute small">{{ when(e.at) }}, {{ by(e) }}, {{ things(e.count, 'change') }}{{ e.state === 'undone' ? ', taken back' : '' }}</span>
        </li>
      </ol>
    </section>
    <section class="column" aria-label="History of the sound">
      <h1>{{ sound ? `History of ${nameOf(sound)}` : 'History of a sound' }}</h1>
      <p v-if="!sound" class="mute">Choose a sound in the table: what became of each of its values is listed here.</p>
      <p v-else-if="history.length === 0" class="mute">Nobody has changed this sound since it was taken in.</p>
      <ol class="journal">
        <li v-for="h in history" :key="h.entry.seq" :class="{ undone: h.entry.state === 'undone' }">
          <span class="mute small">{{ when(h.entry.at) }}, {{ by(h.entry) }}{{ h.entry.state === 'undone' ? ', taken back' : '' }}</span>
          <div v-for="p in parts(h)" :key="p.path" class="part">
            <span class="mute small">{{ p.label }}</span>
            <span class="values"
              ><s class="mute"
                ><bdi>{{ p.before || 'nothing' }}</bdi></s
              >
              <bdi>{{ p.after || 'nothing' }}</bdi></span
            >
            <Button
              v-if="!isNow(p.path, p.was)"
              size="small"
              :aria-label="`Put ${p.label} back to ${p.before || 'nothing'}`"
              @click="putBack(p.path, p.was, p.label)"
              >Put back</Button
            >
          </div>
        </li>
      </ol>
    </section>
    <BackupColumn class="column" />
  </div>
</template>

<style scoped>
.safety {
  display: grid;
  grid-template-columns: 1fr 1.1fr 1fr;
  height: 100%;
}
.column {
  min-height: 0;
  padding: 16px;
  overflow-y: auto;
}
.column + .column {
  border-left: 1px solid var(--line);
}
h1 {
  margin-bottom: 6px;
  font-size: 15px;
  color: var(--text);
}
.tools {
  margin: 8px 0;
}
.journal {
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
.journal li {
  display: grid;
  padding: 6px 0;
  border-bottom: 1px solid var(--line);
}
.undone {
  color: var(--mute);
  text-decoration: line-through;
  text-decoration-color: var(--line);
}
.part {
  display: grid;
  grid-template-columns: 90px minmax(0, 1fr) auto;
  align-items: center;
  gap: 8px;
  margin-top: 2px;
}
.values {
  overflow-wrap: anywhere;
}
</style>
