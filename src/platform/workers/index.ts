import { wrap, type Remote } from 'comlink';
import type { Catalogue } from '../catalogue';
import type { Film } from '../film';
import type { IntakeReader } from '../intake';
import type { AudioLoader } from '../loader';
import type { Mixer } from '../mixer';

const running = new Set<Worker>();

/** A page that is left must not hold the store from the back/forward cache; one that is returned to starts afresh. */
function kept(worker: Worker): Worker {
  if (running.size === 0) {
    addEventListener('pagehide', () => running.forEach((w) => w.terminate()));
    addEventListener('pageshow', (event) => event.persisted && location.reload());
  }
  running.add(worker);
  return worker;
}

// Each call names its file in full: the bundler finds workers by reading the code.

/** The catalogue's worker. */
export const startCatalogue = (): Remote<Catalogue> =>
  wrap(kept(new Worker(new URL('./catalogue.worker.ts', import.meta.url), { type: 'module', name: 'catalogue' })));

/** A worker that reads files for intake. */
export const startIntake = (): Remote<IntakeReader> =>
  wrap(kept(new Worker(new URL('./intake.worker.ts', import.meta.url), { type: 'module', name: 'intake' })));

/** A worker that loads sounds for the engine. */
export const startLoader = (): Remote<AudioLoader> =>
  wrap(kept(new Worker(new URL('./loader.worker.ts', import.meta.url), { type: 'module', name: 'loader' })));

/** A worker that reads pictures. */
export const startFilm = (): Remote<Film> =>
  wrap(kept(new Worker(new URL('./film.worker.ts', import.meta.url), { type: 'module', name: 'film' })));

/** A worker that mixes; the caller ends it by `end`, which is also how a mix is cancelled. */
export function startMixer(): { mixer: Remote<Pick<Mixer, 'mix'>>; end: () => void } {
  const worker = new Worker(new URL('./mixer.worker.ts', import.meta.url), { type: 'module', name: 'mixer' });
  return { mixer: wrap(worker), end: () => worker.terminate() };
}
