import { startCatalogue, startFilm } from '@platform/index';

// Kept outside of the stores: making a worker's proxy reactive would ask it for properties without end.

/** The catalogue, in its worker. */
export const catalogue = startCatalogue();

/** The reader of pictures, in its worker. */
export const film = startFilm();
