const swc = {
  jsc: {
    target: 'es2022',
    parser: { syntax: 'typescript', tsx: true },
    transform: { react: { runtime: 'automatic' } },
  },
  module: { type: 'es6' },
  sourceMaps: 'inline',
};
const common = {
  extensionsToTreatAsEsm: ['.ts', '.tsx'],
  transform: { '^.+\\.tsx?$': ['@swc/jest', swc] },
  testPathIgnorePatterns: ['/node_modules/', '/dist/', '/dist-types/'],
};
const node = (name) => ({
  displayName: name,
  rootDir: `packages/${name}`,
  runner: `${import.meta.dirname}/scripts/jest/runner.mjs`,
  testMatch: ['**/*.test.ts'],
  testPathIgnorePatterns: common.testPathIgnorePatterns,
});
/** @type {import('jest').Config} */
export default {
  // Both cores of a small machine; by itself Jest would leave one out.
  maxWorkers: 2,
  testSequencer: './scripts/jest/sequencer.mjs',
  // Nobody waits for a test that passes; a busy machine takes its time.
  testTimeout: 120_000,
  projects: [
    node('core'),
    node('standins'),
    node('server'),
    {
      ...common,
      displayName: 'web',
      rootDir: 'packages/web',
      testEnvironment: 'jsdom',
      setupFiles: ['<rootDir>/src/testing/setup.mjs'],
      testEnvironmentOptions: { customExportConditions: ['zest-source', 'browser'] },
    },
  ],
};
