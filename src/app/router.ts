import { createRouter, createWebHistory } from 'vue-router';

/** The stages in the order of the work. Each is loaded when it is entered. */
export const stages = [
  { name: 'intake', label: 'Intake', view: () => import('./intake/IntakeStage.vue') },
  { name: 'label', label: 'Label', view: () => import('./label/LabelStage.vue') },
  { name: 'find', label: 'Find', view: () => import('./find/FindStage.vue') },
  { name: 'build', label: 'Build', view: () => import('./build/BuildStage.vue') },
  { name: 'spot', label: 'Spot', view: () => import('./spot/SpotStage.vue') },
  { name: 'deliver', label: 'Deliver', view: () => import('./deliver/DeliverStage.vue') },
] as const;

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
