<script setup lang="ts">
import type { TeamLibrary } from '@core/schemas';
import { Alert, Button, Select } from 'ant-design-vue';
import { computed, ref, watch } from 'vue';
import { RouterLink } from 'vue-router';
import QueryLine from '../find/QueryLine.vue';
import { bytes, things } from '../shared/controls/format';
import PeopleOf from '../shared/team/PeopleOf.vue';
import SignIn from '../shared/team/SignIn.vue';
import WorkLine from '../shared/team/WorkLine.vue';
import { tell } from '../shell/notice';
import { useTeam } from '../stores/team';
import { catalogue } from '../stores/workers';
import { useSource } from './useSource';

/** Sounds and lists handed to the team: added to a library with their labels, or shared as a list that all follow. */
const { find, source, sources, pull, ids } = useSource();
const team = useTeam();
void team.look();

const into = ref<number>();
const addable = computed(() => team.libraries.filter((l) => team.may(l.id, 'add')));
const target = computed(() => team.libraries.find((l) => l.id === into.value) ?? addable.value[0]);
const roomIn = (l: TeamLibrary) => `${l.name}, ${bytes(Math.max(0, l.allowed - l.used))} free`;
const targets = computed(() => addable.value.map((l) => ({ value: l.id, label: roomIn(l), title: roomIn(l) })));

/** What would be added: ids, bytes of their files, and those that lie in the team's libraries already. */
const seen = ref({ ids: [] as number[], size: 0, there: 0 });
let looks = 0;
async function look(): Promise<void> {
  const mine = ++looks;
  const wanted = await ids();
  let [size, there] = [0, 0];
  const own: number[] = [];
  for (let at = 0; at < wanted.length; at += 2000)
    for (const sound of await catalogue.sounds(wanted.slice(at, at + 2000))) {
      if (sound.team) there++;
      else {
        own.push(sound.id);
        size += sound.size;
      }
    }
  // What was asked since is answered by itself.
  if (mine === looks) seen.value = { ids: own, size, there };
}
watch([() => find.answer.ids, pull, () => team.me], () => void look(), { immediate: true });

async function tried(task: () => Promise<unknown>): Promise<void> {
  try {
    await task();
  } catch (error) {
    tell.error((error as Error).message);
  }
}
const add = () => tried(async () => target.value && team.add(target.value, seen.value.ids));
const share = () => tried(async () => pull.value && team.share(pull.value, target.value));
const isFull = computed(() => target.value !== undefined && seen.value.size > target.value.allowed - target.value.used);
/** The list of the team that the chosen pull is. */
const shared = computed(() => team.lists.find((l) => l.id === pull.value?.team?.list));
</script>

<template>
  <div class="part">
    <div v-if="!team.known" class="empty">
      <strong>No team is known here</strong>
      <span>Start Cormorant with the address of its server: npm start -- --team ADDRESS FOLDER</span>
    </div>
    <div v-else-if="!team.me" class="page"><SignIn /></div>
    <template v-else>
      <QueryLine />
      <div class="tools">
        <label for="team-source">Of</label>
        <Select id="team-source" v-model:value="source" size="small" :options="sources" aria-label="What goes to the team" class="source" />
        <label for="team-into">into</label>
        <Select
          id="team-into"
          size="small"
          :value="target?.id"
          :options="targets"
          aria-label="Library of the team"
          class="source"
          @change="(id) => (into = Number(id))"
        />
        <span class="mute small">{{ team.away ? 'The team’s server does not answer.' : '' }}</span>
      </div>
      <div class="body">
        <section v-if="addable.length === 0" class="empty">
          <strong>There is no library that you may add to</strong>
          <span>Whoever administers one can let you: see <RouterLink to="/intake/team">the team</RouterLink> in Intake.</span>
        </section>
        <template v-else>
          <section aria-label="Add to the library">
            <h2>
              Add sounds to <bdi>{{ target?.name }}</bdi>
            </h2>
            <p role="status">
              <template v-if="seen.ids.length > 0"
                >{{ things(seen.ids.length, 'sound') }}, <span class="mono">{{ bytes(seen.size) }}</span>, with labels, anchors and what was measured. Each file
                is sent once; what breaks off is gone on with.</template
              >
              <template v-else>Nothing of this is yours alone.</template>
              {{ seen.there > 0 ? `${things(seen.there, 'sound')} of it ${seen.there === 1 ? 'lies' : 'lie'} in libraries of the team already.` : '' }}
            </p>
            <Alert
              v-if="isFull"
              type="warning"
              :message="`${target?.name} has ${bytes(Math.max(0, target!.allowed - target!.used))} free. What is there already needs none; the rest is added until it is full.`"
            />
            <Button type="primary" :disabled="seen.ids.length === 0 || !target || team.work !== undefined || team.away" @click="add"
              >Add {{ things(seen.ids.length, 'sound') }}</Button
            >
          </section>
          <WorkLine class="gap" />
        </template>
        <section aria-label="Share as a list">
          <h2>Share a list</h2>
          <p v-if="!pull" class="mute">Choose one of your lists above: its sounds and notes are followed by all who may see it, as they change.</p>
          <template v-else-if="shared">
            <p>
              <bdi>{{ pull.name }}</bdi> is shared with {{ things(shared.members.length, 'sound') }}.
              <span class="mute">{{ team.pullWords.get(pull.id) }}</span>
            </p>
            <PeopleOf v-if="shared.right === 'administer'" :of="{ of: 'list', id: shared.id }" :called="shared.name" />
          </template>
          <template v-else-if="pull.live"><p class="mute">A folder that is kept as a list is not shared; make a list of what it lists.</p></template>
          <template v-else>
            <p>
              <bdi>{{ pull.name }}</bdi>, {{ things(pull.soundIds.length, 'sound') }}.
              <template v-if="seen.ids.length > 0"
                >{{ things(seen.ids.length, 'sound') }} {{ seen.ids.length === 1 ? 'goes' : 'go' }} to
                <bdi>{{ target?.name ?? 'no library' }}</bdi> before.</template
              >
            </p>
            <Button
              type="primary"
              :disabled="pull.soundIds.length === 0 || team.work !== undefined || team.away || (seen.ids.length > 0 && !target)"
              @click="share"
              >Share {{ pull.name }}</Button
            >
          </template>
        </section>
      </div>
    </template>
  </div>
</template>

<style scoped>
.part {
  display: flex;
  flex-direction: column;
  height: 100%;
}
.part > .tools {
  flex-wrap: wrap;
  padding: 0 16px 8px;
}
.body {
  flex: 1;
  min-height: 0;
  padding: 14px 16px;
  overflow-y: auto;
}
.body p {
  max-width: 720px;
}
.source {
  width: 250px;
}
section {
  margin-bottom: 26px;
}
.gap {
  margin-bottom: 20px;
}
</style>
