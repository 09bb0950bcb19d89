<script setup lang="ts">
import { fits, type Fit, type SendHow } from '@core/elsewhere';
import { nameOf } from '@core/library';
import { Button, Checkbox, Progress, Select } from 'ant-design-vue';
import { computed, onMounted } from 'vue';
import { useRoute } from 'vue-router';
import { useCommands, withKey } from '../shared/controls/commands';
import { things } from '../shared/controls/format';
import NumberBox from '../shared/controls/NumberBox.vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { bringsSounds, droppedSounds } from '../shared/take/drag';
import { useAudition } from '../stores/audition';
import { useHands } from '../stores/hands';
import { useHost } from '../stores/host';
import { useLibrary } from '../stores/library';
import { useLink } from '../stores/link';
import { useScene } from '../stores/scene';
import { tell } from './notice';

/** The session host: how sounds and scenes go there, what was sent, and the link of both transports. Nothing is seen of it where none is known. */
const host = useHost();
const link = useLink();
const audition = useAudition();
const library = useLibrary();
const hands = useHands();
const scene = useScene();
const route = useRoute();
onMounted(() => void host.look());

const option = <T,>(value: T, label: string) => ({ value, label, title: label });
const together = [option<SendHow['together']>('behind', 'one behind another'), option<SendHow['together']>('tracks', 'each on its own track')];
const lands = [option<SendHow['lands']>('start', 'its beginning'), option<SendHow['lands']>('anchor', 'its anchor')];
const fillings: Record<Fit, string> = {
  'as it is': 'as long as it is',
  cut: 'cut to its length',
  repeated: 'repeated, seams joined',
  stretched: 'stretched to its length',
};
const filled = fits.map((fit) => option(fit, fillings[fit]));
const edges = [option<SendHow['edges']>('kept', 'as the host’s own'), option<SendHow['edges']>('rendered', 'within the file')];
const title = computed(() => (host.isHere ? host.state!.name : 'Session host'));
const word = computed(() => (host.sending ? `Sending ${Math.round(100 * host.sending.share)} %` : host.isHere ? 'Host' : 'Host is gone'));

/** Cues that are selected in Spot; elsewhere there are none. */
const cues = computed(() => (route.name === 'spot' && scene.work === 'scene' ? hands.selected : new Set<number>()));
/** A build is kept as a sound first, and goes as that. */
const hasScene = computed(() => scene.work === 'scene' && scene.cues.length > 0);
const current = computed(() => audition.sound);
const tray = computed(() => library.tray?.soundIds ?? []);
async function send(): Promise<void> {
  if (!host.address) return void tell.info('No session host is known here');
  if (cues.value.size > 0) await host.sendCues(cues.value);
  else await host.sendSounds(current.value ? [current.value] : []);
}
const sendTray = async () => host.sendSounds(await library.need([...tray.value]));
useCommands('Using a sound', [{ label: 'Send to the session host', keys: ['Shift+t'], run: () => void send(), enabled: () => host.address !== '' }]);

function over(event: DragEvent): void {
  if (bringsSounds(event)) event.preventDefault();
}
async function drop(event: DragEvent): Promise<void> {
  const ids = droppedSounds(event);
  if (!ids) return;
  event.preventDefault();
  event.stopPropagation();
  await host.sendSounds(await library.need([...ids]));
}
</script>

<template>
  <PopPanel v-if="host.address" placement="bottomRight">
    <template #panel>
      <div class="panel" role="group" aria-label="Session host">
        <p v-if="host.isHere" role="status">
          <strong>{{ title }}</strong>, <span class="mono">{{ host.state!.rate / 1000 }} kHz</span>, <span class="mono">{{ host.state!.bits }} bit</span>.
          {{ host.state!.range ? 'A range is selected there.' : 'What is sent lands on its cursor.' }}
        </p>
        <p v-else role="alert" class="bad">
          {{ host.connection === 'newer' ? 'It is of a newer version. Bring Cormorant up to date.' : 'It is gone. Start it; it is met by itself.' }}
        </p>
        <a :href="host.address" target="_blank" rel="noopener">Open it in a window of its own</a>
        <template v-if="host.sending">
          <Progress :percent="Math.round(100 * host.sending.share)" size="small" :aria-label="`Sending ${host.sending.label}`" />
          <p v-if="host.sending.waits" role="status" class="amber">{{ host.sending.waits }}</p>
          <Button size="small" @click="host.cancel()">Cancel</Button>
        </template>
        <div v-else class="buttons">
          <Button
            size="small"
            type="primary"
            :disabled="!host.isHere || (cues.size === 0 && !current)"
            :title="withKey('Send it', 'Send to the session host')"
            @click="send"
          >
            <bdi class="cut">{{ cues.size > 0 ? `Send ${things(cues.size, 'cue')}` : current ? `Send ${nameOf(current)}` : 'Send the sound' }}</bdi>
          </Button>
          <Button v-if="tray.length > 0" size="small" :disabled="!host.isHere" @click="sendTray">Send the tray, {{ things(tray.length, 'sound') }}</Button>
          <Button size="small" :disabled="!host.isHere || !hasScene" @click="host.sendMix()">Send the mix of the scene</Button>
          <Button size="small" :disabled="!host.isHere || !hasScene" @click="host.sendCues()">Send its cues one by one</Button>
        </div>
        <h3>How sounds go there</h3>
        <div class="form">
          <label for="host-together">Several</label>
          <Select id="host-together" v-model:value="host.how.together" size="small" :options="together" aria-label="Several sounds" />
          <label for="host-lands">On the cursor lands</label>
          <Select id="host-lands" v-model:value="host.how.lands" size="small" :options="lands" aria-label="On the cursor lands" />
          <label for="host-fit">Into a range</label>
          <Select id="host-fit" v-model:value="host.how.fit" size="small" :options="filled" aria-label="Into a range" />
          <label for="host-edges">Gain and fades</label>
          <Select id="host-edges" v-model:value="host.how.edges" size="small" :options="edges" aria-label="Gain and fades" />
          <label for="host-handles">Handles</label>
          <NumberBox
            id="host-handles"
            :value="host.how.handles"
            :min="0"
            :max="60"
            :step="0.5"
            unit="s"
            :disabled="host.how.edges === 'rendered'"
            aria-label="Handles, seconds"
            @set="(v) => (host.how.handles = v)"
          />
        </div>
        <h3>Transports</h3>
        <Checkbox v-model:checked="link.withHost.follow">The scene runs where the host runs</Checkbox>
        <p v-if="link.withHost.follow && host.transport?.playing" class="good" role="status">
          <span class="mono">{{ Math.abs(link.off).toFixed(2) }}</span> frames apart
        </p>
        <Checkbox v-model:checked="link.withHost.lead">The host runs where the scene runs</Checkbox>
        <template v-if="host.sent.length > 0">
          <h3>Sent</h3>
          <ul role="list">
            <li v-for="one in host.sent" :key="one.step">
              <bdi class="cut" :title="one.said">{{ one.label }}</bdi>
              <Button size="small" :aria-label="`Take back ${one.label}`" @click="host.takeBack(one)">Take back</Button>
            </li>
          </ul>
        </template>
      </div>
    </template>
    <Button size="small" :class="{ gone: !host.isHere }" :title="`${title}: send sounds and scenes, and run together`" @dragover="over" @drop="drop">{{
      word
    }}</Button>
  </PopPanel>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 8px;
  width: 330px;
  max-height: 78vh;
  overflow-y: auto;
}
.panel p,
.panel h3 {
  margin: 0;
}
.panel h3 {
  margin-top: 6px;
}
.buttons {
  display: grid;
  gap: 6px;
}
.form {
  display: grid;
  grid-template-columns: auto minmax(0, 1fr);
  gap: 6px 10px;
  align-items: center;
}
.bad,
.gone {
  color: var(--coral);
}
.good {
  color: var(--glass);
}
.amber {
  color: var(--amber);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  display: flex;
  gap: 10px;
  align-items: center;
  justify-content: space-between;
  min-height: 30px;
}
</style>
