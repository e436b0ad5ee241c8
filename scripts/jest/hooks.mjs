/** Jest's own `@jest/globals` exists only inside its virtual machine. */
const GLOBALS = new URL('./globals.mjs', import.meta.url).href;

export const resolve = (specifier, context, next) =>
  specifier === '@jest/globals' ? { url: GLOBALS, shortCircuit: true } : next(specifier, context);
