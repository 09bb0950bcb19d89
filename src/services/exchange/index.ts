/** An exchange of labels: what publishers say of sounds, found by the sounds themselves. */
export { exchangeRouter } from './router';
export { ExchangeFolder } from './store';
export type { KeptPublisher } from './model';
