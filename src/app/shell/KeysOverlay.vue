<script setup lang="ts">
import { Modal } from 'ant-design-vue';
import { commands, keyLabel } from '../shared/commands';

const open = defineModel<boolean>('open', { required: true });
</script>

<template>
  <Modal v-model:open="open" title="Keys of this screen" :footer="null" width="640px">
    <dl class="keys">
      <template v-for="(list, i) in commands" :key="i">
        <div v-for="command in list.filter((c) => c.keys.length > 0)" :key="command.label">
          <dt>
            <kbd v-for="key in command.keys.slice(0, 2)" :key="key" class="mono">{{ keyLabel(key) }}</kbd>
          </dt>
          <dd>{{ command.label }}</dd>
        </div>
      </template>
    </dl>
  </Modal>
</template>

<style scoped>
.keys {
  columns: 2;
  column-gap: 32px;
  margin: 0;
}
.keys > div {
  display: flex;
  gap: 12px;
  padding: 4px 0;
  break-inside: avoid;
}
dt {
  flex: 0 0 120px;
}
dd {
  margin: 0;
}
kbd {
  margin-right: 4px;
  padding: 1px 6px;
  border: 1px solid var(--line);
  border-radius: 5px;
  font-size: 12px;
}
</style>
