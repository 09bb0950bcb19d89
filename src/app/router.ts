import { createRouter, createWebHistory } from 'vue-router';
import { stages } from './stages';

/** Stages that have several views, and their names in the URL beside the first one. */
const parts: Partial<Record<(typeof stages)[number]['name'], string>> = {
  intake: 'problems|duplicates|missing|team',
  label: 'review|anchors|slices|recipes|names|files|sheets|exchange|tags|stamps|categories|safety',
  find: 'commons',
  build: 'make',
  spot: 'mix',
  deliver: 'delivery|library|labels|team',
};

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/find' },
    ...stages.map(({ name, view }) => ({
      path: `/${name}${parts[name] ? `/:part(${parts[name]})?` : ''}`,
      name,
      component: view,
    })),
    { path: '/diagnostics', name: 'diagnostics', component: () => import('./diagnostics/DiagnosticsPage.vue') },
    { path: '/:rest(.*)', redirect: '/find' },
  ],
});
