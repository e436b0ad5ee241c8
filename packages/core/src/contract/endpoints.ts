/** The requests of the contract in one list, each with its names. */
import { contract } from './contract.ts';
import type { AnyEndpoint } from './endpoint.ts';

export interface NamedEndpoint {
  readonly module: string;
  readonly name: string;
  readonly endpoint: AnyEndpoint;
}

export const endpoints: readonly NamedEndpoint[] = Object.entries(contract).flatMap(([module, named]) =>
  Object.entries(named as Readonly<Record<string, AnyEndpoint>>).map(([name, endpoint]) => ({
    module,
    name,
    endpoint,
  })),
);
