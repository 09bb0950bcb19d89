import { tell } from '../../shell/notice';
import { fileNameOf } from '@platform/index';

/** Saves data as a file, where the browser puts downloads. */
export function save(data: BlobPart, type: string, name: string): void {
  saveBlob(new Blob([data], { type }), name);
}

/** The same for what is a blob already. */
export function saveBlob(blob: Blob, name: string): void {
  const url = URL.createObjectURL(blob);
  const link = Object.assign(document.createElement('a'), { href: url, download: fileNameOf(name) });
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 30_000);
  tell.done(`Saved ${link.download}`);
}
