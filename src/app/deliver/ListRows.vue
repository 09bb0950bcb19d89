<script setup lang="ts">
import { writeEdls, writeOtio, type Cue } from '@core/scene';
import { Button } from 'ant-design-vue';
import { useCommands } from '../shared/controls/commands';
import { save } from '../shared/take/save';
import { useScene } from '../stores/scene';

/** The cues of a scene as lists that other programs read: an edit list, a timeline. */
const props = defineProps<{ fileOf: (cue: Cue) => string }>();
const scene = useScene();
const named = (ending: string) => `${scene.current?.name ?? 'scene'}${ending}`;

function edl(): void {
  if (!scene.current) return;
  for (const { tracks, text } of writeEdls(scene.current, scene.tracks, scene.cues, props.fileOf)) {
    const part = scene.tracks.length > 4 ? ` tracks ${tracks[0]}-${tracks[1]}` : '';
    save(text, 'text/plain', named(`${part}.edl`));
  }
}
function otio(): void {
  if (scene.current) save(writeOtio(scene.current, scene.tracks, scene.cues, props.fileOf, scene.markers), 'application/json', named('.otio'));
}
useCommands('Using a sound', [
  { label: 'Save the edit list', keys: ['e'], run: edl },
  { label: 'Save the timeline', keys: ['t'], run: otio },
]);
</script>

<template>
  <li>
    <div>
      <strong>Edit list</strong>
      <span class="mute">CMX 3600, an event for each cue, {{ scene.tracks.length > 4 ? 'a list for each four tracks' : 'a channel for each track' }}</span>
    </div>
    <Button @click="edl">Save the edit list</Button>
  </li>
  <li>
    <div><strong>Timeline</strong><span class="mute">OpenTimelineIO with tracks, clips, anchors and markers, to the sample</span></div>
    <Button @click="otio">Save the timeline</Button>
  </li>
</template>
