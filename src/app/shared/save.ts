import { tell } from '../shell/notice';

/** Saves data as a file, where the browser puts downloads. */
export function save(data: BlobPart, type: string, name: string): void {
  const url = URL.createObjectURL(new Blob([data], { type }));
  const link = Object.assign(document.createElement('a'), { href: url, download: name });
  link.click();
  setTimeout(() => URL.revokeObjectURL(url), 30_000);
  tell.done(`Saved ${name}`);
}
