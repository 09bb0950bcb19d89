import { createPinia } from 'pinia';
import { createApp } from 'vue';
import App from './shell/App.vue';
import { router } from './router';
import './theme/base.css';

createApp(App).use(createPinia()).use(router).mount('#app');
