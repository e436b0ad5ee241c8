/** Starts a provider in a process of its own, and is a browser there. */
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { fileURLToPath } from 'node:url';
import type { ProviderOrders } from './provider.ts';

export const CLIENT = { clientId: 'zest-bell', secret: 'a secret of the provider' } as const;

export interface OpenProvider {
  readonly issuer: string;
  /** What it does from now on. */
  readonly orders: (orders: ProviderOrders) => Promise<void>;
  /** Follows an address of its own until it leads back to the application: to which address. */
  readonly follow: (to: string) => Promise<URL>;
  readonly close: () => Promise<void>;
}

/** `callbacks`: the addresses that its answers may go to. */
export async function openProvider(callbacks: readonly string[]): Promise<OpenProvider> {
  const file = fileURLToPath(new URL('provider.ts', import.meta.url));
  const child = fork(file, callbacks, { execArgv: ['--import', 'tsx'], stdio: ['ignore', 'ignore', 'inherit', 'ipc'] });
  const [issuer] = (await once(child, 'message')) as [string];
  return {
    issuer,
    async orders(orders) {
      child.send(orders);
      await once(child, 'message');
    },
    async follow(to) {
      // A browser that nobody has used before.
      const jar = new Map<string, string>();
      for (let url = new URL(to), hops = 0; hops < 10; hops++) {
        if (url.origin !== issuer) return url;
        const cookie = [...jar].map(([name, value]) => `${name}=${value}`).join('; ');
        const res = await fetch(url, { redirect: 'manual', headers: { cookie } });
        for (const set of res.headers.getSetCookie()) {
          const [name, value] = set.split(';')[0]!.split(/=(.*)/s) as [string, string];
          jar.set(name, value);
        }
        const next = res.headers.get('location');
        if (next === null) throw new Error(`The provider answered ${res.status}: ${await res.text()}`);
        url = new URL(next, url);
      }
      throw new Error('The provider leads on and on');
    },
    async close() {
      const gone = once(child, 'exit');
      child.disconnect();
      await gone;
    },
  };
}
