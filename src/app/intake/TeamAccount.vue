<script setup lang="ts">
import { Button, InputPassword } from 'ant-design-vue';
import { ref } from 'vue';
import PopPanel from '../shared/controls/PopPanel.vue';
import { tell } from '../shell/notice';
import { useTeam } from '../stores/team';

/** Who one is for the team, another password, and the way out. */
const team = useTeam();
const old = ref('');
const fresh = ref('');

async function change(): Promise<void> {
  try {
    await team.password(old.value, fresh.value);
    [old.value, fresh.value] = ['', ''];
    tell.done('The password is another one now; wherever else you were signed in, you are not any more');
  } catch (error) {
    tell.error((error as Error).message);
  }
}
async function leave(): Promise<void> {
  try {
    await team.leave();
  } catch (error) {
    tell.error((error as Error).message);
  }
}
</script>

<template>
  <header>
    <h2>
      <bdi>{{ team.name }}</bdi>
    </h2>
    <span class="mute"
      >Signed in as <bdi>{{ team.me?.name }}</bdi>{{ team.me?.owner ? ', who owns the server' : '' }}</span
    >
    <span class="push" />
    <PopPanel placement="bottomRight">
      <template #panel>
        <form class="form" @submit.prevent="change">
          <label for="team-old">Password of now</label>
          <InputPassword id="team-old" v-model:value="old" autocomplete="current-password" :maxlength="200" />
          <label for="team-fresh">New one, of ten letters or more</label>
          <InputPassword id="team-fresh" v-model:value="fresh" autocomplete="new-password" :maxlength="200" />
          <Button type="primary" size="small" html-type="submit" :disabled="old === '' || fresh.length < 10">Change it</Button>
        </form>
      </template>
      <Button size="small">Password</Button>
    </PopPanel>
    <Button size="small" @click="leave">Sign out</Button>
  </header>
</template>

<style scoped>
header {
  display: flex;
  gap: 12px;
  align-items: baseline;
  margin-bottom: 18px;
}
h2 {
  margin: 0;
}
.push {
  flex: 1;
}
.form {
  display: grid;
  gap: 8px;
  width: 250px;
}
</style>
