<script setup lang="ts">
import { SCENES } from '@core/scene';
import { nameOf } from '@core/library';
import { Alert, Modal, Progress } from 'ant-design-vue';
import { computed, useTemplateRef } from 'vue';
import { things } from '../shared/controls/format';
import { useSceneArchives } from '../stores/scene-archives';

/** Opens a scene file: what it holds is seen first, and what of its sounds is here, comes with it, or is nowhere. */
const files = useSceneArchives();
const input = useTemplateRef('input');
/** Names that are shown of what is nowhere. */
const SHOWN = 8;

function picked(event: Event): void {
  const box = event.target as HTMLInputElement;
  const [chosen] = box.files ?? [];
  // The same file can be chosen again.
  box.value = '';
  if (chosen) void files.look(chosen);
}
const scenes = computed(() =>
  (files.held?.file.scenes ?? []).map(({ scene, tracks, cues, versions }) => ({
    name: scene.name,
    holds: [
      things(cues.length, 'cue'),
      `on ${things(tracks.filter((t) => !t.bus).length, 'track')}`,
      ...(versions.length > 0 ? [`with ${things(versions.length, 'version')}`] : []),
    ].join(' '),
  })),
);
const nowhere = computed(() => [...new Set(files.fate?.nowhere.map(({ sound }) => nameOf(sound)))]);
const picture = computed(() => {
  const of = files.fate?.pictures;
  if (!of) return '';
  const parts = [
    ...(of.here > 0 ? [`${of.here} here already`] : []),
    ...(of.comes.length > 0 ? [`${of.comes.length} in the file`] : []),
    ...(of.nowhere.length > 0 ? [`${of.nowhere.length} not here, to be chosen again`] : []),
  ];
  return parts.join(', ');
});
defineExpose({ choose: () => input.value?.click() });
</script>

<template>
  <input ref="input" type="file" hidden :accept="SCENES.ending" aria-label="Scene file" @change="picked" />
  <Modal
    :open="files.file !== undefined"
    :title="`Open ${files.file?.name ?? ''}`"
    ok-text="Open"
    :ok-button-props="{ disabled: !files.fate || files.unpacking !== undefined }"
    :mask-closable="files.unpacking === undefined"
    :width="560"
    @ok="files.take"
    @cancel="files.close"
  >
    <p v-if="!files.fate && !files.failure" class="mute" role="status">Reading it, and looking for its sounds in the library …</p>
    <Alert v-if="files.failure" type="error" :message="files.failure" />
    <template v-if="files.fate">
      <ul class="scenes">
        <li v-for="(s, i) in scenes" :key="i">
          <strong
            ><bdi>{{ s.name }}</bdi></strong
          >
          <span class="mute holds">{{ s.holds }}</span>
        </li>
      </ul>
      <dl class="fates">
        <template v-if="files.fate.here > 0">
          <dt>Here already</dt>
          <dd>{{ things(files.fate.here, 'sound') }}, found by place and audio</dd>
        </template>
        <template v-if="files.fate.comes.length > 0">
          <dt>In the file</dt>
          <dd>{{ things(files.fate.comes.length, 'sound') }}, copied into the browser’s own storage and added with all labels</dd>
        </template>
        <template v-if="nowhere.length > 0">
          <dt class="warn">Missing</dt>
          <dd class="warn">
            {{ things(files.fate.nowhere.length, 'sound') }}: <bdi>{{ nowhere.slice(0, SHOWN).join(', ') }}</bdi>{{
              nowhere.length > SHOWN ? ` and ${nowhere.length - SHOWN} more` : ''
            }}. Their cues come in and stay silent until their folder is added, or they are reconnected under Intake.
          </dd>
        </template>
        <template v-if="picture">
          <dt>Picture</dt>
          <dd>{{ picture }}</dd>
        </template>
      </dl>
      <Progress v-if="files.unpacking !== undefined" :percent="Math.floor(files.unpacking * 100)" size="small" aria-label="Unpacking" />
    </template>
  </Modal>
</template>

<style scoped>
.scenes {
  margin: 0 0 12px;
  padding: 0;
  list-style: none;
}
.holds {
  margin-left: 6px;
}
.fates {
  display: grid;
  grid-template-columns: auto 1fr;
  gap: 4px 14px;
  margin: 0;
}
.fates dt {
  color: var(--mute);
}
.fates dd {
  margin: 0;
}
.fates .warn {
  color: var(--brass);
}
</style>
