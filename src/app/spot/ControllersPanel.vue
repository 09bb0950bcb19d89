<script setup lang="ts">
import { DeleteOutlined } from '@ant-design/icons-vue';
import { Button } from 'ant-design-vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { useControllers } from '../stores/controllers';
import { useInstrument } from '../stores/instrument';

/** Which controllers of an instrument turn which values of the mix. */
const controllers = useControllers();
const instrument = useInstrument();
</script>

<template>
  <PopPanel placement="topLeft" @update:open="(is: boolean) => is || (controllers.learning = false)">
    <template #panel>
      <div class="panel" role="group" aria-label="Controllers">
        <template v-if="instrument.state !== 'ready'">
          <p class="mute">A fader or knob of a MIDI instrument can turn any value here.</p>
          <Button size="small" :disabled="instrument.state === 'asking'" @click="instrument.listen()">Use instruments</Button>
        </template>
        <template v-else-if="controllers.touched">
          <span>{{ controllers.touched.name }}</span>
          <Button size="small" :aria-pressed="controllers.learning" @click="controllers.learning = !controllers.learning">{{
            controllers.learning ? 'Turn a controller now …' : 'Learn'
          }}</Button>
        </template>
        <p v-else class="mute">Turn a gain, a place or a value of an effect by hand. Then it can learn a controller here.</p>
        <div v-for="{ control, controller, value } in controllers.learnt" :key="control" class="learnt">
          <span class="mono">{{ controller }}</span>
          <span class="cut" :title="value">{{ value }}</span>
          <Button size="small" type="text" :aria-label="`Forget ${controller}`" @click="controllers.forget(control)"
            ><template #icon><DeleteOutlined /></template
          ></Button>
        </div>
        <p v-if="controllers.learnt.length > 0" class="mute">A controller takes hold where it meets its value, so that nothing jumps.</p>
      </div>
    </template>
    <Button size="small">Controllers …</Button>
  </PopPanel>
</template>

<style scoped>
.panel {
  display: grid;
  gap: 8px;
  width: 300px;
}
p {
  margin: 0;
  font-size: 12px;
}
.learnt {
  display: grid;
  grid-template-columns: 110px minmax(0, 1fr) auto;
  align-items: center;
}
</style>
