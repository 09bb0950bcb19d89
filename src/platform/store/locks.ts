/** The lock under which the store is changed. */
export const EDITS = 'cormorant-edits';

/** Does something while nobody else holds a lock, in this tab or another. */
export const underLock = <T>(name: string, task: () => Promise<T>): Promise<T> =>
  navigator.locks.request(name, task) as unknown as Promise<T>;
