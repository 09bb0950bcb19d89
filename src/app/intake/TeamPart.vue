<script setup lang="ts">
import { allows } from '@core/elsewhere';
import { fieldOf, nameOf, type FieldValue } from '@core/library';
import type { TeamDeed, TeamLibrary, TeamList } from '@core/schemas';
import { Alert, Button, Input, Popconfirm, Progress } from 'ant-design-vue';
import { computed, ref, shallowRef, watch } from 'vue';
import { RouterLink } from 'vue-router';
import { bytes, count, things } from '../shared/controls/format';
import PeopleOf from '../shared/team/PeopleOf.vue';
import { rightWords } from '../shared/team/rights';
import SignIn from '../shared/team/SignIn.vue';
import WorkLine from '../shared/team/WorkLine.vue';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';
import { useTeam, type OpenChoice } from '../stores/team';
import { catalogue } from '../stores/workers';
import TeamAccount from './TeamAccount.vue';

/** Libraries and lists of a team: which there are, which of them are searched here, what waits for a choice, and who may do what. */
const team = useTeam();
const library = useLibrary();
void team.look();

const opened = ref('');
const deeds = shallowRef<TeamDeed[]>([]);
async function toggle(key: string, of?: TeamLibrary): Promise<void> {
  opened.value = opened.value === key ? '' : key;
  if (opened.value === '' || !of) return;
  deeds.value = [];
  await tried(async () => void (deeds.value = await team.deeds(of.id)));
}
async function tried(task: () => Promise<unknown>): Promise<void> {
  try {
    await task();
  } catch (error) {
    tell.error((error as Error).message);
  }
}

const fresh = ref('');
const make = () =>
  tried(async () => {
    await team.make(fresh.value.trim());
    fresh.value = '';
  });

const percent = (l: TeamLibrary) => Math.min(100, Math.round((100 * l.used) / Math.max(1, l.allowed)));
function state(l: TeamLibrary): string {
  const root = team.rootOf(l.id);
  if (!root) return 'Not searched here yet';
  const now = team.following.get(root.id);
  if (now) return now.what || 'Catching up';
  const told = team.followed.get(root.id);
  if (told?.failure) return told.failure;
  if (!told) return 'Searched here';
  const parts = [
    told.conflicts?.length ? `${things(told.conflicts.length, 'sound')} ${told.conflicts.length === 1 ? 'waits' : 'wait'} for a choice` : '',
    told.kept ? `${things(told.kept, 'sound')} changed here alone: you may not change them there` : '',
  ];
  const share = team.measuring.get(root.id);
  const rest = share === undefined ? 'Up to date' : `Up to date; facts ${Math.floor(100 * share)} % here`;
  return parts.filter(Boolean).join('; ') || rest;
}
/** Changes of others that wait until those sign in, and are not sent as somebody else's. */
const waiting = (l: TeamLibrary) => team.rootOf(l.id)?.team?.waiting ?? [];
async function sendAsMine(l: TeamLibrary): Promise<void> {
  const root = team.rootOf(l.id);
  if (!root || !(await library.patch(`Send what waits in ${l.name}`, 'roots', root, { 'team.waiting': undefined }, false))) return;
  team.touch(await idsOf(l));
}
const idsOf = async (l: TeamLibrary): Promise<number[]> => {
  const root = team.rootOf(l.id);
  return root ? (await catalogue.soundsOf(root.id)).map((s) => s.id) : [];
};
const mayFetch = (l: TeamList) => allows(l.right, 'fetch');
const fetchAll = (l: TeamLibrary) => tried(async () => team.fetchFiles(`all of ${l.name}`, await idsOf(l)));

watch(
  () => team.conflicts,
  () => void team.showChoices(),
  { immediate: true },
);
watch(
  () => team.open,
  (open) => void library.need(open.map((o) => o.soundId)),
);
const label = (key: string) => (key === 'anchor' ? 'Anchor' : key === 'catId' ? 'Category' : fieldOf(key).label);
const shown = (value: FieldValue | undefined) => (value === undefined ? 'nothing' : Array.isArray(value) ? value.join(', ') : String(value));
const called = (o: OpenChoice) => {
  const sound = library.sounds.get(o.soundId);
  return sound ? nameOf(sound) : '';
};
const all = computed(() => team.open);
</script>

<template>
  <div class="page">
    <section v-if="!team.known" class="empty">
      <strong>No team is known here</strong>
      <span>Start Cormorant with the address of its server: npm start -- --team ADDRESS FOLDER</span>
    </section>
    <SignIn v-else-if="!team.me" />
    <template v-else>
      <TeamAccount />
      <Alert
        v-if="team.away"
        type="warning"
        class="gap"
        message="The team’s server does not answer. All that is known stays searchable, and what you change is sent once it is back."
      />
      <WorkLine class="gap" />

      <section v-if="all.length > 0" aria-label="Labels that wait for a choice">
        <h2>
          {{ things(all.length, 'label') }} changed here and there
          <span class="push" />
          <Button size="small" @click="team.choose(all, 'mine')">Keep all of mine</Button>
          <Button size="small" @click="team.choose(all, 'theirs')">Take all of theirs</Button>
        </h2>
        <ul class="rows">
          <li v-for="o in all.slice(0, 100)" :key="`${o.soundId} ${o.key}`" class="choice">
            <bdi class="cut">{{ called(o) }}</bdi>
            <span class="mute">{{ label(o.key) }}</span>
            <bdi class="cut" :title="shown(o.mine)">{{ shown(o.mine) }}</bdi>
            <Button size="small" :aria-label="`Keep mine for ${label(o.key)} of ${called(o)}`" @click="team.choose([o], 'mine')">Keep mine</Button>
            <bdi class="cut theirs" :title="shown(o.theirs)">{{ shown(o.theirs) }}</bdi>
            <Button size="small" :aria-label="`Take theirs for ${label(o.key)} of ${called(o)}`" @click="team.choose([o], 'theirs')">Take theirs</Button>
          </li>
          <li v-if="all.length > 100" class="mute">and {{ count(all.length - 100) }} more</li>
        </ul>
      </section>

      <section aria-label="Libraries of the team">
        <h2>Libraries</h2>
        <p v-if="team.libraries.length === 0" class="mute none">None that you may hear yet. Whoever administers one can let you.</p>
        <ul class="rows">
          <li v-for="l in team.libraries" :key="l.id">
            <div class="row">
              <bdi class="cut name" :title="l.name">{{ l.name }}</bdi>
              <span class="mono counted">{{ things(l.sounds, 'sound') }}</span>
              <span class="store" :title="`${bytes(l.used)} of ${bytes(l.allowed)} used`">
                <Progress :percent="percent(l)" size="small" :show-info="false" :aria-label="`Storage of ${l.name}`" />
                <span class="mono small mute">{{ bytes(l.used) }} of {{ bytes(l.allowed) }}</span>
              </span>
              <span class="mute small">You may {{ rightWords('library', l.right) }}</span>
              <span class="small state" role="status" :class="{ warn: team.rootOf(l.id) && team.followed.get(team.rootOf(l.id)!.id)?.failure }">{{
                state(l)
              }}</span>
              <span class="acts">
                <Button v-if="!team.rootOf(l.id)" size="small" type="primary" :aria-label="`Search ${l.name} here`" @click="team.takeIn(l)">Search here</Button>
                <Button v-else size="small" :aria-label="`Catch up with ${l.name}`" @click="team.follow(team.rootOf(l.id)!.id)">Catch up</Button>
                <Button size="small" :aria-expanded="opened === `library ${l.id}`" :aria-label="`More about ${l.name}`" @click="toggle(`library ${l.id}`, l)"
                  >More</Button
                >
              </span>
            </div>
            <p v-if="waiting(l).length > 0" class="waits" role="status">
              <span v-for="w in waiting(l)" :key="w.person">
                {{ things(w.sounds.length, 'sound') }} that <bdi>{{ w.person }}</bdi> changed here {{ w.sounds.length === 1 ? 'waits' : 'wait' }} until they
                sign in again.
              </span>
              <Button size="small" :aria-label="`Send as mine what waits in ${l.name}`" @click="sendAsMine(l)">Send as mine</Button>
            </p>
            <div v-if="opened === `library ${l.id}`" class="more">
              <div v-if="team.may(l.id, 'administer')">
                <h3>People</h3>
                <PeopleOf :of="{ of: 'library', id: l.id }" :called="l.name" />
              </div>
              <div>
                <h3>Without the server</h3>
                <p class="mute small none">Labels are searched here in any case. Files that are fetched are heard without the server, too.</p>
                <div class="acts start">
                  <Button size="small" :disabled="!team.may(l.id, 'fetch') || !team.rootOf(l.id) || team.work !== undefined" @click="fetchAll(l)"
                    >Fetch all files</Button
                  >
                  <Popconfirm title="They are heard from the server again then." ok-text="Let go" cancel-text="Keep them" @confirm="team.dropFiles(l)">
                    <Button size="small" :disabled="!team.rootOf(l.id)">Let go of fetched files</Button>
                  </Popconfirm>
                </div>
                <h3>What was done</h3>
                <ol v-if="deeds.length > 0" class="deeds" aria-label="What was done">
                  <li v-for="d in deeds.slice(0, 30)" :key="d.revision">
                    <span class="mono small mute">{{ new Date(d.at).toLocaleString() }}</span> <bdi>{{ d.by }}</bdi>: {{ d.what }}
                  </li>
                </ol>
                <p v-else class="mute small none">Nothing yet.</p>
              </div>
            </div>
          </li>
        </ul>
        <form v-if="team.me.owner" class="acts start" @submit.prevent="make">
          <Input v-model:value="fresh" size="small" :maxlength="200" placeholder="Name of a new library" aria-label="Name of a new library" class="fresh" />
          <Button size="small" html-type="submit" :disabled="fresh.trim() === ''">Make it</Button>
        </form>
        <p class="mute small">Sounds are added in <RouterLink to="/deliver/team">Deliver</RouterLink>.</p>
      </section>

      <section aria-label="Lists of the team">
        <h2>Lists</h2>
        <p v-if="team.lists.length === 0" class="mute none">None yet. A list of yours is shared in <RouterLink to="/deliver/team">Deliver</RouterLink>.</p>
        <ul class="rows">
          <li v-for="l in team.lists" :key="l.id">
            <div class="row list">
              <bdi class="cut name" :title="l.name">{{ l.name }}</bdi>
              <span class="mono counted">{{ things(l.members.length, 'sound') }}</span>
              <span class="mute small">You may {{ rightWords('list', l.right) }}</span>
              <span class="small state">{{ team.pullOf(l.id) ? team.pullWords.get(team.pullOf(l.id)!.id) || 'Kept among your lists' : '' }}</span>
              <span class="acts">
                <Button v-if="!team.pullOf(l.id)" size="small" type="primary" :aria-label="`Keep ${l.name} here`" @click="team.takeList(l)">Keep here</Button>
                <RouterLink v-else :to="`/find?pull=${team.pullOf(l.id)!.id}`"><Button size="small" tabindex="-1">Show it</Button></RouterLink>
                <Button
                  v-if="team.pullOf(l.id)"
                  size="small"
                  :disabled="!mayFetch(l) || team.work !== undefined"
                  :aria-label="`Fetch files of ${l.name}`"
                  title="They are heard without the server then"
                  @click="team.fetchFiles(`the files of ${l.name}`, team.pullOf(l.id)!.soundIds)"
                  >Fetch files</Button
                >
                <Button
                  v-if="l.right === 'administer'"
                  size="small"
                  :aria-expanded="opened === `list ${l.id}`"
                  :aria-label="`People of ${l.name}`"
                  @click="toggle(`list ${l.id}`)"
                  >People</Button
                >
              </span>
            </div>
            <div v-if="opened === `list ${l.id}`" class="more"><PeopleOf :of="{ of: 'list', id: l.id }" :called="l.name" /></div>
          </li>
        </ul>
      </section>
    </template>
  </div>
</template>

<style scoped>
section {
  margin-bottom: 26px;
}
h2 {
  display: flex;
  gap: 8px;
  align-items: center;
  margin-bottom: 6px;
}
h3 {
  margin: 0 0 6px;
}
h3:not(:first-child) {
  margin-top: 14px;
}
h2 > .push {
  flex: 1;
}
.gap {
  margin-bottom: 16px;
}
.none {
  margin: 0 0 8px;
}
.rows,
.deeds {
  margin: 0 0 10px;
  padding: 0;
  list-style: none;
}
.rows > li {
  border-top: 1px solid var(--line);
}
.rows > li:last-child {
  border-bottom: 1px solid var(--line);
}
.row {
  display: grid;
  grid-template-columns: minmax(140px, 1fr) 96px 150px minmax(110px, 0.7fr) minmax(140px, 1fr) auto;
  gap: 16px;
  align-items: center;
  min-height: 48px;
}
.row.list {
  grid-template-columns: minmax(140px, 1fr) 96px minmax(110px, 0.7fr) minmax(160px, 1.4fr) auto;
}
.waits {
  display: flex;
  gap: 12px;
  align-items: center;
  margin: 0 0 8px;
  font-size: 12px;
}
.choice {
  display: grid;
  grid-template-columns: minmax(140px, 1fr) 110px minmax(100px, 1fr) auto minmax(100px, 1fr) auto;
  gap: 12px;
  align-items: center;
  min-height: 36px;
}
.theirs {
  color: var(--amber);
}
.name {
  font-weight: 600;
}
.counted {
  text-align: right;
  color: var(--glass);
}
.store {
  display: grid;
}
.store :deep(.ant-progress) {
  margin: 0;
}
.small {
  font-size: 12px;
}
.warn {
  color: var(--coral);
}
.acts {
  display: flex;
  gap: 8px;
  justify-content: end;
}
.start {
  justify-content: start;
}
.more {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1fr);
  gap: 30px;
  padding: 4px 0 18px 18px;
}
.deeds {
  max-height: 180px;
  overflow-y: auto;
}
.fresh {
  width: 240px;
}
</style>
