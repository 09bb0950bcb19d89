/**
 * Every room of the house, and the rooms that it may know beside itself: docs/architecture.md in code. What is not listed is not allowed;
 * a room that is new stands here first.
 */
const core = {
  generated: [],
  files: ['generated'],
  audio: ['generated'],
  naming: [],
  meaning: ['generated', 'naming'],
  library: ['files', 'audio', 'naming'],
  schemas: ['generated', 'library', 'naming'],
  search: ['generated', 'library', 'naming'],
  suggest: ['audio', 'library', 'naming'],
  effects: ['generated', 'audio'],
  engine: ['generated', 'audio', 'effects'],
  elsewhere: ['audio', 'files', 'library', 'naming', 'schemas', 'search', 'scene'],
  synth: ['files', 'audio'],
  timeline: ['audio', 'scene'],
  scene: ['files', 'audio', 'library', 'naming', 'schemas', 'effects', 'engine'],
  build: ['files', 'audio', 'library', 'schemas', 'effects', 'engine', 'scene', 'synth', 'timeline'],
};
const platform = {
  store: [],
  files: ['store'],
  finding: ['store'],
  audio: ['store', 'files'],
  catalogue: ['store', 'finding'],
  intake: ['store', 'files', 'audio', 'catalogue'],
  labelling: ['store', 'catalogue', 'elsewhere'],
  out: ['store', 'files', 'audio', 'catalogue', 'labelling'],
  elsewhere: ['store', 'files'],
  team: ['store', 'files', 'catalogue', 'labelling', 'elsewhere', 'audio', 'out'],
  workers: ['store', 'files', 'finding', 'audio', 'catalogue', 'intake', 'labelling', 'out', 'team'],
};
/** What screens share stands below them; a store may be shown by any of them, and knows a few of the shared pieces. */
const shared = ['shared', 'stores', 'shell', 'theme'];
const app = {
  theme: [],
  stores: ['shared', 'shell', 'theme'],
  shared,
  shell: [...shared, 'find', 'loose', 'small'],
  side: shared,
  find: [...shared, 'side'],
  intake: shared,
  label: [...shared, 'side', 'find'],
  build: shared,
  spot: shared,
  deliver: [...shared, 'find'],
  loose: [...shared, 'find'],
  small: shared,
  host: ['theme', 'shared'],
  diagnostics: shared,
};
const any = (names) => `(${names.join('|')})`;
/** Rules that let each room of a floor know itself and those that it lists. */
const within = (floor, rooms) =>
  Object.entries(rooms).map(([room, known]) => ({
    from: { path: `^src/${floor}/${room}/` },
    to: { path: `^src/${floor}/${any([room, ...known])}/` },
  }));
const floors = [
  { from: { path: '^src/platform/' }, to: { path: '^src/core/' } },
  { from: { path: '^src/app/' }, to: { path: '^src/(core|platform)/' } },
  { from: { path: '^src/(server|services|demo)/' }, to: { path: '^src/core/' } },
  { from: { path: '^src/(server|services|demo)/' }, to: { path: '^src/$1/' } },
  // A service may run within the server of the page.
  { from: { path: '^src/server/' }, to: { path: '^src/services/[^/]+/index\\.ts$' } },
  // The faces of floors: the platform's index, and the page with its stages.
  { from: { path: '^src/platform/index\\.ts$' }, to: { path: '^src/platform/' } },
  { from: { path: '^src/app/[^/]+$' }, to: { path: '^src/app/' } },
  { from: { path: '^src/app/shell/' }, to: { path: '^src/app/stages\\.ts$' } },
];

module.exports = {
  allowedSeverity: 'error',
  allowed: [
    ...floors,
    ...within('core', core),
    ...within('platform', platform),
    ...within('app', app),
    // Packages, what Node.js brings, and data files.
    { from: {}, to: { pathNot: '^src/' } },
  ],
  forbidden: [
    {
      name: 'through-the-face',
      comment: 'Other folders import a core folder through its index.ts.',
      severity: 'error',
      from: { path: '^src/(core/([^/]+)|[^/]+)/' },
      to: {
        path: '^src/core/[^/]+/.+',
        pathNot: ['^src/core/[^/]+/index\\.ts$', '^src/core/generated/', '^src/core/$2/', '\\.json$'],
      },
    },
    {
      name: 'core-is-pure',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { dependencyTypes: ['core'] },
    },
    {
      name: 'core-without-frameworks',
      severity: 'error',
      from: { path: '^src/core/' },
      to: { path: 'node_modules/(vue|dexie|pinia|ant-design-vue|comlink|express)/' },
    },
    { name: 'no-cycles', severity: 'error', from: {}, to: { circular: true } },
    {
      name: 'not-found',
      severity: 'error',
      from: {},
      to: { couldNotResolve: true, pathNot: ['\\?worker', 'generated'] },
    },
  ],
  options: {
    doNotFollow: { path: 'node_modules' },
    tsPreCompilationDeps: true,
    tsConfig: { fileName: 'tsconfig.json' },
    enhancedResolveOptions: {
      exportsFields: ['exports'],
      conditionNames: ['import', 'require', 'node', 'default', 'types'],
    },
  },
};
