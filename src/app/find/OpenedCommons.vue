<script setup lang="ts">
import { labelsOfOpen } from '@core/elsewhere';
import { licenceOf, type Sound } from '@core/library';
import { creditOf } from '@core/scene';
import type { OpenSound } from '@core/schemas';
import { Button, Progress, Tooltip } from 'ant-design-vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import PlaceRow from '../shared/take/PlaceRow.vue';
import { withKey } from '../shared/controls/commands';
import { bytes } from '../shared/controls/format';
import { useCommons, type Fetched } from '../stores/commons';
import { queryOf, useFind } from '../stores/find';
import { usePrefs } from '../stores/prefs';

/** An opened row of the commons: whose it is, what its licence asks for, and how it comes into the library. */
const props = defineProps<{ item: OpenSound }>();
const emit = defineEmits<{ like: []; spot: [] }>();
const commons = useCommons();
const prefs = usePrefs();
const find = useFind();
const router = useRouter();

const own = computed(() => commons.fetched.get(props.item.id));
const isComing = computed(() => commons.fetching?.id === props.item.id);
/** What would have to be printed; it is the library that says so, of the labels that it would have there. */
const credit = computed(() => {
  const sound = { ...labelsOfOpen(props.item, commons.name), id: 0 } as Sound;
  return creditOf(sound, 1, prefs.job).credit || 'none is asked for';
});
const against = computed(() => commons.against(props.item));
const url = computed(() => licenceOf(props.item.licence).url);
const files = computed(() => {
  const { original, preview, rate, bits } = props.item;
  const ending = (name: string) => name.split('.').pop()!.toUpperCase();
  return [
    { which: 'original' as Fetched, label: 'Fetch the original', said: `${ending(original.name)}, ${bits} bit, ${rate / 1000} kHz, ${bytes(original.size)}` },
    { which: 'preview' as Fetched, label: 'Fetch it compressed', said: `${ending(preview.name)}, ${bytes(preview.size)}` },
  ];
});
async function show(): Promise<void> {
  find.begin({ soundId: own.value });
  await router.push({ name: 'find', params: { part: '' }, query: queryOf(find.view) });
}
</script>

<template>
  <div class="opened" role="group" :aria-label="item.title">
    <dl class="said">
      <dt>By</dt>
      <dd>{{ item.author }}</dd>
      <dt>Said of it</dt>
      <dd class="cut" :title="item.description">{{ item.description || 'nothing' }}</dd>
      <dt>Words</dt>
      <dd class="cut">{{ item.tags.join(', ') || 'none' }}</dd>
      <dt>Licence</dt>
      <dd>
        <a v-if="url" :href="url" target="_blank" rel="noreferrer noopener">{{ item.licence }}</a><template v-else>{{ item.licence }}</template>
        <span v-if="against" class="bad against">{{ against }}</span>
      </dd>
      <dt>Credit</dt>
      <dd class="cut" :title="credit">{{ credit }}</dd>
    </dl>
    <div class="acts">
      <template v-if="own !== undefined">
        <span>It is in your library.</span>
        <Button size="small" @click="show">Show it there</Button>
        <Button size="small" @click="emit('spot')">Spot it</Button>
      </template>
      <template v-else-if="isComing">
        <Progress :percent="Math.round((commons.fetching?.share ?? 0) * 100)" size="small" aria-label="How much of it is here" />
        <Button size="small" @click="commons.cancel()">Cancel</Button>
      </template>
      <template v-else>
        <div v-for="file in files" :key="file.which" class="tools">
          <Tooltip :title="file.which === 'original' ? withKey('Into the folder below', 'Fetch the original into the library') : 'Into the folder below'">
            <Button size="small" :type="file.which === 'original' ? 'primary' : 'default'" @click="commons.fetch(item, file.which)">{{ file.label }}</Button>
          </Tooltip>
          <span class="mute small">{{ file.said }}</span>
        </div>
        <PlaceRow id="commons-place" />
      </template>
      <Tooltip :title="withKey('Others of the commons that sound alike', 'Find what is like this in the commons')">
        <Button size="small" @click="emit('like')">Alike</Button>
      </Tooltip>
    </div>
  </div>
</template>

<style scoped>
.opened {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(300px, auto);
  gap: 16px;
  /* As high as a list opens its rows. */
  height: 157px;
  padding: 10px 16px;
  overflow: auto;
}
.said {
  display: grid;
  grid-template-columns: 76px minmax(0, 1fr);
  gap: 3px 10px;
  align-content: start;
  margin: 0;
}
dt {
  color: var(--mute);
}
dd {
  margin: 0;
}
.against {
  margin-left: 8px;
}
.acts {
  display: grid;
  gap: 6px;
  align-content: start;
  justify-items: start;
}
</style>
