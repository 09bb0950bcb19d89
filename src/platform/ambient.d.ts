// Parts of the File System Access and AudioWorklet standards that TypeScript's DOM library does not declare.
interface FileSystemHandle {
  queryPermission?(options: { mode: 'read' | 'readwrite' }): Promise<PermissionState>;
  requestPermission?(options: { mode: 'read' | 'readwrite' }): Promise<PermissionState>;
}
interface DataTransferItem {
  getAsFileSystemHandle?(): Promise<FileSystemHandle | null>;
}
interface Window {
  showDirectoryPicker?(options?: { id?: string; mode?: 'read' | 'readwrite' }): Promise<FileSystemDirectoryHandle>;
  showOpenFilePicker?(options?: object): Promise<FileSystemFileHandle[]>;
}
interface FileSystemFileHandle {
  move(name: string): Promise<void>;
  createSyncAccessHandle(): Promise<{
    truncate(size: number): void;
    write(bytes: Uint8Array<ArrayBuffer>, options: { at: number }): number;
    getSize(): number;
    flush(): void;
    close(): void;
  }>;
}
declare module 'signalsmith-stretch';
