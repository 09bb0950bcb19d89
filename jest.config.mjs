export default {
  testMatch: ['<rootDir>/tests/{core,server,services,demo,platform,app,truth}/**/*.test.ts'],
  transform: {
    '^.+\\.(ts|m?js)$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  moduleNameMapper: {
    '\\?worker&url$': '<rootDir>/tests/helpers/worker-url.ts',
    '^@(core|demo|server|services|platform|app)/(.*)$': '<rootDir>/src/$1/$2',
  },
  transformIgnorePatterns: [
    '/node_modules/(?!(@vueuse/core|@vueuse/shared|fast-png|iobuffer|fflate|client-zip|wasm-media-encoders|filenamify|filename-reserved-regex)/)',
  ],
  setupFiles: ['<rootDir>/tests/helpers/setup.ts'],
  setupFilesAfterEnv: ['<rootDir>/tests/helpers/equal.ts'],
  // What is written once a test is over is written to stand-ins that are still there.
  testEnvironmentOptions: { globalsCleanup: 'off' },
  testEnvironment: 'node',
  // Globals are looked up through the sandbox at every use otherwise, which makes arithmetic many times as slow.
  sandboxInjectedGlobals: [
    ...['Math', 'Number', 'ArrayBuffer', 'DataView', 'Float32Array', 'Float64Array'],
    ...['Int8Array', 'Uint8Array', 'Int16Array', 'Uint16Array', 'Int32Array', 'Uint32Array'],
  ],
  // Jest would leave one of two cores idle.
  maxWorkers: 2,
  // Machines differ; nothing here is meant to be a race.
  testTimeout: 120_000,
};
