/** A file handle of the File System Access standard, over bytes in memory. */
export function fileHandle(
  name: string,
  bytes: Uint8Array,
  permission: PermissionState = 'granted',
  keep: (bytes: Uint8Array) => void = () => undefined,
): FileSystemFileHandle {
  return {
    kind: 'file',
    name,
    queryPermission: () => Promise.resolve(permission),
    createWritable: () => {
      const parts: Blob[] = [];
      const close = async () => keep(new Uint8Array(await new Blob(parts).arrayBuffer()));
      return Promise.resolve({ write: (part: Blob) => Promise.resolve(void parts.push(part)), close });
    },
    getFile: () => Promise.resolve(new File([bytes as Uint8Array<ArrayBuffer>], name, { lastModified: 1234 })),
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
    getDirectoryHandle: (n: string) => Promise.resolve().then(() => child(n)),
    getFileHandle: (n: string, options?: { create?: boolean }) =>
      Promise.resolve().then(() => child(n, options?.create)),
  } as unknown as FileSystemDirectoryHandle;
}
