export default {
  testMatch: ['<rootDir>/tests/{core,server,demo,platform,app,truth}/**/*.test.ts'],
  transform: {
    '^.+\\.(ts|js)$': [
      '@swc/jest',
      { jsc: { parser: { syntax: 'typescript' }, target: 'es2022' }, module: { type: 'commonjs' } },
    ],
  },
  moduleNameMapper: { '^@(core|demo|server|platform|app)/(.*)$': '<rootDir>/src/$1/$2' },
  transformIgnorePatterns: ['/node_modules/(?!(fast-png|iobuffer|fflate|wasm-media-encoders)/)'],
  testEnvironment: 'node',
  // Jest would leave one of two cores idle.
  maxWorkers: 2,
  // Machines differ; nothing here is meant to be a race.
  testTimeout: 60_000,
};
