/** The field registry, sounds, tags, pulls, licences, and edits: the one way in which the catalogue changes. */
export * from './fields';
export * from './sound';
export * from './licence';
export * from './describe';
export * from './edits';
export * from './labels';
export * from './follow';
export * from './copies';
export * from './values';
export * from './tags';
export * from './stamps';
export * from './batch';
export * from './sheets';
export * from './backup';
export * from './excerpt';
export * from './slicing';
export * from './rotation';
export { flacLabelsOf, labelsToWrite, wavLabelsOf, type LabelChange } from './written';
