import { mkdirSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';

/** Makes folders below one, each with the files that it is given, by their paths. */
export function foldersIn(top: string): (files: Record<string, string>) => string {
  let count = 0;
  return (files) => {
    const folder = join(top, `folder ${count++}`);
    mkdirSync(folder);
    for (const [path, content] of Object.entries(files)) {
      mkdirSync(dirname(join(folder, path)), { recursive: true });
      writeFileSync(join(folder, path), content);
    }
    return folder;
  };
}
