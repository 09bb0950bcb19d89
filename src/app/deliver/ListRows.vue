<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { useCommands } from '../shared/controls/commands';
import { saveBlob } from '../shared/take/save';
import { useScene } from '../stores/scene';
import { useSceneFiles } from './scene-files';

/** The cues of a scene as lists that other programs read: an edit list, a timeline. */
const scene = useScene();
const files = useSceneFiles();

function edl(): void {
  if (scene.current) for (const { name, blob } of files.edls()) saveBlob(blob, name);
}
function otio(): void {
  if (!scene.current) return;
  const { name, blob } = files.otio();
  saveBlob(blob, name);
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
