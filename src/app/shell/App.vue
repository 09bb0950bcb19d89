<script setup lang="ts">
import { QuestionOutlined } from '@ant-design/icons-vue';
import { isNoRoom } from '@platform/index';
import { Button, ConfigProvider, Spin, Tooltip } from 'ant-design-vue';
import { useEventListener } from '@vueuse/core';
import { computed, defineAsyncComponent, onMounted, ref } from 'vue';
import { RouterView, useRouter } from 'vue-router';
import { stages } from '../stages';
import { onKey, useCommands, withKey } from '../shared/controls/commands';
import { repairAria } from '../shared/controls/repairAria';
import { useOutput } from '../stores/output';
import { useBackups } from '../stores/backups';
import { placeOf, useFind } from '../stores/find';
import { useInstrument } from '../stores/instrument';
import { useIntake } from '../stores/intake';
import { useFirstSteps } from './useFirstSteps';
import { useLibrary } from '../stores/library';
import { usePrefs } from '../stores/prefs';
import { openProject } from '../stores/project';
import { useScene } from '../stores/scene';
import { useTeam } from '../stores/team';
import { antdTheme } from '../theme/antd';
import CommandFinder from './CommandFinder.vue';
import LooseSounds from '../loose/LooseSounds.vue';
import SmallWindowHost from '../small/SmallWindowHost.vue';
import DropLayer from './DropLayer.vue';
import KeysOverlay from './KeysOverlay.vue';
import LossNotice from './LossNotice.vue';
import { lastNotice } from './notice';
import RouteLine from './RouteLine.vue';

const HostButton = defineAsyncComponent(() => import('./HostButton.vue'));

const library = useLibrary();
const router = useRouter();
const prefs = usePrefs();
const intake = useIntake();
const instrument = useInstrument();
const scene = useScene();
const team = useTeam();
const find = useFind();
const backups = useBackups();
const keysShown = ref(false);
const finderShown = ref(false);
const failure = ref('');
const output = useOutput();
const reload = () => location.reload();
/** A disk may have room again in a moment: it is looked at by itself. Seconds. */
const AGAIN = 10;
const waits = ref(false);
const theme = computed(() => antdTheme(prefs.theme));

onMounted(async () => {
  repairAria(document.body);
  try {
    const sounds = await library.open();
    // Whoever has no sounds yet begins where they come in.
    if (sounds === 0 && router.currentRoute.value.redirectedFrom?.path === '/') void router.replace({ name: 'intake' });
    await scene.open();
    await find.search();
  } catch (error) {
    failure.value = (error as Error).message;
    waits.value = isNoRoom(error as Error);
    if (waits.value) setTimeout(reload, AGAIN * 1000);
    return;
  }
  // The backups are known before anything else is done: one may be asked for at once.
  await backups.begin();
  await intake.begin();
  await openProject();
  instrument.begin();
  await team.begin();
});

// The one window into the engine from outside: what it renders next can be recorded and compared with the file, and how loud it is.
Object.assign(window, { cormorant: { rendered: (frames: number) => output.rendered(frames), levels: () => output.levels } });

useEventListener(window, 'keydown', onKey);
// A button that was clicked gives the keys back to the screen: Space and Enter mean what they always mean there.
useEventListener(window, 'click', (event) => {
  const button = event.detail > 0 && event.target instanceof Element ? event.target.closest<HTMLElement>('button, nav a') : null;
  if (button && !button.closest('[role="dialog"]')) button.blur();
});
useFirstSteps();
useCommands('Anywhere', [
  { label: 'Undo', keys: ['Ctrl+z'], run: () => void library.undo(), inText: false },
  { label: 'Redo', keys: ['Ctrl+Shift+z', 'Ctrl+y'], run: () => void library.redo() },
  { label: 'Show all keys', keys: ['?'], run: () => (keysShown.value = true) },
  { label: 'Find a command', keys: ['Ctrl+k'], run: () => (finderShown.value = true), inText: true },
  ...stages.map((s) => ({ label: `Go to ${s.label}`, keys: [], run: () => void router.push(placeOf(s.name, find.view)) })),
  { label: 'Diagnostics', keys: [], run: () => void router.push({ name: 'diagnostics' }) },
  {
    label: 'Change between dark and light',
    keys: ['Ctrl+Shift+l'],
    run: () => (prefs.theme = prefs.theme === 'dark' ? 'light' : 'dark'),
  },
]);
</script>

<template>
  <ConfigProvider :theme="theme" :auto-insert-space-in-button="false">
    <DropLayer />
    <LooseSounds v-if="library.ready" />
    <div class="shell">
      <header class="top">
        <a class="brand" href="/find"><img src="/mark.svg" alt="" width="20" height="20" />Cormorant</a>
        <RouteLine />
        <span class="actions">
          <span class="project cut">{{ scene.current?.name ?? '' }}</span>
          <HostButton />
          <SmallWindowHost />
          <Tooltip :title="withKey('All keys of this screen', 'Show all keys')">
            <Button size="small" aria-label="Show all keys" @click="keysShown = true">
              <template #icon><QuestionOutlined /></template>
            </Button>
          </Tooltip>
        </span>
      </header>
      <main>
        <div v-if="failure" class="empty" role="alert">
          <strong>The catalogue could not be opened</strong>
          <span class="sentence">{{ failure }}</span>
          <span
            >Close other Cormorant tabs, or make room on the disk.<template v-if="waits"> It is tried again every {{ AGAIN }} seconds.</template></span
          >
          <Button @click="reload">Try again</Button>
        </div>
        <div v-else-if="!library.ready" class="empty"><Spin /><span>Opening the catalogue</span></div>
        <template v-else>
          <LossNotice />
          <div class="view"><RouterView /></div>
        </template>
      </main>
      <div class="unseen" role="status" aria-live="polite">{{ lastNotice }}</div>
    </div>
    <KeysOverlay v-model:open="keysShown" />
    <CommandFinder v-model:open="finderShown" />
  </ConfigProvider>
</template>

<style scoped>
.shell {
  display: grid;
  grid-template-rows: 48px minmax(0, 1fr);
  height: 100%;
  /* Zoomed further in, the page scrolls. */
  min-width: 720px;
  min-height: 440px;
}
.top {
  display: grid;
  grid-template-columns: minmax(max-content, 1fr) auto minmax(0, 1fr);
  align-items: center;
  gap: 12px;
  padding: 0 16px;
  border-bottom: 1px solid var(--line);
}
.brand {
  display: flex;
  align-items: center;
  gap: 10px;
  color: var(--text);
  font-size: 16px;
  font-weight: 650;
  text-decoration: none;
}
.actions {
  display: flex;
  align-items: center;
  justify-content: end;
  gap: 12px;
}
/* Zoomed in, the stages come first. */
@media (max-width: 900px) {
  .project {
    display: none;
  }
}
.project {
  color: var(--mute);
  font-size: 12.5px;
  text-align: right;
}
main {
  display: flex;
  flex-direction: column;
  min-height: 0;
  background: var(--bed);
}
.view {
  flex: 1;
  min-height: 0;
}
</style>
