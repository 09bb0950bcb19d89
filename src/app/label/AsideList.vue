<script setup lang="ts">
import { Button } from 'ant-design-vue';
import { things } from '../shared/controls/format';
import { save } from '../shared/take/save';
import { tell } from '../shell/notice';
import { useLibrary } from '../stores/library';

/** Records that cannot be used, as they are wrong in themselves: mended, saved, or let go. */
const library = useLibrary();
async function mend(): Promise<void> {
  const all = library.aside.length;
  const done = await library.mend(library.aside.map((a) => a.id));
  if (done === all) tell.done(`${things(done, 'record')} mended and put back`);
  else tell.info(`${done} of ${things(all, 'record')} mended; of the others too little is left. Save them before you let them go.`);
}
function keep(): void {
  save(JSON.stringify(library.aside, null, 2), 'application/json', 'Cormorant records set aside.json');
}
</script>

<template>
  <section v-if="library.aside.length > 0" aria-label="Set aside">
    <div class="tools">
      <h1>Damaged records</h1>
      <span class="push" />
      <Button size="small" @click="mend">Mend</Button>
      <Button size="small" @click="keep">Save</Button>
      <Button size="small" danger @click="library.forgetAside(library.aside.map((a) => a.id))">Let go</Button>
    </div>
    <p class="mute small">
      {{ things(library.aside.length, 'record') }} could not be used and {{ library.aside.length === 1 ? 'was' : 'were' }} taken out of the library’s way.
      Nothing of {{ library.aside.length === 1 ? 'it' : 'them' }} is lost.
    </p>
    <ul class="small">
      <li v-for="a in library.aside.slice(0, 100)" :key="a.id">{{ a.reason }}</li>
    </ul>
  </section>
</template>

<style scoped>
h1 {
  font-size: 15px;
  color: var(--coral);
}
.tools {
  margin: 14px 0 4px;
}
ul {
  max-height: 200px;
  margin: 0;
  padding-left: 18px;
  overflow-y: auto;
}
</style>
