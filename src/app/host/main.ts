import { createApp } from 'vue';
import '../theme/base.css';
import HostPage from './HostPage.vue';

createApp(HostPage).mount('#app');
