/** Unit tests sit beside their source; integration and golden tests in tests/. */
export default {
  testMatch: [
    '<rootDir>/src/**/*.test.ts',
    '<rootDir>/tests/integration/**/*.test.ts',
    '<rootDir>/tests/golden/**/*.test.ts',
  ],
  testEnvironment: 'node',
  setupFiles: ['<rootDir>/tests/helpers/set-up.ts'],
  // the machine does nothing else meanwhile
  maxWorkers: '100%',
  // looking Math up through the sandbox is ten times slower than the work itself
  sandboxInjectedGlobals: ['Math'],
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transformIgnorePatterns: [
    '/node_modules/(?!(@noble|client-zip|d3-[a-z]+|internmap|geotiff|quick-lru|lerc|zstddec|xml-utils|web-worker|three)/)',
  ],
  transform: {
    '^.+\\.(tsx?|js)$': [
      '@swc/jest',
      {
        jsc: {
          target: 'es2022',
          parser: { syntax: 'typescript', tsx: true },
          transform: { react: { runtime: 'automatic' } },
        },
        module: { type: 'es6' },
      },
    ],
  },
  moduleNameMapper: { '^@/(.*)$': '<rootDir>/src/$1', '^(\\.{1,2}/.*)\\.js$': '$1' },
  modulePathIgnorePatterns: ['<rootDir>/.next/', '<rootDir>/dist/'],
};
