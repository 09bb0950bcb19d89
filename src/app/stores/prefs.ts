import { StorageSerializers, useLocalStorage } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, watchEffect } from 'vue';
import type { Job } from '@core/scene';
import { paint, palettes, type ThemeName } from '../theme/tokens';

/** How long a sound plays that is asked for. */
export type PlayMode = 'once' | 'held' | 'looped';
export const playModes: readonly PlayMode[] = ['once', 'held', 'looped'];

/** What edges of regions are drawn to. */
export type Snap = 'nothing' | 'zero crossings' | 'onsets';
export const snaps: readonly Snap[] = ['nothing', 'zero crossings', 'onsets'];

/** How sounds are taken away as files. */
export interface Taking {
  /** Bits, with an f behind for floating point and the word flac for FLAC. */
  depth: string;
  /** Hz; 0 for that of each sound. */
  rate: number;
  dither: boolean;
  region: boolean;
  shaped: boolean;
  /** Of their names; those of their files when empty. */
  pattern: string;
}

/** A column of the label table. */
export interface TableColumn {
  key: string;
  /** Pixels. */
  width: number;
  /** Stays in place while the others scroll. */
  pinned?: boolean;
}

/** Columns and order of the label table under a name. */
export interface TableView {
  name: string;
  columns: TableColumn[];
  sort?: { key: string; down: boolean };
}

/** The columns to begin with. */
export const usualView: TableView = {
  name: 'Usual',
  columns: [
    { key: 'file', width: 210, pinned: true },
    { key: 'fxName', width: 170 },
    { key: 'catId', width: 200 },
    { key: 'keywords', width: 170 },
    { key: 'description', width: 200 },
    { key: 'tags', width: 110 },
    { key: 'stars', width: 90 },
    { key: 'folder', width: 150 },
  ],
};

/** What one person likes: theme, whether moving to a row plays it, side columns. Kept by the browser. */
export const usePrefs = defineStore('prefs', () => {
  const theme = useLocalStorage<ThemeName>('theme', 'dark');
  /** Whose labels were looked up last, and as whom they were published. */
  const publisher = useLocalStorage('publisher', '');
  const publishedAs = useLocalStorage('published-as', '');
  /** What mixes are made for. */
  const job = useLocalStorage<Job>('job', 'commercial');
  const playOnMove = useLocalStorage('play-on-move', true);
  /** Whether a sound is played once, while the key is down, or round and round. */
  const playMode = useLocalStorage<PlayMode>('play-mode', 'once');
  /** Whether regions are passed over, and sounds played whole. */
  const playWhole = useLocalStorage('play-whole', false);
  /** LUFS to which candidates are brought; 0 leaves them as they are. */
  const levelTo = useLocalStorage('level-to', 0);
  /** Seconds for which each sound is heard while the list plays through. */
  const throughSeconds = useLocalStorage('through-seconds', 4);
  /** Whether the opened sound shows its spectrogram, and its channels apart. */
  const spectral = useLocalStorage('spectral', false);
  const splitChannels = useLocalStorage('split-channels', false);
  /** Whether instruments are listened to, which one (all when empty), and whether a harder stroke is louder. */
  const midi = useLocalStorage('midi', false);
  const midiInput = useLocalStorage('midi-input', '');
  const velocity = useLocalStorage('velocity', true);
  /** Keys that sound at once at the most. */
  const voices = useLocalStorage('voices', 32);
  /** Commands that keys and controllers of an instrument do, by `Key 36` or `Controller 20`. */
  const midiCommands = useLocalStorage<Record<string, string>>('midi-commands', {});
  /** A player's reaction, ms, once it was measured; and whether it is taken out of what is played to the picture. */
  const reaction = useLocalStorage<{ median: number; spread: number } | null>('reaction', null, {
    serializer: StorageSerializers.object,
  });
  const withoutReaction = useLocalStorage('without-reaction', true);
  /** The keys of an instrument that play pads, by the pad's number. */
  const padNotes = useLocalStorage<Record<number, number>>('pad-notes', {});
  /** Whether keys to play the current sound are shown. */
  const keyboard = useLocalStorage('keyboard', false);
  const snap = useLocalStorage<Snap>('snap', 'nothing');
  /** How sounds were taken away as files last. */
  const taking = useLocalStorage<Taking>(
    'taking',
    { depth: '24', rate: 0, dither: true, region: true, shaped: true, pattern: '' },
    { mergeDefaults: true },
  );
  /** Whether rows of sounds have one line instead of two. */
  const compact = useLocalStorage('compact', false);
  const side = useLocalStorage('side-column', true);
  const facets = useLocalStorage('facet-column', true);
  /** Whether the details of the current sound stand where the facets would. */
  const details = useLocalStorage('details', false);
  /** Whether choosing a category keeps the words of the old one in VendorCategory. */
  const keepVendor = useLocalStorage('keep-vendor-category', true);
  /** CatIDs chosen last, newest first. */
  const recentCategories = useLocalStorage<string[]>('recent-categories', []);
  /** What columns of sheets were taken for, by their heads. */
  const sheetMappings = useLocalStorage<Record<string, (string | null)[]>>('sheet-mappings', {});
  const tableViews = useLocalStorage<TableView[]>('table-views', []);
  const tableView = useLocalStorage<TableView>('table-view', usualView);
  /** Fields whose values are counted beside the list, and numbers that are counted by spans. */
  const facetKeys = useLocalStorage<string[]>('facet-keys', ['catId', 'library', 'licence', 'kind']);
  const histogramKeys = useLocalStorage<string[]>('histogram-keys', ['length']);
  /** What the side column shows, and by which fields it is browsed; by folders when there are none. */
  const sideShows = useLocalStorage<'lists' | 'browse'>('side-shows', 'lists');
  const treeKeys = useLocalStorage<string[]>('tree-keys', []);
  /** The fields of the plot: to the right, upward. */
  const plotAxes = useLocalStorage<[string, string]>('plot-axes', ['length', 'brightness']);
  /** What a newcomer may try first: whether that is shown, and what of it was done. */
  const firstSteps = useLocalStorage<{ shown: boolean; done: string[] }>('first-steps', { shown: false, done: [] });
  watchEffect(() => paint(theme.value));
  const palette = computed(() => palettes[theme.value]);
  return {
    firstSteps,
    publisher,
    publishedAs,
    job,
    theme,
    palette,
    playOnMove,
    playMode,
    playWhole,
    levelTo,
    throughSeconds,
    midi,
    midiInput,
    velocity,
    voices,
    midiCommands,
    reaction,
    withoutReaction,
    padNotes,
    keyboard,
    compact,
    snap,
    taking,
    spectral,
    splitChannels,
    side,
    facets,
    details,
    keepVendor,
    sideShows,
    treeKeys,
    plotAxes,
    facetKeys,
    histogramKeys,
    recentCategories,
    sheetMappings,
    tableViews,
    tableView,
  };
});
