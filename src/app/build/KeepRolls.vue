<script setup lang="ts">
import { labelsOfRoll } from '@core/build';
import { categoryOf } from '@core/suggest';
import { computed, ref } from 'vue';
import { ended, things } from '../shared/controls/format';
import { tell } from '../shell/notice';
import { useMadePlace } from '../stores/made-place';
import { useMaking } from '../stores/making';
import KeepForm from './KeepForm.vue';

/** Makes sounds of the library of what was rolled: what they will be and where they go is seen before. */
const making = useMaking();
const place = useMadePlace();
const open = ref(false);
const name = ref('');
const failure = ref('');
const several = computed(() => making.meant.length > 1);
const called = computed(() => name.value.trim());
const faults = computed(() => place.faultsOf(called.value));
const said = computed(() => {
  const first = making.meant[0];
  if (!first) return [];
  const { fields } = labelsOfRoll(called.value, first, making.madeAs(first)?.facts ?? {}, categoryOf(making.patch.catId));
  return [
    ['Category', [fields.category, fields.subCategory].filter(Boolean).join(', ')],
    ['Keywords', (fields.keywords as string[]).join(', ')],
    ['Description', String(fields.description)],
  ];
});

function show(): void {
  const [first] = making.meant;
  if (!first) return;
  name.value = making.madeAs(first)?.name ?? making.patch.name;
  failure.value = '';
  open.value = true;
}
async function keep(): Promise<void> {
  failure.value = '';
  const { sounds, where, failure: why } = await making.keep(making.meant, called.value);
  if (sounds.length === 0) {
    failure.value = ended(`The sound was not made: ${why ?? 'nobody knows why'}`);
    return;
  }
  open.value = false;
  tell.done(sounds.length === 1 ? `${called.value} is a sound now, at ${where}` : `${things(sounds.length, 'sound')} made, from ${where} on`);
  if (why !== undefined) tell.error(`Not all of them were written: ${why}`);
}
defineExpose({ show });
</script>

<template>
  <KeepForm
    id="roll"
    v-model:open="open"
    v-model:name="name"
    :title="several ? `Keep ${things(making.meant.length, 'sound')}` : 'Keep as a sound'"
    :said="said"
    :faults="[...faults, failure].filter(Boolean)"
    :file="`${called || '…'}${several ? ' 01' : ''}`"
    :busy="making.busy"
    :keeps="several ? 'Keep them' : 'Keep it'"
    @keep="keep"
    @cancel="open = false"
  />
</template>
