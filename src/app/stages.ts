/** The stages in the order of the work. Each is loaded when it is entered. */
export const stages = [
  { name: 'intake', label: 'Intake', view: () => import('./intake/IntakeStage.vue') },
  { name: 'label', label: 'Label', view: () => import('./label/LabelStage.vue') },
  { name: 'find', label: 'Find', view: () => import('./find/FindStage.vue') },
  { name: 'build', label: 'Build', view: () => import('./build/BuildStage.vue') },
  { name: 'spot', label: 'Spot', view: () => import('./spot/SpotStage.vue') },
  { name: 'deliver', label: 'Deliver', view: () => import('./deliver/DeliverStage.vue') },
] as const;

/** The stage that an address names; Find where it names none. */
export function stageAt(path: string): (typeof stages)[number] {
  const [, first] = path.split('/');
  return stages.find((s) => s.name === first) ?? stages.find((s) => s.name === 'find')!;
}
