import { statSync } from 'node:fs';
import { TeamFolder } from './store';

/** A team: people, and the libraries and lists that they share. */
export { Team, type TeamOptions } from './router';
export { TeamFolder } from './store';

/**
 * A team in its folder, with storages that are gone through by themselves.
 * @throws Error where a storage is no folder
 */
export function teamIn(folder: string, storages: readonly string[] = []): TeamFolder {
  for (const storage of storages)
    if (!statSync(storage, { throwIfNoEntry: false })?.isDirectory())
      throw new Error(`${storage}, where files of the team are to lie, is no folder.`);
  const team = new TeamFolder(folder, storages);
  void team.storage?.look().then(
    (count) => console.log(`${count} files lie in the storage of the team; they are not sent.`),
    (error: Error) => console.error(`What lies in the storage of the team cannot be told: ${error.message}`),
  );
  return team;
}
