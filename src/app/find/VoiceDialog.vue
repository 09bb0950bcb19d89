<script setup lang="ts">
import { AudioOutlined } from '@ant-design/icons-vue';
import { Alert, Button, Modal, Progress } from 'ant-design-vue';
import { useRafFn } from '@vueuse/core';
import { onUnmounted, ref, watch } from 'vue';
import { useAudition } from '../stores/audition';
import { useAlike } from './useAlike';

/** Records a sound made with the voice and lists what is like it. Nothing of it is kept or sent anywhere. */
const open = defineModel<boolean>('open', { required: true });

const LONGEST = 8;
/** Below this peak there is nothing but the noise of the input: -54 dBFS. */
const SILENT = 0.002;
const audition = useAudition();
const alike = useAlike();
const state = ref<'ready' | 'asking' | 'recording' | 'comparing'>('ready');
const trouble = ref('');
const level = ref(0);
const since = ref(0);
let recorder: MediaRecorder | undefined;
let context: AudioContext | undefined;
let meter: AnalyserNode | undefined;
let began = 0;
let wanted = false;
const look = new Float32Array(1024);

const { pause, resume } = useRafFn(
  () => {
    meter?.getFloatTimeDomainData(look);
    const peak = look.reduce((most, s) => Math.max(most, Math.abs(s)), 0);
    level.value = Math.max(0, Math.min(100, 100 + (5 / 3) * 20 * Math.log10(peak + 1e-6)));
    since.value = (performance.now() - began) / 1000;
    if (since.value >= LONGEST) end();
  },
  { immediate: false },
);

async function start(): Promise<void> {
  trouble.value = '';
  state.value = 'asking';
  audition.stop();
  let stream: MediaStream;
  try {
    // What makes speech clearer takes away what is wanted here.
    stream = await navigator.mediaDevices.getUserMedia({ audio: { echoCancellation: false, noiseSuppression: false, autoGainControl: false } });
  } catch (error) {
    state.value = 'ready';
    trouble.value =
      (error as Error).name === 'NotAllowedError'
        ? 'The browser does not let this page use the microphone. Allow it beside the address, then try once more.'
        : `No microphone can be used: ${(error as Error).message}`;
    return;
  }
  if (!open.value) return stream.getTracks().forEach((t) => t.stop());
  context = new AudioContext();
  meter = new AnalyserNode(context, { fftSize: look.length });
  context.createMediaStreamSource(stream).connect(meter);
  const pieces: Blob[] = [];
  recorder = new MediaRecorder(stream);
  recorder.ondataavailable = ({ data }) => pieces.push(data);
  recorder.onstop = () => void compare(new Blob(pieces)).finally(() => stream.getTracks().forEach((t) => t.stop()));
  wanted = true;
  recorder.start();
  began = performance.now();
  state.value = 'recording';
  resume();
}

function end(): void {
  pause();
  if (recorder?.state === 'recording') recorder.stop();
}

async function compare(recording: Blob): Promise<void> {
  const own = context;
  try {
    if (!wanted || !own) return;
    state.value = 'comparing';
    const heard = await own.decodeAudioData(await recording.arrayBuffer());
    const samples = heard.getChannelData(0).slice();
    if (!samples.some((s) => Math.abs(s) > SILENT)) {
      trouble.value = 'Nothing was heard. See that the microphone is the right one and not muted, then record once more.';
      return;
    }
    if (await alike.ofVoice(samples, heard.sampleRate)) open.value = false;
  } catch (error) {
    trouble.value = `The recording cannot be read: ${(error as Error).message}`;
  } finally {
    state.value = 'ready';
    level.value = 0;
    await own?.close();
  }
}

/** Leaving ends the recording, and nothing comes of it. */
function leave(): void {
  wanted = false;
  end();
}
watch(open, (shown) => (shown ? (trouble.value = '') : leave()));
onUnmounted(leave);
</script>

<template>
  <Modal v-model:open="open" title="Find by voice" :footer="null" width="420px">
    <p>
      Hum, hiss, knock or mouth the sound: its course in time counts most, then how rough and how bright it is. The recording stays on this machine and is not
      kept.
    </p>
    <Alert v-if="trouble" type="warning" :message="trouble" role="alert" />
    <Progress :percent="level" :show-info="false" :status="level > 98 ? 'exception' : 'normal'" aria-label="Level of the microphone" />
    <div class="row">
      <Button v-if="state !== 'recording'" type="primary" :loading="state !== 'ready'" @click="start">
        <template #icon><AudioOutlined /></template>{{ state === 'comparing' ? 'Comparing' : 'Record' }}
      </Button>
      <Button v-else type="primary" @click="end">Find what is like it</Button>
      <span class="mono mute" role="timer">{{ state === 'recording' ? `${since.toFixed(1)} of ${LONGEST} s` : `${LONGEST} s at most` }}</span>
    </div>
  </Modal>
</template>

<style scoped>
.row {
  display: flex;
  align-items: center;
  gap: 12px;
  margin-top: 12px;
}
</style>
