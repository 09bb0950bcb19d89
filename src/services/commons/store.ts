import type { OfferedFile, OpenSound } from '@core/schemas';
import { readFileSync, statSync } from 'node:fs';
import { join, resolve } from 'node:path';

/** A commons as a folder: `sounds.json` tells of the sounds, `files` holds them by the sum of their content. */
export class CommonsFolder {
  readonly sounds: readonly OpenSound[];
  private readonly files: ReadonlyMap<string, OfferedFile>;

  /** @throws Error where there is no commons */
  constructor(private readonly folder: string) {
    const list = join(folder, 'sounds.json');
    if (!statSync(list, { throwIfNoEntry: false })?.isFile())
      throw new Error(`There is no commons in ${folder}: it needs a sounds.json.`);
    this.sounds = JSON.parse(readFileSync(list, 'utf8')) as OpenSound[];
    this.files = new Map(this.sounds.flatMap((s) => [s.original, s.preview]).map((f) => [f.href, f]));
  }

  /** Where a file lies that is offered under this address; undefined where none is. */
  fileAt(href: string): { path: string; name: string } | undefined {
    const file = this.files.get(href);
    return file && { path: resolve(this.folder, 'files', file.sha256), name: file.name };
  }
}
