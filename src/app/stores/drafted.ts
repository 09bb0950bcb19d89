import { useDebounceFn } from '@vueuse/core';

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;

/** Lays a new draft over the one before, under the name of the step that it will be. */
export interface Drafting<T> {
  (label: string, value: T): void;
  /** Keeps what lies there at once: another step is about to follow. */
  rest(): Promise<void>;
}

/**
 * What a hand turns: seen and heard at once, and kept as one step once the hand rests.
 * @param draft where it lies meanwhile; @param keep keeps it under the name of the step
 */
export function drafted<T>(
  draft: { value: T | undefined },
  keep: (label: string, value: T) => Promise<unknown>,
): Drafting<T> {
  let label: string | undefined;
  async function rest(): Promise<void> {
    const [what, last] = [label, draft.value];
    label = undefined;
    if (what === undefined || last === undefined) return;
    await keep(what, last);
    // The hand may have gone on meanwhile.
    if (draft.value === last) draft.value = undefined;
  }
  const settled = useDebounceFn(rest, QUIET);
  const set = (what: string, value: T) => {
    label = what;
    draft.value = value;
    void settled();
  };
  return Object.assign(set, { rest });
}
