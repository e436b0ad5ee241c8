// What tests import from `@jest/globals`. The runner without a virtual machine knows no time limits: a test or hook gets its own here.
import { bind } from 'jest-each';

/** How long a test or hook may take unless it says otherwise, in ms. */
const LIMIT = Number(process.env.ZEST_TEST_LIMIT);

const { expect, jest } = globalThis;

function within(fn, ms, what) {
  return () =>
    new Promise((resolve, reject) => {
      const timer = setTimeout(() => reject(new Error(`${what} did not end within ${ms / 1000} s`)), ms);
      Promise.resolve()
        .then(() => fn())
        .then(resolve, reject)
        .finally(() => clearTimeout(timer));
    });
}

const limited = (define) =>
  Object.assign((name, fn, ms = LIMIT) => define(name, within(fn, ms, 'The test')), { skip: globalThis.xtest });

export const test = Object.assign(limited(globalThis.test), { only: limited(globalThis.fit) });
test.each = bind(test);
export const it = test;
export const describe = Object.assign((...block) => globalThis.describe(...block), {
  skip: globalThis.xdescribe,
  only: globalThis.fdescribe,
});
describe.each = bind(describe, false);

const hook =
  (name) =>
  (fn, ms = LIMIT) =>
    globalThis[name](within(fn, ms, name));
export const beforeAll = hook('beforeAll');
export const afterAll = hook('afterAll');
export const beforeEach = hook('beforeEach');
export const afterEach = hook('afterEach');
export { expect, jest };
