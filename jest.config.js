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
  ...common,
  displayName: name,
  rootDir: `packages/${name}`,
  testEnvironment: 'node',
  testEnvironmentOptions: { customExportConditions: ['zest-source', 'node', 'node-addons'] },
});
/** @type {import('jest').Config} */
export default {
  // Both cores of a small machine; by itself Jest would leave one out.
  maxWorkers: 2,
  // Nobody waits for a test that passes; a busy machine takes its time.
  testTimeout: 90_000,
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
