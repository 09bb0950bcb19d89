import { keysIn } from '../signed';
import { placeOf } from './places';
import { TeamFolder } from './store';

/** A team: people, and the libraries and lists that they share. */
export { Team, type TeamOptions } from './router';
export { TeamFolder } from './store';

/**
 * A team in its folder, with storages that are gone through by themselves.
 * @param storages folders, or addresses of buckets, whose keys stand in the environment
 * @throws Error where a storage is neither
 */
export function teamIn(folder: string, storages: readonly string[] = []): TeamFolder {
  const keys = keysIn(process.env.CORMORANT_STORAGE_KEYS);
  const team = new TeamFolder(
    folder,
    storages.map((named) => placeOf(named, keys)),
  );
  void team.storage?.look().then(
    (count) => console.log(`${count} files lie in the storage of the team; they are not sent.`),
    (error: Error) => console.error(`What lies in the storage of the team cannot be told: ${error.message}`),
  );
  return team;
}

/** A storage as it is named on the command line, by its whole path from a folder. */
export const storageFrom = (named: string, folderOf: (name: string) => string): string =>
  /^https?:\/\//i.test(named) ? named : folderOf(named);
