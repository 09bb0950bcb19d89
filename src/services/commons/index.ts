/** A commons: open sounds that others share. */
export { commonsRouter } from './router';
export { CommonsFolder } from './store';
