import type { startCatalogue } from '@platform/index';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import App from './shell/App.vue';
import { router } from './router';
import { handWorkers } from './stores/workers';
import './theme/base.css';

/** Shows the application. @param catalogue the library's worker, which is starting */
export function begin(catalogue: ReturnType<typeof startCatalogue>): void {
  handWorkers(catalogue);
  createApp(App).use(createPinia()).use(router).mount('#app');
}
