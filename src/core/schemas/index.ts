/** What comes in from outside: its shapes, their schemas and the check. */
export * from './shapes';
export { checked, checkedFile } from './check';
export * as validators from '../generated/validators';
