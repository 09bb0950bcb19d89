/** The floors of docs/architecture.md: a file imports from its own floor or from below, never upward. */
const above = {
  core: 'app|demo|server|platform',
  platform: 'app|demo|server',
  server: 'app|platform',
  demo: 'app|platform|server',
  app: 'server|demo',
};

/** Inside core: each folder and the core folders it may not know. */
const coreAbove = {
  files: 'scene|engine|synth|search|suggest|library|naming',
  audio: 'scene|engine|synth|search|suggest|library|naming',
  naming: 'scene|engine|synth|search|suggest',
  library: 'scene|engine|synth|search|suggest',
  search: 'scene|engine|synth',
  suggest: 'scene|engine|synth',
  engine: 'scene|search|suggest|library|naming',
  synth: 'scene|search|suggest|library|naming',
};

module.exports = {
  forbidden: [
    ...Object.entries(above).map(([floor, no]) => ({
      name: `floor-${floor}`,
      severity: 'error',
      from: { path: `^src/${floor}/` },
      to: { path: `^src/(${no})/` },
    })),
    ...Object.entries(coreAbove).map(([room, no]) => ({
      name: `room-${room}`,
      severity: 'error',
      from: { path: `^src/core/${room}/` },
      to: { path: `^src/core/(${no})/` },
    })),
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
