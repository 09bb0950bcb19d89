/** The timeline as a hand meets it: where cues lie, what is held of them, what they are drawn to and what becomes of them. */
export * from './geometry';
export * from './snap';
export * from './shape';
