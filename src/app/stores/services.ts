import { knownServices } from '@platform/index';
import type { Services } from '@core/schemas';
import { defineStore } from 'pinia';
import { shallowRef } from 'vue';

/** The services that our own server knows of; asked for once. */
export const useServices = defineStore('services', () => {
  const known = shallowRef<Services>({});
  let looked: Promise<Services> | undefined;
  const look = (): Promise<Services> =>
    (looked ??= knownServices().then((found) => {
      known.value = found;
      return found;
    }));
  return { known, look };
});
