import type { startCatalogue } from '@platform/index';
import {
  startDeliverer,
  startFileWriter,
  startFilm,
  startIntake,
  startLabeller,
  startPublisher,
  startSharer,
  startSlicer,
  startViewer,
  type RunningLabeller,
} from '@platform/index';

// Kept outside of the stores: making a worker's proxy reactive would ask it for properties without end.

/** The catalogue, in its worker. */
export let catalogue: ReturnType<typeof startCatalogue>;

/** What stores work with, handed in once before anything is shown: a worker in the application, others in tests. */
export function handWorkers(given: typeof catalogue): void {
  catalogue = given;
}

let filming: ReturnType<typeof startFilm> | undefined;

/** The reader of pictures; started when it is first needed. */
export const film = () => (filming ??= startFilm());

let reading: ReturnType<typeof startIntake> | undefined;

/** A reader of files for what is looked at, beside those that take files in; started when it is first needed. */
export const fileReader = () => (reading ??= startIntake());

let viewing: ReturnType<typeof startViewer> | undefined;

/** What looks closely at the opened sound; started when it is first needed. */
export const viewer = () => (viewing ??= startViewer());

let slicing: ReturnType<typeof startSlicer> | undefined;

/** What cuts reels into takes; started when it is first needed. */
export const slicer = () => (slicing ??= startSlicer());

let labelling: Promise<RunningLabeller> | undefined;

/** The worker that labels many sounds at once; started when it is first needed, and again after it was ended or failed to start. */
export function labeller(): Promise<RunningLabeller> {
  if (!labelling) {
    labelling = startLabeller(catalogue);
    labelling.catch(() => (labelling = undefined));
  }
  return labelling;
}

/** Ends a labeller with all that it does; one that was started since goes on. */
export async function endLabeller(running: RunningLabeller): Promise<void> {
  running.end();
  if ((await labelling) === running) labelling = undefined;
}

let writing: ReturnType<typeof startFileWriter> | undefined;

/** The worker that writes files; started when it is first needed, and again where it failed to start. */
export function fileWriter(): ReturnType<typeof startFileWriter> {
  if (!writing) {
    writing = startFileWriter(catalogue);
    writing.catch(() => (writing = undefined));
  }
  return writing;
}

let publishing: ReturnType<typeof startPublisher> | undefined;

/** The worker that publishes libraries; started when it is first needed, and again where it failed to start. */
export function publisher(): ReturnType<typeof startPublisher> {
  if (!publishing) {
    publishing = startPublisher();
    publishing.catch(() => (publishing = undefined));
  }
  return publishing;
}

let delivering: ReturnType<typeof startDeliverer> | undefined;

/** The worker that puts the files of a scene into folders; started when it is first needed, and again where it failed to start. */
export function deliverer(): ReturnType<typeof startDeliverer> {
  if (!delivering) {
    delivering = startDeliverer();
    delivering.catch(() => (delivering = undefined));
  }
  return delivering;
}

let sharing: ReturnType<typeof startSharer> | undefined;

/** The worker that shares libraries with a team; started when it is first needed, and again where it failed to start. */
export function sharer(): ReturnType<typeof startSharer> {
  if (!sharing) {
    sharing = startSharer(catalogue);
    sharing.catch(() => (sharing = undefined));
  }
  return sharing;
}

/** A worker of its own for each mix that is rendered. */
export { startMixer } from '@platform/index';
