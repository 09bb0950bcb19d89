<script setup lang="ts">
import { mayWrite, whyNotWritten, type Publishing } from '@platform/index';
import { Button, Popconfirm } from 'ant-design-vue';
import { onMounted } from 'vue';
import { ago, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { usePublishing } from '../stores/publishing';

/** Libraries that were published into folders; each can be taken back, on a later day too. */
const out = usePublishing();
const library = useLibrary();
onMounted(() => void out.lookBack());

const rootOf = ({ place }: Publishing) => (place.kind === 'root' ? library.roots.find((r) => r.id === place.rootId) : undefined);
function whereOf(publishing: Publishing): string {
  const { place, title } = publishing;
  if (place.kind === 'folder') return `${place.handle.name}/${title}`;
  return `${rootOf(publishing)?.name ?? 'A folder that was taken out'}/${place.folder}/${title}`;
}
/** What taking it back does, before it is done. */
function meant({ files, kept, replaced }: Publishing): string {
  const parts = [
    `${things(files - kept - replaced, 'file')} that it wrote will be removed, unless somebody changed them since.`,
    kept > 0 && `${things(kept, 'file')} that it replaced will be put back.`,
    replaced > 0 && `${things(replaced, 'file')} took the place of earlier ones, which are not kept, and will stay.`,
  ];
  return parts.filter(Boolean).join(' ');
}

/** Asked for in the click, as browsers wish. @throws Error where it may not be written */
async function allowed(publishing: Publishing): Promise<void> {
  const { place } = publishing;
  const root = rootOf(publishing);
  if (place.kind === 'root' && !root) throw new Error('that folder is not in the library any more');
  const why = root ? await whyNotWritten(root, 'asking') : undefined;
  if (why !== undefined) throw new Error(why);
  if (place.kind === 'folder' && !(await mayWrite(place.handle, true))) throw new Error('the browser was not allowed to write there');
}
async function takeBack(publishing: Publishing): Promise<void> {
  try {
    await allowed(publishing);
    const { removed, restored, replaced, failed, stopped } = await out.takeBack(publishing.id);
    const parts = [
      `${things(removed, 'file')} removed`,
      restored > 0 && `${things(restored, 'file')} put back`,
      replaced > 0 && `${things(replaced, 'file')} in the place of earlier ones stayed`,
      failed.length > 0 && `${things(failed.length, 'file')} stayed: ${failed[0].path}: ${failed[0].reason}`,
      stopped !== undefined && `it ended early: ${stopped}`,
    ];
    tell.info(parts.filter(Boolean).join('; '));
  } catch (error) {
    tell.error(`${publishing.title} was not taken back: ${(error as Error).message}`);
  }
}
</script>

<template>
  <section v-if="out.earlier.length > 0" class="earlier" aria-label="Published before">
    <h2>Published before</h2>
    <ul role="list">
      <li v-for="p in out.earlier" :key="p.id" :aria-label="p.title">
        <bdi class="cut title">{{ p.title }}</bdi>
        <bdi class="cut mute" :title="whereOf(p)">{{ whereOf(p) }}</bdi>
        <span class="mono small">{{ things(p.files, 'file') }}</span>
        <span class="mute small">{{ ago(p.at) }}</span>
        <Popconfirm :title="meant(p)" ok-text="Take it back" cancel-text="Leave it" placement="topRight" @confirm="takeBack(p)">
          <Button size="small">Take it back …</Button>
        </Popconfirm>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.earlier {
  flex: none;
  max-height: 40%;
  padding: 12px 16px;
  overflow-y: auto;
  border-top: 1px solid var(--line);
}
ul {
  display: grid;
  grid-template-columns: minmax(120px, auto) minmax(160px, 1fr) auto auto auto;
  column-gap: 16px;
  margin: 8px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: subgrid;
  grid-column: 1 / -1;
  align-items: center;
  min-height: 34px;
  border-bottom: 1px solid var(--line);
}
.title {
  color: var(--bone);
}
</style>
