import { startCatalogue, startFilm } from '@platform/index';
import { createPinia } from 'pinia';
import { createApp } from 'vue';
import App from './shell/App.vue';
import { router } from './router';
import { handWorkers } from './stores/workers';
import './theme/base.css';

handWorkers({ catalogue: startCatalogue(), film: startFilm() });
createApp(App).use(createPinia()).use(router).mount('#app');
