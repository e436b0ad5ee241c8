/**
 * The page asks by method and path. The schemas by which the server checks what is asked, and all that they stand on, stay out of the
 * page's scripts: when they are bundled, the contract is replaced by what it says of each request in plain values. A form that shows a
 * field's bounds has them from `core/contract/fields.ts`.
 */
import { runnerImport, type Plugin } from 'vite';

const CONTRACT = '/core/src/contract/contract.ts';

export function contractForPage(): Plugin {
  return {
    name: 'contract-for-page',
    apply: 'build',
    enforce: 'pre',
    async load(id) {
      if (!id.endsWith(CONTRACT)) return null;
      const { module } = await runnerImport<{ contract: Modules }>(id);
      const plain = Object.entries(module.contract).map(([name, requests]) => [
        name,
        Object.fromEntries(Object.entries(requests).map(([each, { method, path }]) => [each, { method, path }])),
      ]);
      return `export const contract = ${JSON.stringify(Object.fromEntries(plain))};`;
    },
  };
}

type Modules = Readonly<Record<string, Readonly<Record<string, { readonly method: string; readonly path: string }>>>>;
