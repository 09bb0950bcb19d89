<script setup lang="ts">
import { audioFiles } from '@core/files';
import { lengthOf } from '@core/library';
import { CaretRightFilled, CloseOutlined, PauseOutlined } from '@ant-design/icons-vue';
import { Button, Tooltip } from 'ant-design-vue';
import { useFileDialog } from '@vueuse/core';
import { useRouter } from 'vue-router';
import { useAlike } from '../find/useAlike';
import { useCommands } from '../shared/controls/commands';
import ContourView from '../shared/list/ContourView.vue';
import { seconds } from '../shared/controls/format';
import { useAudition } from '../stores/audition';
import { useIntake } from '../stores/intake';
import { useLoose, type LooseSound } from '../stores/loose';
import { usePrefs } from '../stores/prefs';

/** Files from the desktop that are heard without being added. */
const loose = useLoose();
const audition = useAudition();
const intake = useIntake();
const prefs = usePrefs();
const router = useRouter();
const alike = useAlike();

/** The File Handling interface (WICG): files that the desktop opens with Cormorant. */
interface LaunchQueue {
  setConsumer(consume: (launch: { files?: readonly FileSystemHandle[] }) => void): void;
}
(window as { launchQueue?: LaunchQueue }).launchQueue?.setConsumer(({ files = [] }) => {
  const handles = files.filter((f): f is FileSystemFileHandle => f.kind === 'file');
  if (handles.length === 0) return;
  void Promise.all(handles.map(async (handle) => ({ handle, file: await handle.getFile() }))).then(loose.open);
});

const { open: ask, onChange } = useFileDialog({ accept: audioFiles.join(), multiple: true, reset: true });
onChange((files) => files && void loose.open([...files].map((file) => ({ file }))));
useCommands('Listening', [{ label: 'Hear a file without adding it', keys: ['Shift+o'], run: () => ask() }]);

async function add(one: LooseSound): Promise<void> {
  loose.close(one);
  void router.push({ name: 'intake' });
  if (one.handle) await intake.addHandles([one.handle]);
  else await intake.addCopies([one.file]);
}
function find(one: LooseSound): void {
  alike.ofFile(one.file);
  void router.push({ name: 'find' });
}
const CONTOUR = { width: 120, height: 36 };
const sounds = (one: LooseSound) => audition.playing && audition.sound?.id === one.id;
/** All of it in the width there is. */
const scale = (one: LooseSound) => CONTOUR.width / Math.max(0.01, lengthOf(one.sound!));
</script>

<template>
  <section v-if="loose.opened.length > 0" class="loose" :class="{ higher: prefs.keyboard }" aria-label="Opened from elsewhere">
    <h2>Opened from elsewhere; not in the library</h2>
    <ul>
      <li v-for="one in loose.opened" :key="one.id">
        <Button v-if="one.sound" size="small" shape="circle" :aria-label="`${sounds(one) ? 'Stop' : 'Play'} ${one.file.name}`" @click="loose.play(one)"
          ><template #icon><PauseOutlined v-if="sounds(one)" /><CaretRightFilled v-else /></template
        ></Button>
        <span v-else />
        <span class="two">
          <bdi class="cut" :title="one.file.name">{{ one.file.name }}</bdi>
          <span v-if="one.reason" class="small bad" role="alert">It cannot be read: {{ one.reason }}</span>
          <span v-else class="small line">
            <button class="link" @click="find(one)">Find alike</button>
            <button class="link" @click="add(one)">Add to the library</button>
          </span>
        </span>
        <ContourView v-if="one.sound" :sound="one.sound" :pixels-per-second="scale(one)" :size="CONTOUR" />
        <span v-else />
        <span class="mono small">{{ one.sound ? seconds(lengthOf(one.sound)) : '' }}</span>
        <Tooltip title="Let go of it; the file stays as it is">
          <Button size="small" type="text" :aria-label="`Close ${one.file.name}`" @click="loose.close(one)"
            ><template #icon><CloseOutlined /></template
          ></Button>
        </Tooltip>
      </li>
    </ul>
  </section>
</template>

<style scoped>
.loose {
  position: fixed;
  right: 16px;
  bottom: 60px;
  z-index: 500;
  width: 480px;
  max-height: 50vh;
  padding: 10px 12px;
  border: 1px solid var(--line);
  border-radius: 8px;
  background: var(--raft2);
  box-shadow: 0 8px 28px rgb(0 0 0 / 35%);
  overflow-y: auto;
}
/* The keys stay free. */
.higher {
  bottom: 152px;
}
ul {
  margin: 6px 0 0;
  padding: 0;
  list-style: none;
}
li {
  display: grid;
  grid-template-columns: 24px minmax(0, 1fr) 120px 44px 24px;
  align-items: center;
  gap: 8px;
  min-height: 44px;
}
.line {
  display: flex;
  gap: 12px;
}
.link {
  padding: 0;
  border: 0;
  background: none;
  color: var(--sky);
  cursor: pointer;
}
.link:hover {
  text-decoration: underline;
}
</style>
