/** The lock under which the store is changed. */
export const EDITS = 'cormorant-edits';

/** Does something while nobody else holds a lock, in this tab or another. */
export const underLock = <T>(name: string, task: () => Promise<T>): Promise<T> =>
  navigator.locks.request(name, task) as unknown as Promise<T>;

/** The lock under which a root is looked through, or written to. */
export const rootLock = (rootId: number): string => `cormorant-intake-${rootId}`;
/** The lock under which a library of the team is followed. */
export const teamLock = (rootId: number): string => `cormorant-team-${rootId}`;
/** The lock under which files are written. */
export const WRITING = 'cormorant-writing';

/** Does something while nobody else holds any of some locks; taken in one order, so that two never wait for each other. */
export function underLocks<T>(names: readonly string[], task: () => Promise<T>): Promise<T> {
  const [first, ...rest] = [...names].sort();
  return first === undefined ? task() : underLock(first, () => underLocks(rest, task));
}
