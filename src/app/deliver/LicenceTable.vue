<script setup lang="ts">
import { isInConflict, type CreditLine } from '@core/scene';
import { Button, Input, Select, Table } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useRouter } from 'vue-router';
import { jobNames } from '../shared/controls/jobs';
import { things } from '../shared/controls/format';
import PopPanel from '../shared/controls/PopPanel.vue';
import { tell } from '../shell/notice';
import { useHands } from '../stores/hands';
import { useScene } from '../stores/scene';
import { useSceneFiles } from './scene-files';

/** The licence of each sound in the scene, what speaks against it for the job, and what to do then. */
const scene = useScene();
const files = useSceneFiles();
const hands = useHands();
const router = useRouter();
const conflicts = computed(() => files.creditLines.filter(isInConflict).length);
const needed = computed(() => files.creditLines.filter((l) => l.credit).length);

const note = ref('');
const asking = ref<number>();
function ask(soundId?: number): void {
  asking.value = soundId;
  note.value = '';
}
async function keep({ soundId, sound }: CreditLine, why: string): Promise<void> {
  const { current } = scene;
  if (!current) return;
  const others = (current.allowed ?? []).filter((a) => a.soundId !== soundId);
  const allowed = why ? [...others, { soundId, note: why }] : others;
  const label = why ? `Allow ${sound}` : `Allow ${sound} no more`;
  ask();
  await scene.patch(label, 'scenes', current, { allowed: allowed.length > 0 ? allowed : undefined });
}
/** Selects all cues of a sound in Spot, where they get another one in its place. */
async function exchange({ soundId, sound, within = [] }: CreditLine): Promise<void> {
  const cues = scene.cues.filter((c) => c.soundId === soundId || within.includes(c.soundId));
  await router.push({ name: 'spot' });
  scene.select(cues[0]?.id);
  hands.selected = new Set(cues.map((c) => c.id));
  tell.info(`${things(cues.length, 'cue')} of ${sound} selected: choose another sound for ${cues.length === 1 ? 'it' : 'them'} beside the picture`);
}

const columns = [
  { title: 'Sound', dataIndex: 'sound', key: 'sound', ellipsis: true },
  { title: 'Author', dataIndex: 'author', key: 'author', ellipsis: true, width: 170 },
  { title: 'Licence', dataIndex: 'licence', key: 'licence', width: 110 },
  { title: 'Cues', dataIndex: 'uses', key: 'uses', width: 56, align: 'right' as const },
  { title: 'Why it may not be used', dataIndex: 'conflict', key: 'conflict', width: 400 },
];
</script>

<template>
  <section aria-label="Licences">
    <h2>
      Licences
      <span class="mute"
        >{{ things(needed, 'credit') }} to print, <span :class="{ bad: conflicts > 0 }">{{ things(conflicts, 'conflict') }}</span></span
      >
      <Select v-model:value="files.job" size="small" :options="jobNames" aria-label="What the mix is made for" class="job" />
    </h2>
    <Table :columns="columns" :data-source="files.creditLines" :pagination="false" size="small" :row-key="(l: CreditLine) => l.soundId">
      <template #bodyCell="{ column, record }">
        <template v-for="l in [record as CreditLine]" :key="l.soundId">
          <div v-if="column.key === 'conflict' && l.conflict" class="why">
            <span v-if="l.allowed" class="mute cut" :title="`${l.conflict}; allowed: ${l.allowed}`"
              >Allowed: <bdi>{{ l.allowed }}</bdi></span
            >
            <span v-else class="bad cut" :title="l.conflict">{{ l.conflict }}</span>
            <span class="push" />
            <a v-if="l.page && !l.allowed" :href="l.page" target="_blank" rel="noopener noreferrer" :title="l.page">Its page</a>
            <Button v-if="l.allowed" size="small" :aria-label="`Allow ${l.sound} no more`" @click="keep(l, '')">Take back</Button>
            <template v-else>
              <PopPanel placement="bottomRight" :open="asking === l.soundId" @update:open="(open) => ask(open ? l.soundId : undefined)">
                <template #panel>
                  <form class="ask" @submit.prevent="note.trim() && keep(l, note.trim())">
                    <label for="allowed">Why it may be used all the same; the sheet of credits says so, too</label>
                    <Input
                      id="allowed"
                      v-model:value="note"
                      :maxlength="1000"
                      placeholder="Asked its author, 3 May"
                      aria-label="Why it may be used"
                      autofocus
                    />
                    <Button type="primary" html-type="submit" size="small" :disabled="note.trim() === ''">Allow it</Button>
                  </form>
                </template>
                <Button size="small" :aria-label="`Allow ${l.sound}`">Allow …</Button>
              </PopPanel>
              <Button size="small" :aria-label="`Another sound for ${l.sound}`" @click="exchange(l)">Another sound</Button>
            </template>
          </div>
        </template>
      </template>
    </Table>
  </section>
</template>

<style scoped>
section {
  margin-top: 28px;
}
h2 {
  margin-bottom: 8px;
}
.job {
  width: 220px;
  margin-left: 12px;
}
.why {
  display: flex;
  gap: 8px;
  align-items: center;
  white-space: nowrap;
}
.push {
  margin-left: auto;
}
.ask {
  display: grid;
  gap: 8px;
  width: 320px;
}
</style>
