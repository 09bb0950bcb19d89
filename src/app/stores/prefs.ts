import { useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, watchEffect } from 'vue';
import { paint, palettes, type ThemeName } from '../theme/tokens';

/** What one person likes: theme, whether moving to a row plays it, side columns. Kept by the browser. */
export const usePrefs = defineStore('prefs', () => {
  const theme = useLocalStorage<ThemeName>('theme', 'dark');
  const playOnMove = useLocalStorage('play-on-move', true);
  const loop = useLocalStorage('loop', false);
  const side = useLocalStorage('side-column', true);
  const facets = useLocalStorage('facet-column', true);
  /** Whether the details of the current sound stand where the facets would. */
  const details = useLocalStorage('details', false);
  watchEffect(() => paint(theme.value));
  const palette = computed(() => palettes[theme.value]);
  return { theme, palette, playOnMove, loop, side, facets, details };
});
