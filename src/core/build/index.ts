/** Builds: one sound made of several, which lie on one anchor. */
export * from './layers';
export * from './kept';
export * from './made';
export * from './strokes';
export * from './rolls';
export * from './passes';
export * from './into-scene';
export * from './from-project';
