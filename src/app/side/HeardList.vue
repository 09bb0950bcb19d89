<script setup lang="ts">
import { DeleteOutlined } from '@ant-design/icons-vue';
import type { HeardDay } from '@platform/index';
import { useDebounceFn } from '@vueuse/core';
import { Button, Popconfirm, Tooltip } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { count, dayName } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useAudition } from '../stores/audition';
import { useFind } from '../stores/find';
import { useScene } from '../stores/scene';
import { catalogue } from '../stores/workers';

/** What was heard, day by day, and what was not yet for the scene at hand. */
const find = useFind();
const scene = useScene();
const audition = useAudition();
const days = shallowRef<HeardDay[]>([]);
const unfolded = ref(false);
const SHOWN = 3;
const listed = computed(() => (unfolded.value ? days.value : days.value.slice(0, SHOWN)));
const unheard = computed(() => find.view.unheardIn !== undefined);

const recount = useDebounceFn(async () => (days.value = await catalogue.heardDays()), 400, { maxWait: 2000 });
watch(() => audition.plays, recount, { immediate: true });

const toggleDay = (day: string) => find.begin(find.view.heardOn === day ? {} : { heardOn: day, asOf: Date.now() });
const toggleUnheard = (sceneId: number) =>
  find.go(unheard.value ? { unheardIn: undefined, asOf: undefined } : { unheardIn: sceneId, heardOn: undefined, asOf: Date.now() });
async function forget(): Promise<void> {
  await catalogue.forgetPlays();
  days.value = [];
  if (find.view.heardOn) find.begin({});
  tell.done('What was heard is forgotten');
}
const title = (day: string) => dayName(day).replace(/^./, (c) => c.toUpperCase());
</script>

<template>
  <div class="heading">
    <h2>Heard</h2>
    <Popconfirm v-if="days.length > 0" title="Forget all that was heard, and take the marks off?" ok-text="Forget" @confirm="forget">
      <Tooltip title="Forget what was heard"
        ><Button type="text" size="small" aria-label="Forget what was heard"
          ><template #icon><DeleteOutlined /></template></Button
      ></Tooltip>
    </Popconfirm>
  </div>
  <button v-for="d in listed" :key="d.day" class="line-button" :class="{ here: find.view.heardOn === d.day }" @click="toggleDay(d.day)">
    {{ title(d.day) }} <span class="count">{{ count(d.count) }}</span>
  </button>
  <Button v-if="days.length > SHOWN" type="link" size="small" @click="unfolded = !unfolded">{{
    unfolded ? 'Fewer days' : `${count(days.length - SHOWN)} earlier days`
  }}</Button>
  <button
    v-if="scene.current"
    class="line-button"
    :class="{ here: unheard }"
    :aria-pressed="unheard"
    :title="`Sounds that were not heard while ${scene.current.name} was worked on`"
    @click="toggleUnheard(scene.current.id)"
  >
    Not for this scene yet
  </button>
</template>
