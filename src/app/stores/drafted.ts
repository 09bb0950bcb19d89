import { useDebounceFn } from '@vueuse/core';

/** A hand rests that did nothing for so long. Milliseconds. */
const QUIET = 350;

/**
 * What a hand turns: seen and heard at once, and kept as one step once the hand rests.
 * @param draft where it lies meanwhile; @param keep keeps it under the name of the step
 * @returns lays a new draft over the one before
 */
export function drafted<T>(
  draft: { value: T | undefined },
  keep: (label: string, value: T) => Promise<unknown>,
): (label: string, value: T) => void {
  let label = '';
  const settled = useDebounceFn(async () => {
    const last = draft.value;
    if (last === undefined) return;
    await keep(label, last);
    // The hand may have gone on meanwhile.
    if (draft.value === last) draft.value = undefined;
  }, QUIET);
  return (what, value) => {
    label = what;
    draft.value = value;
    void settled();
  };
}
