import type { FileEntry } from '@zip.js/zip.js';

/** Lets through as many bytes as an entry of an archive says that it has. What unpacks to more than it says, as bombs do, ends there, and not in memory. */
export function boundedTo(size: number): TransformStream<Uint8Array, Uint8Array> {
  let left = size;
  return new TransformStream({
    transform(part, control) {
      left -= part.length;
      if (left < 0) throw new Error('it is longer in the archive than it says');
      control.enqueue(part);
    },
    flush() {
      if (left > 0) throw new Error('it is shorter in the archive than it says');
    },
  });
}

/** Whether a file is an archive, by its first bytes. */
export async function isArchive(file: Blob): Promise<boolean> {
  const head = new Uint8Array(await file.slice(0, 2).arrayBuffer());
  return head[0] === 0x50 && head[1] === 0x4b;
}

/** An entry as a file of its own. @throws Error where it is not as long as it says */
export async function fileIn(entry: FileEntry): Promise<File> {
  const { readable, writable } = boundedTo(entry.uncompressedSize);
  const [blob] = await Promise.all([new Response(readable).blob(), entry.getData(writable)]);
  return new File([blob], entry.filename);
}

/** The text of an entry, UTF-8. @throws Error where that is not as long as the entry says */
export async function textIn(entry: FileEntry): Promise<string> {
  const { readable, writable } = boundedTo(entry.uncompressedSize);
  const read = async (): Promise<string> => {
    const decoder = new TextDecoder();
    const reader = readable.getReader();
    let text = '';
    for (;;) {
      const { done, value } = await reader.read();
      if (done) return text + decoder.decode();
      text += decoder.decode(value, { stream: true });
    }
  };
  const [text] = await Promise.all([read(), entry.getData(writable)]);
  return text;
}
