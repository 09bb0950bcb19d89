<script setup lang="ts">
import { teamRights, type TeamMember, type TeamRight } from '@core/schemas';
import type { TeamPlace } from '@platform/index';
import { Alert, Button, Input, Select } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { useTeam } from '../../stores/team';
import { tell } from '../../shell/notice';
import { rightOptions } from './rights';

/** Who may do what with a library or a list, and invitations to it. */
const props = defineProps<{ of: TeamPlace; called: string }>();
const team = useTeam();
const members = shallowRef<TeamMember[]>([]);
const failure = ref('');
const another = ref('');
const right = ref<TeamRight>('hear');
const invitation = ref('');

async function tried(task: () => Promise<void>): Promise<void> {
  failure.value = '';
  try {
    await task();
  } catch (error) {
    failure.value = (error as Error).message;
  }
}
const read = () => tried(async () => void (members.value = await team.people(props.of)));
watch(() => [props.of.of, props.of.id], read, { immediate: true });

const options = computed(() => [...rightOptions(props.of.of), { value: 'none', label: 'nothing', title: 'nothing' }]);
const grant = (person: string, to: unknown) =>
  tried(async () => {
    const wanted = teamRights.find((r) => r === to) ?? null;
    members.value = await team.grant(props.of, person, wanted);
    if (person === another.value.trim()) another.value = '';
  });
const invite = () =>
  tried(async () => {
    invitation.value = await team.invite([{ ...props.of, right: right.value }], false);
  });
async function copy(): Promise<void> {
  await navigator.clipboard.writeText(invitation.value);
  tell.done('The invitation is copied');
}
</script>

<template>
  <div class="people" role="group" :aria-label="`People of ${called}`">
    <ul role="list">
      <li v-for="m in members" :key="m.name">
        <bdi class="cut">{{ m.name }}</bdi>
        <Select size="small" :value="m.right" :options="options" class="right" :aria-label="`What ${m.name} may do`" @change="(to) => grant(m.name, to)" />
      </li>
    </ul>
    <div class="add">
      <Input v-model:value="another" size="small" :maxlength="200" placeholder="Name" aria-label="Somebody else" />
      <Select v-model:value="right" size="small" :options="rightOptions(of.of)" class="right" aria-label="What they may do" />
      <Button size="small" :disabled="another.trim() === ''" @click="grant(another.trim(), right)">Let them</Button>
      <Button size="small" title="For somebody who is not of the team yet: good once, for 14 days" @click="invite">Invite</Button>
    </div>
    <p v-if="invitation" class="token" role="status">
      <span class="mute">Good once, for 14 days, for whoever has it:</span>
      <code class="mono">{{ invitation }}</code>
      <Button size="small" @click="copy">Copy</Button>
    </p>
    <Alert v-if="failure" type="error" :message="failure" />
  </div>
</template>

<style scoped>
.people {
  display: grid;
  gap: 8px;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
li,
.add,
.token {
  display: flex;
  gap: 8px;
  align-items: center;
  min-height: 30px;
}
li > bdi {
  flex: 1;
}
.token {
  flex-wrap: wrap;
  margin: 0;
}
.right {
  flex: 0 0 170px;
}
</style>
