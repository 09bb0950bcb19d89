import { checked, validators } from '@core/schemas';

/** Waits until a folder has been still for this long before it is looked through. Milliseconds. */
const STILL = 700;

/** Calls back once after a burst of calls. */
function settled(task: () => void): () => void {
  let timer: ReturnType<typeof setTimeout> | undefined;
  return () => {
    clearTimeout(timer);
    timer = setTimeout(task, STILL);
  };
}

/**
 * Watches a picked folder, where the browser can.
 * @returns what ends it; undefined when this browser has no observer for folders
 */
export async function observeFolder(
  folder: FileSystemDirectoryHandle,
  changed: () => void,
): Promise<(() => void) | undefined> {
  const { FileSystemObserver: Observer } = globalThis as { FileSystemObserver?: FolderObserverClass };
  if (!Observer) return undefined;
  const observer = new Observer(settled(changed));
  try {
    await observer.observe(folder, { recursive: true });
  } catch {
    return undefined;
  }
  return () => observer.disconnect();
}

/** FileSystemObserver of the File System standard's draft, which TypeScript does not declare yet. */
type FolderObserverClass = new (callback: () => void) => {
  observe(handle: FileSystemHandle, options: { recursive: boolean }): Promise<void>;
  disconnect(): void;
};

/**
 * Follows what our own server tells of changes below its roots.
 * @param back the server is there again after it was away
 * @returns what ends it
 */
export function serverChanges(changed: (serverId: string) => void, back: () => void): () => void {
  const events = new EventSource('/api/changes');
  let away = false;
  events.onerror = () => (away = true);
  events.onopen = () => {
    if (away) back();
    away = false;
  };
  events.onmessage = (event: MessageEvent<string>) => {
    changed(
      checked<{ id: string }>(JSON.parse(event.data), validators.rootRequest, 'a change that the server told of').id,
    );
  };
  return () => events.close();
}
