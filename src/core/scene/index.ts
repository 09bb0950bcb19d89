/** Scenes: timecode, tracks and cues, edit lists, timelines, credits and the mix. */
export * from './timecode';
export * from './scene';
export * from './lines';
export { upgradedChanges, upgradedCue, upgradedScene } from './upgrade';
export * from './versions';
export * from './alternates';
export * from './placing';
export * from './pads';
export * from './performing';
export * from './cuts';
export * from './curves';
export * from './edl';
export * from './otio';
export * from './credits';
export * from './cue-sheet';
export * from './mixdown';
export * from './stems';
export * from './targets';
