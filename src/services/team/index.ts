/** A team: people, and the libraries and lists that they share. */
export { Team, type TeamOptions } from './router';
export { TeamFolder } from './store';
