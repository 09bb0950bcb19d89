/** What comes in from outside: its shapes, their schemas and the check. */
export * from './shapes';
export type { DeliveredFile, DeliveryManifest, PullFile } from './own-files';
export type { OfferedFile, OpenPage, OpenService, OpenSound, Services } from './services';
export * from './exchange';
export type * from './host';
export type * from './project-file';
export * from './team';
export { colours, type Colour } from './parts';
export { checked, checkedFile } from './check';
export { faultInWords, mended, recordFault, referencesOf, type RecordFault, type Reference } from './check-records';
export * as validators from '../generated/validators';
