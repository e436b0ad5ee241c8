// The tests of one folder, as `npm run mutate` runs them again and again.
import config from './jest.config.js';

const project = config.projects.find((one) => one.displayName === 'core');
export default {
  ...project,
  rootDir: 'packages/core',
  testMatch: [`<rootDir>/src/${process.env.ZEST_MUTATED}/**/*.test.ts`],
  testEnvironment: '@stryker-mutator/jest-runner/jest-env/node',
};
