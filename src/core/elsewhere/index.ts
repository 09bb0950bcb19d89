/** Sounds that lie elsewhere: what is asked of a service of open sounds, and what its answers become here. */
export * from './ask';
export * from './open-sound';
export * from './exchange';
export * from './host';
export * from './team';
export * from './team-sound';
export * from './team-facts';
export * from './team-list';
