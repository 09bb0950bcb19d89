<script setup lang="ts">
import { checkedFile, validators, type KeyFile } from '@core/schemas';
import { UndoOutlined } from '@ant-design/icons-vue';
import { Button, Input, Modal, Tooltip } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { distinct, giveKey, keyLabel, keyName, keysOf, ownKeys, purposes, resetKeys, type Command } from '../shared/controls/commands';
import FilePick from '../shared/controls/FilePick.vue';
import { save } from '../shared/take/save';
import { tell } from './notice';

/** All commands of the screen with their keys, which can be changed here, saved as a file and taken from one. */
const open = defineModel<boolean>('open', { required: true });

const sought = ref('');
/** The label of the command for which a key is awaited. */
const awaited = ref<string>();
const listed = computed(() => {
  const words = sought.value.toLowerCase().trim().split(/\s+/);
  return distinct().filter((c) => {
    const said = ` ${c.label} ${keysOf(c).map(keyLabel).join(' ')}`.toLowerCase();
    return words.every((w) => said.includes(` ${w}`));
  });
});
/** The commands by what they are for. */
const groups = computed(() =>
  purposes.flatMap((purpose) => {
    const own = listed.value.filter((c) => c.purpose === purpose);
    return own.length > 0 ? [{ purpose, commands: own }] : [];
  }),
);
const changed = (command: Command) => Object.hasOwn(ownKeys.value, command.label);

/** Keys that only hold others, or that lead on to the next control. */
const HELD = /^(Shift|Control|Alt|AltGraph|Meta|CapsLock|Tab|Dead|Process|Unidentified)$/;

function pressed(event: KeyboardEvent, command: Command): void {
  if (awaited.value !== command.label) return;
  if (event.key === 'Tab') awaited.value = undefined;
  if (HELD.test(event.key)) return;
  event.preventDefault();
  event.stopPropagation();
  awaited.value = undefined;
  if (event.key === 'Escape') return;
  if (event.key === 'Delete' || event.key === 'Backspace') return void giveKey(command);
  const key = keyName(event);
  const losing = giveKey(command, key).map((c) => `“${c.label}”`);
  tell.done(`${keyLabel(key)} does “${command.label}” now${losing.length > 0 ? `, and no longer ${losing.join(' or ')}` : ''}`);
}

function saveFile(): void {
  const file: KeyFile = { format: 'cormorant-keys', version: 1, keys: ownKeys.value };
  save(JSON.stringify(file, undefined, 2), 'application/json', 'Cormorant keys.json');
}
async function openFile(file: File): Promise<void> {
  try {
    ownKeys.value = { ...checkedFile<KeyFile>(await file.text(), validators.keyFile, file.name).keys };
    tell.done(`Keys taken from ${file.name}`);
  } catch (error) {
    tell.error((error as Error).message);
  }
}
</script>

<template>
  <Modal v-model:open="open" title="Keys of this screen" width="780px" destroy-on-close @after-close="sought = ''">
    <div class="tools">
      <Input v-model:value="sought" allow-clear size="small" class="sought" placeholder="A command or a key" aria-label="Look for a command or a key" />
      <span class="mute small">Click a key to choose another. Delete takes it away, Esc leaves it.</span>
    </div>
    <section v-for="group in groups" :key="group.purpose" :aria-label="group.purpose">
      <h2 class="purpose">{{ group.purpose }}</h2>
      <ul class="keys">
        <li v-for="command in group.commands" :key="command.label">
          <span class="own">
            <Button
              size="small"
              type="text"
              :class="{ awaited: awaited === command.label }"
              :aria-label="`Key of ${command.label}: ${keysOf(command).map(keyLabel)[0] ?? 'none'}`"
              @click="awaited = command.label"
              @blur="awaited = undefined"
              @keydown="pressed($event, command)"
            >
              <template v-if="awaited === command.label">Press a key</template>
              <template v-else>
                <kbd v-if="keysOf(command).length > 0" class="mono">{{ keyLabel(keysOf(command)[0]) }}</kbd>
                <span v-else class="mute">none</span>
              </template>
            </Button>
          </span>
          <span class="cut" :title="command.label">{{ command.label }}</span>
          <Tooltip v-if="changed(command)" title="Its original key">
            <Button size="small" type="text" :aria-label="`Reset the key of ${command.label}`" @click="resetKeys(command)"
              ><template #icon><UndoOutlined /></template
            ></Button>
          </Tooltip>
        </li>
      </ul>
    </section>
    <p v-if="listed.length === 0" class="mute">No command of this screen is called that.</p>
    <template #footer>
      <div class="tools">
        <FilePick label="Take keys from a file" accept=".json,application/json" @pick="openFile" />
        <Button :disabled="Object.keys(ownKeys).length === 0" @click="saveFile">Save as a file</Button>
        <span class="push" />
        <Button :disabled="Object.keys(ownKeys).length === 0" @click="resetKeys()">Reset all</Button>
        <Button type="primary" @click="open = false">Done</Button>
      </div>
    </template>
  </Modal>
</template>

<style scoped>
.purpose {
  margin: 12px 0 2px;
  color: var(--mute);
  font-size: 12.5px;
  font-weight: 600;
}

.sought {
  width: 220px;
}
.keys {
  display: grid;
  grid-template-columns: repeat(2, minmax(0, 1fr));
  gap: 0 24px;
  max-height: 56vh;
  padding: 0;
  margin: 12px 0 0;
  overflow-y: auto;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 140px minmax(0, 1fr) auto;
  align-items: center;
  gap: 8px;
  min-height: 28px;
}
.keys .awaited {
  background: var(--amber);
  color: var(--deep);
}
kbd {
  margin-right: 4px;
  padding: 1px 6px;
  border: 1px solid var(--line);
  border-radius: 5px;
  font-size: 12px;
}
</style>
