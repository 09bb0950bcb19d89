import type { Recipe, Step } from './recipe';

const clean = (to: string): Step[] => [
  { kind: 'pattern', on: true, to, find: '[_.]+', with: ' ', matchCase: false },
  { kind: 'pattern', on: true, to, find: '\\s{2,}', with: ' ', matchCase: false },
  { kind: 'trim', on: true, to, side: 'both', count: 0, characters: '-,;' },
];

/** Recipes to begin with; whoever changes one makes it a recipe of their own. */
export const starters: readonly Omit<Recipe, 'id'>[] = [
  {
    name: 'Clean up names',
    steps: [
      ...clean('fxName'),
      { kind: 'pattern', on: true, to: 'fxName', find: '\\s*\\b(?:take|tk)?\\s*\\d{1,3}$', with: '', matchCase: false },
      { kind: 'case', on: true, to: 'fxName', form: 'title' },
    ],
  },
  {
    name: 'Description from name, folder and perspective',
    steps: [
      {
        kind: 'join',
        on: true,
        of: ['fxName', 'distance', 'folder'],
        with: ', ',
        to: 'description',
        when: { field: 'description', test: 'empty' },
      },
      { kind: 'replace', on: true, to: 'description', find: '/', with: ', ', matchCase: false, wholeWords: false },
      { kind: 'case', on: true, to: 'description', form: 'sentence' },
    ],
  },
  {
    name: 'Short names for creator and library',
    steps: [
      {
        kind: 'shortName',
        on: true,
        from: 'author',
        to: 'creatorId',
        way: 'shorten',
        when: { field: 'creatorId', test: 'empty' },
      },
      {
        kind: 'shortName',
        on: true,
        from: 'library',
        to: 'sourceId',
        way: 'shorten',
        when: { field: 'sourceId', test: 'empty' },
      },
    ],
  },
  {
    name: 'Take behind the name',
    steps: [{ kind: 'join', on: true, of: ['fxName', 'take'], with: ' ', to: 'fxName' }],
  },
  {
    name: 'Facts into the notes',
    steps: [
      {
        kind: 'set',
        on: true,
        to: 'notes',
        text: '{length} s, {channels} channels, {loudness} LUFS, force {force}',
        when: { field: 'notes', test: 'empty' },
      },
    ],
  },
];
