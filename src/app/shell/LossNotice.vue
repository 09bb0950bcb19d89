<script setup lang="ts">
import { Alert, Button } from 'ant-design-vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { ago, things } from '../shared/controls/format';
import { useBackups } from '../stores/backups';
import { useLibrary } from '../stores/library';

/** Says that the library is not the one that was here before, and offers the newest backup. */
const library = useLibrary();
const backups = useBackups();
const router = useRouter();
const message = computed(() => {
  const { how, was, edits } = library.loss!;
  const before = `${things(was.sounds, 'sound')}, last seen ${ago(was.at)}`;
  if (how === 'gone') return `The library that was here is gone (${before}): the browser threw its database away, and an empty one was begun.`;
  if (how === 'another') return `This is another library than the one that was here (${before}).`;
  return `The library went back to an earlier state: ${things(edits ?? 0, 'edit')} that ${edits === 1 ? 'was' : 'were'} made ${edits === 1 ? 'is' : 'are'} missing (${before}).`;
});
const lying = computed(
  () => `Your labels are backed up ${backups.hasServer ? 'on this computer' : 'inside of this browser'} only. Choose a folder for copies that outlive it.`,
);
async function restore(): Promise<void> {
  await backups.open(backups.kept[0]);
  await router.push({ name: 'label', params: { part: 'safety' } });
}
</script>

<template>
  <Alert v-if="library.loss" type="error" banner :message="message">
    <template #action>
      <span class="acts">
        <Button v-if="backups.kept.length > 0" size="small" type="primary" @click="restore">Restore the backup written {{ ago(backups.kept[0].at) }}</Button>
        <span v-else class="small">No backup of it was written by itself; restore one from a file under Label, History and backup.</span>
        <Button size="small" @click="library.acceptLoss()">Go on with what is here</Button>
      </span>
    </template>
  </Alert>
  <Alert v-else-if="backups.folderWanted" type="info" banner :message="lying" closable @close="backups.declined = true">
    <template #action><Button size="small" @click="backups.choose()">Choose a folder</Button></template>
  </Alert>
</template>

<style scoped>
.acts {
  display: flex;
  align-items: center;
  gap: 8px;
}
.small {
  font-size: 12px;
}
</style>
