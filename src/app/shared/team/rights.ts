import { teamRights, type TeamRight } from '@core/schemas';

const library: Record<TeamRight, string> = {
  hear: 'search and hear',
  fetch: 'fetch files',
  'fetch many': 'fetch many files',
  add: 'add and edit',
  administer: 'administer',
};
const list: Record<TeamRight, string> = { ...library, hear: 'see and hear', add: 'change it' };

/** What a right lets one do, in words. */
export const rightWords = (of: 'library' | 'list', right: TeamRight): string =>
  (of === 'library' ? library : list)[right];

/** Rights to choose from, each more than the one before. */
export const rightOptions = (of: 'library' | 'list') =>
  teamRights.map((value) => ({ value, label: rightWords(of, value), title: rightWords(of, value) }));
