import { startCatalogue, startFilm, startIntake } from '@platform/index';

// Kept outside of the stores: making a worker's proxy reactive would ask it for properties without end.

/** The catalogue, in its worker. */
export const catalogue = startCatalogue();

/** The reader of pictures, in its worker. */
export const film = startFilm();

let reading: ReturnType<typeof startIntake> | undefined;

/** A reader of files for what is looked at, beside those that take files in; started when it is first needed. */
export const fileReader = () => (reading ??= startIntake());
