import { proxy, transfer, wrap, type Remote } from 'comlink';
import type { Catalogue } from '../catalogue/catalogue';
import type { Conductor } from '../intake/conductor';
import type { WorkReport } from '../intake/work';
import type { CopyFinder } from '../intake/copies';
import type { Film } from '../audio/film';
import type { IntakeReader } from '../intake/intake';
import type { Labeller } from '../labelling/labeller';
import type { Slicer } from '../audio/slicer';
import type { AudioLoader } from '../audio/loader';
import type { hashesIn } from '../audio/archived';
import type { ListReader } from '../files/lists';
import type { Maker } from '../audio/maker';
import type { Mixer } from '../out/mixer';
import type { FileWriter } from '../out/file-writer';
import type { Deliverer } from '../out/deliverer';
import type { Publisher } from '../out/publisher';
import type { Taker } from '../out/taker';
import type { Sharer } from '../team/sharer';
import type { Viewer } from '../audio/viewer';

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

/** The catalogue's worker; other workers reach it through ports that it is given. */
export const startCatalogue = (): Remote<Catalogue & { serve(port: MessagePort): void }> =>
  wrap(kept(new Worker(new URL('./catalogue.worker.ts', import.meta.url), { type: 'module', name: 'catalogue' })));

/** A worker that reads files for intake. */
export const startIntake = (): Remote<IntakeReader> =>
  wrap(kept(new Worker(new URL('./intake.worker.ts', import.meta.url), { type: 'module', name: 'intake' })));

/** A worker that loads sounds for the engine. */
export const startLoader = (): Remote<AudioLoader> =>
  wrap(kept(new Worker(new URL('./loader.worker.ts', import.meta.url), { type: 'module', name: 'loader' })));

/** A worker that looks at sounds closely. */
export const startViewer = (): Remote<Viewer> =>
  wrap(kept(new Worker(new URL('./viewer.worker.ts', import.meta.url), { type: 'module', name: 'viewer' })));

/** A worker that cuts reels into takes. */
export const startSlicer = (): Remote<Slicer> =>
  wrap(kept(new Worker(new URL('./slicer.worker.ts', import.meta.url), { type: 'module', name: 'slicer' })));

/** A worker that makes sounds from nothing; the caller ends it by `end`. */
export function startMaker(): { maker: Remote<Maker>; end: () => void } {
  const worker = kept(new Worker(new URL('./maker.worker.ts', import.meta.url), { type: 'module', name: 'maker' }));
  const end = () => {
    running.delete(worker);
    worker.terminate();
  };
  return { maker: wrap(worker), end };
}

/** A worker that reads pictures. */
export const startFilm = (): Remote<Film> =>
  wrap(kept(new Worker(new URL('./film.worker.ts', import.meta.url), { type: 'module', name: 'film' })));

/** A worker that mixes; the caller ends it by `end`, which is also how a mix is cancelled. */
export function startMixer(): {
  mixer: Remote<Pick<Mixer, 'mix' | 'stem' | 'stems' | 'measure' | 'oneShot' | 'workbook' | 'project' | 'scenes'>>;
  end: () => void;
} {
  const worker = new Worker(new URL('./mixer.worker.ts', import.meta.url), { type: 'module', name: 'mixer' });
  return { mixer: wrap(worker), end: () => worker.terminate() };
}

/** A worker that reads edit lists, timelines and projects; the caller ends it by `end`. */
export function startListReader(): { reader: Remote<ListReader & { hashes: typeof hashesIn }>; end: () => void } {
  const worker = new Worker(new URL('./lists.worker.ts', import.meta.url), { type: 'module', name: 'lists' });
  return { reader: wrap(worker), end: () => worker.terminate() };
}

/** A worker that takes sounds away as files; the caller ends it by `end`, which is also how that is cancelled. */
export function startTaker(): { taker: Remote<Pick<Taker, 'take'>>; end: () => void } {
  const worker = new Worker(new URL('./taker.worker.ts', import.meta.url), { type: 'module', name: 'taker' });
  return { taker: wrap(worker), end: () => worker.terminate() };
}

/** The worker that takes roots in, with its readers; it reaches the catalogue through a port of its own. */
export async function startConductor(
  catalogue: Remote<{ serve(port: MessagePort): void }>,
  report: (report: WorkReport) => void,
): Promise<Remote<Conductor>> {
  const worker = kept(
    new Worker(new URL('./conductor.worker.ts', import.meta.url), { type: 'module', name: 'conductor' }),
  );
  const { port1, port2 } = new MessageChannel();
  await catalogue.serve(transfer(port1, [port1]));
  type Host = { start(port: MessagePort, report: (report: WorkReport) => void): Conductor };
  return (await wrap<Host>(worker).start(transfer(port2, [port2]), proxy(report))) as unknown as Remote<Conductor>;
}

/** A worker that looks for copies; the caller ends it by `end`, which is also how the search is cancelled. */
export function startCopies(): { finder: Remote<CopyFinder>; end: () => void } {
  const worker = new Worker(new URL('./copies.worker.ts', import.meta.url), { type: 'module', name: 'copies' });
  return { finder: wrap(worker), end: () => worker.terminate() };
}

/** A running labeller; `where` shows where it stands, `end` ends it with all that it does. */
export interface RunningLabeller {
  labeller: Remote<Labeller>;
  where: Int32Array;
  end: () => void;
}

/** The worker that labels many sounds at once; it reaches the catalogue through a port of its own. */
export async function startLabeller(catalogue: Remote<{ serve(port: MessagePort): void }>): Promise<RunningLabeller> {
  const worker = kept(
    new Worker(new URL('./labeller.worker.ts', import.meta.url), { type: 'module', name: 'labeller' }),
  );
  const { port1, port2 } = new MessageChannel();
  await catalogue.serve(transfer(port1, [port1]));
  const memory = new SharedArrayBuffer(16);
  type Host = { start(port: MessagePort, memory: SharedArrayBuffer): Labeller };
  const labeller = (await wrap<Host>(worker).start(transfer(port2, [port2]), memory)) as unknown as Remote<Labeller>;
  const end = () => {
    running.delete(worker);
    worker.terminate();
  };
  return { labeller, where: new Int32Array(memory), end };
}

/** The worker that writes files; it reaches the catalogue through a port of its own. */
export async function startFileWriter(
  catalogue: Remote<{ serve(port: MessagePort): void }>,
): Promise<Remote<FileWriter>> {
  const worker = kept(
    new Worker(new URL('./file-writer.worker.ts', import.meta.url), { type: 'module', name: 'files' }),
  );
  const { port1, port2 } = new MessageChannel();
  await catalogue.serve(transfer(port1, [port1]));
  type Host = { start(port: MessagePort): FileWriter };
  return (await wrap<Host>(worker).start(transfer(port2, [port2]))) as unknown as Remote<FileWriter>;
}

/** The worker that shares libraries with a team; it reaches the catalogue through a port of its own. */
export async function startSharer(catalogue: Remote<{ serve(port: MessagePort): void }>): Promise<Remote<Sharer>> {
  const worker = kept(new Worker(new URL('./team.worker.ts', import.meta.url), { type: 'module', name: 'team' }));
  const { port1, port2 } = new MessageChannel();
  await catalogue.serve(transfer(port1, [port1]));
  type Host = { start(port: MessagePort): Sharer };
  return (await wrap<Host>(worker).start(transfer(port2, [port2]))) as unknown as Remote<Sharer>;
}

const startOut = () =>
  kept(new Worker(new URL('./publisher.worker.ts', import.meta.url), { type: 'module', name: 'publisher' }));

/** The worker that publishes libraries. */
export async function startPublisher(): Promise<Remote<Publisher>> {
  return (await wrap<{ start(): Publisher }>(startOut()).start()) as unknown as Remote<Publisher>;
}

/** The worker that puts the files of a scene into folders. */
export async function startDeliverer(): Promise<Remote<Deliverer>> {
  return (await wrap<{ deliverer(): Deliverer }>(startOut()).deliverer()) as unknown as Remote<Deliverer>;
}
