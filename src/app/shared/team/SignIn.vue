<script setup lang="ts">
import { Alert, Button, Input, InputPassword, Segmented } from 'ant-design-vue';
import { computed, ref } from 'vue';
import { useTeam } from '../../stores/team';

/** The door of a team: in by name and password, or for the first time by an invitation. */
const team = useTeam();
const way = ref<'enter' | 'join'>('enter');
const invitation = ref('');
const person = ref('');
const password = ref('');
const failure = ref('');
const busy = ref(false);
const ways = [
  { value: 'enter', label: 'Sign in' },
  { value: 'join', label: 'Join with an invitation' },
];
const isJoining = computed(() => way.value === 'join');
const isReady = computed(
  () => person.value.trim() !== '' && password.value !== '' && (!isJoining.value || (invitation.value.trim() !== '' && password.value.length >= 10)),
);

async function go(): Promise<void> {
  if (!isReady.value || busy.value) return;
  busy.value = true;
  failure.value = '';
  try {
    if (isJoining.value) await team.join(invitation.value, person.value, password.value);
    else await team.enter(person.value, password.value);
    password.value = '';
  } catch (error) {
    failure.value = (error as Error).message;
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <section class="door" aria-label="Sign in to the team">
    <h2>
      <bdi>{{ team.name }}</bdi>
    </h2>
    <p class="mute">
      A team shares libraries and lists. What it has is searched together with your own; what you add or change there is seen by those who may.
    </p>
    <Alert v-if="team.away" type="warning" :message="`${team.failure} It is asked again by itself.`" />
    <Segmented v-model:value="way" :options="ways" aria-label="Way in" />
    <form class="form" @submit.prevent="go">
      <template v-if="isJoining">
        <label for="team-invitation">Invitation</label>
        <Input id="team-invitation" v-model:value="invitation" autocomplete="off" :maxlength="100" />
      </template>
      <label for="team-person">Name</label>
      <Input id="team-person" v-model:value="person" autocomplete="username" :maxlength="200" />
      <label for="team-password">Password</label>
      <InputPassword
        id="team-password"
        v-model:value="password"
        :autocomplete="isJoining ? 'new-password' : 'current-password'"
        :maxlength="200"
        :aria-describedby="isJoining ? 'team-password-note' : undefined"
      />
      <template v-if="isJoining"><span /><span id="team-password-note" class="mute small">At least ten letters.</span></template>
      <span />
      <Button type="primary" html-type="submit" :disabled="!isReady" :loading="busy">{{ isJoining ? 'Join' : 'Sign in' }}</Button>
    </form>
    <Alert v-if="failure" type="error" :message="failure" />
  </section>
</template>

<style scoped>
.door {
  display: grid;
  justify-items: start;
  gap: 12px;
  max-width: 460px;
}
.door h2,
.door p {
  margin: 0;
}
.form {
  display: grid;
  grid-template-columns: auto 280px;
  gap: 10px 14px;
  align-items: center;
}
.small {
  font-size: 12px;
}
</style>
