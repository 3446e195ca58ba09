import { existsSync, readdirSync, readFileSync } from 'node:fs';
import path from 'node:path';

const packages = path.join(import.meta.dirname, 'node_modules');
const isModule = (name) => {
  const file = path.join(packages, name, 'package.json');
  return existsSync(file) && JSON.parse(readFileSync(file, 'utf8')).type === 'module';
};
/** Packages that are modules only, which the tests run as CommonJS. */
const modules = readdirSync(packages)
  .flatMap((name) =>
    name.startsWith('@') ? readdirSync(path.join(packages, name)).map((n) => `${name}/${n}`) : [name],
  )
  .filter(isModule);

/** Unit tests sit beside their source; integration and golden tests in tests/. */
export default {
  testMatch: [
    '<rootDir>/src/**/*.test.ts',
    '<rootDir>/tests/integration/**/*.test.ts',
    '<rootDir>/tests/golden/**/*.test.ts',
  ],
  testEnvironment: '<rootDir>/tests/helpers/environment.cjs',
  // a test that hangs is ended; on a busy machine a slow one is not
  testTimeout: 60_000,
  globalSetup: '<rootDir>/tests/helpers/build-cli.mjs',
  setupFiles: ['<rootDir>/tests/helpers/set-up.ts'],
  // the machine does nothing else meanwhile
  maxWorkers: '100%',
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transformIgnorePatterns: [`/node_modules/(?!(${[...modules, 'three', 'geotiff'].join('|')})/)`],
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
