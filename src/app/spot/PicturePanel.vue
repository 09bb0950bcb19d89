<script setup lang="ts">
import { videoEndings } from '@core/files';
import { listFiles } from '@platform/index';
import { Button, Checkbox, Select, Slider } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { tell } from '../shell/notice';
import { NO_MOVEMENT, usePictureEvents } from '../stores/events';
import { useLibrary } from '../stores/library';
import { usePicture } from '../stores/picture';
import { useScene } from '../stores/scene';

/** All about the picture of the scene: which one, where it begins, its own sound, and a window of its own. */
defineProps<{ own: boolean }>();
const emit = defineEmits<{ choose: []; own: [] }>();
const scene = useScene();
const picture = usePicture();
const events = usePictureEvents();
const library = useLibrary();

/** Videos in the folders of the library. */
const found = ref<{ value: string; label: string }[]>();
const MOST = 500;
const sizes = new Map<string, { rootId: number; path: string; size: number }>();
async function look(open: boolean): Promise<void> {
  if (!open || found.value) return;
  found.value = [];
  for (const root of library.roots) {
    if (root.removed) continue;
    try {
      for await (const { files } of listFiles({ ...root })) {
        for (const { path, size } of files) {
          if (!videoEndings.test(path) || found.value.length >= MOST) continue;
          const value = `${root.id}/${path}`;
          sizes.set(value, { rootId: root.id, path, size });
          found.value = [...found.value, { value, label: root.kind === 'server' ? `${root.name}/${path}` : path }];
        }
      }
    } catch {
      // A folder that cannot be reached now has nothing to choose.
    }
  }
}
async function take(value: string): Promise<void> {
  const of = sizes.get(value);
  const root = of && library.rootById.get(of.rootId);
  if (!root) return;
  try {
    await picture.set(root, of.path, of.size);
  } catch (error) {
    tell.error((error as Error).message);
  }
}

const strengthInWords = (from?: number) => (from === NO_MOVEMENT ? 'No movement' : `From ${Math.round(100 * (from ?? 0))} %`);
const listed = computed(() => scene.current?.listed?.length ?? 0);
const guide = computed(() => picture.picture?.guide);
const like = computed(() => {
  const { facts } = picture;
  if (!facts) return '';
  const { variable } = facts;
  const rate = variable
    ? `${variable.least.toFixed(1)} to ${variable.most.toFixed(1)} frames a second, counted as ${facts.rate}`
    : `${facts.rate} frames a second`;
  return `${facts.width} × ${facts.height}, ${rate}${facts.start ? `, begins at ${facts.start}` : ''}`;
});
const remove = () => scene.current && void scene.patch('Take the picture out', 'scenes', scene.current, { picture: undefined });
</script>

<template>
  <PopPanel placement="top">
    <template #panel>
      <div class="panel">
        <template v-if="picture.picture">
          <strong class="cut wide" :title="picture.picture.name">{{ picture.picture.name }}</strong>
          <span v-if="like" class="mute wide small">{{ like }}</span>
          <label for="picture-offset">Begins at frame</label>
          <NumberBox
            id="picture-offset"
            :value="picture.offset"
            :min="-1000000"
            :max="1000000"
            aria-label="Frame of the scene at which the picture begins"
            @set="(offset) => picture.change('Begin of the picture', { offset: offset || undefined })"
          />
          <template v-if="guide && picture.facts?.sound">
            <Checkbox
              :checked="!guide.mute"
              @change="picture.change(guide!.mute ? 'Hear the picture’s sound' : 'Mute the picture’s sound', { guide: { ...guide!, mute: !guide!.mute } })"
              >Hear its own sound</Checkbox
            >
            <NumberBox
              :value="guide.gain"
              :min="-60"
              :max="12"
              :step="0.5"
              unit="dB"
              aria-label="Gain of the picture’s own sound, dB"
              @set="(gain) => picture.change('Gain of the picture’s sound', { guide: { ...guide!, gain } })"
            />
          </template>
          <span v-else-if="picture.facts" class="mute wide small">It has no sound of its own.</span>
          <template v-if="picture.facts">
            <span v-if="events.progress !== undefined" class="mute" role="status">Looking for its events: {{ Math.floor(events.progress * 100) }} %</span>
            <span v-else class="mute">{{ events.isKnown ? events.inWords : 'Its events are not known' }}</span>
            <Button v-if="events.progress !== undefined" size="small" @click="events.stop()">Stop</Button>
            <Button v-else size="small" @click="events.look()">{{ events.isKnown ? 'Look again' : 'Look for them' }}</Button>
          </template>
          <template v-if="events.motion">
            <span class="mute" role="status" aria-label="Movement">{{ events.movementInWords }}</span>
            <span class="slider" title="How strong movement must be to be an event" data-slider-label="Movement that is an event, from strength">
              <Slider v-model:value="events.least" :min="0.3" :max="NO_MOVEMENT" :step="0.01" :tip-formatter="strengthInWords" />
            </span>
          </template>
          <template v-if="listed > 0">
            <span class="mute">{{ things(listed, 'cut') }} of lists</span>
            <Button size="small" @click="events.forgetListed()">Forget them</Button>
          </template>
          <Button size="small" class="wide" @click="emit('own')">{{ own ? 'Close its own window' : 'Show it in a window of its own' }}</Button>
        </template>
        <Select
          size="small"
          class="wide"
          :value="undefined"
          :options="found ?? []"
          placeholder="A video of the library’s folders"
          aria-label="A video of the library’s folders"
          :dropdown-match-select-width="false"
          show-search
          not-found-content="No video lies in them"
          @dropdown-visible-change="look"
          @change="(value) => take(String(value))"
        />
        <Button size="small" @click="emit('choose')">Choose a file</Button>
        <Button v-if="picture.picture" size="small" danger @click="remove">Take it out</Button>
      </div>
    </template>
    <Button size="small">Picture …</Button>
  </PopPanel>
</template>

<style scoped>
.panel {
  display: grid;
  grid-template-columns: auto 120px;
  gap: 8px 14px;
  align-items: center;
  width: 290px;
}
.wide {
  grid-column: 1 / 3;
}
.small {
  font-size: 12px;
}
</style>
