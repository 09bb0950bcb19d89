/** A file handle of the File System Access standard, over bytes in memory. */
export function fileHandle(
  name: string,
  bytes: Uint8Array,
  permission: PermissionState = 'granted',
  keep: (bytes: Uint8Array) => void = () => undefined,
): FileSystemFileHandle {
  let now = bytes;
  return {
    kind: 'file',
    name,
    queryPermission: () => Promise.resolve(permission),
    createWritable: (options?: { keepExistingData?: boolean }) => {
      // A copy of the browser's own, which takes the file's place when it is closed.
      let made = options?.keepExistingData ? now.slice() : new Uint8Array();
      let at = 0;
      type Part = Blob | Uint8Array | { type: 'write'; position: number; data: Uint8Array };
      const write = async (part: Part) => {
        if ('position' in part) at = part.position;
        const data =
          part instanceof Uint8Array
            ? part
            : part instanceof Blob
              ? new Uint8Array(await part.arrayBuffer())
              : part.data;
        const grown = new Uint8Array(Math.max(made.length, at + data.length));
        grown.set(made);
        grown.set(data, at);
        made = grown;
        at += data.length;
      };
      const truncate = (size: number) => Promise.resolve(void (made = made.slice(0, size)));
      return Promise.resolve({
        write,
        truncate,
        close: () => Promise.resolve(keep((now = made))),
        abort: () => Promise.resolve(),
      });
    },
    getFile: () => Promise.resolve(new File([now as Uint8Array<ArrayBuffer>], name, { lastModified: 1234 })),
  } as unknown as FileSystemFileHandle;
}

/** What a folder holds: files as bytes, folders as further trees. */
export interface Tree {
  [name: string]: Uint8Array | Tree;
}

/** A folder handle over a tree; asking it for what is not there fails as the standard says. */
export function folderHandle(
  name: string,
  tree: Tree,
  permission: PermissionState = 'granted',
): FileSystemDirectoryHandle {
  const child = (n: string, create = false) => {
    if (create) tree[n] ??= new Uint8Array();
    if (!(n in tree)) throw new DOMException('not there', 'NotFoundError');
    const at = tree[n];
    return at instanceof Uint8Array ? fileHandle(n, at, permission, (bytes) => (tree[n] = bytes)) : folderHandle(n, at);
  };
  return {
    kind: 'directory',
    name,
    queryPermission: () => Promise.resolve(permission),
    async *entries() {
      for (const n of Object.keys(tree)) yield [n, child(n)];
    },
    getDirectoryHandle: (n: string, options?: { create?: boolean }) =>
      Promise.resolve().then(() => {
        if (options?.create) tree[n] ??= {};
        return child(n);
      }),
    removeEntry: (n: string) =>
      Promise.resolve().then(() => {
        const at = child(n) && tree[n];
        if (!(at instanceof Uint8Array) && Object.keys(at).length > 0)
          throw new DOMException('not empty', 'InvalidModificationError');
        delete tree[n];
      }),
    getFileHandle: (n: string, options?: { create?: boolean }) =>
      Promise.resolve().then(() => child(n, options?.create)),
  } as unknown as FileSystemDirectoryHandle;
}
