import { createRouter, createWebHistory } from 'vue-router';

/** The stages in the order of the work. Each is loaded when it is entered. */
export const stages = [
  { name: 'intake', label: 'Intake', view: () => import('./intake/IntakeStage.vue') },
  { name: 'label', label: 'Label', view: () => import('./label/LabelStage.vue') },
  { name: 'find', label: 'Find', view: () => import('./find/FindStage.vue') },
  { name: 'spot', label: 'Spot', view: () => import('./spot/SpotStage.vue') },
  { name: 'deliver', label: 'Deliver', view: () => import('./deliver/DeliverStage.vue') },
] as const;

export const router = createRouter({
  history: createWebHistory(),
  routes: [
    { path: '/', redirect: '/find' },
    ...stages.map(({ name, view }) => ({
      path: name === 'intake' ? '/intake/:part(problems|duplicates|missing)?' : `/${name}`,
      name,
      component: view,
    })),
    { path: '/:rest(.*)', redirect: '/find' },
  ],
});
