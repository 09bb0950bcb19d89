/** Words of names and paths; file names after the Universal Category System. */
export * from './words';
export * from './ucs';
export * from './takes';
