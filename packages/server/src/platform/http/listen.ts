import type { Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import type { Express } from 'express';
import { StartProblem } from '../process/config.ts';

/** Starts listening. A port that is taken is a StartProblem that says by whom, where that can be told. */
export async function listen(app: Express, port: number, host: string): Promise<{ server: Server; port: number }> {
  try {
    return await new Promise((resolve, reject) => {
      const server = app.listen(port, host);
      server.once('error', reject);
      server.once('listening', () => resolve({ server, port: (server.address() as AddressInfo).port }));
    });
  } catch (error) {
    const code = (error as NodeJS.ErrnoException).code;
    if (code === 'EADDRINUSE') {
      throw new StartProblem(
        (await isZestBell(host, port))
          ? `Zest Bell is already running at http://${host}:${port}. Open it there, or start this one on another port with ZEST_PORT.`
          : `Port ${port} is taken by another program. Choose another one with ZEST_PORT, as in ZEST_PORT=4180 npm start.`,
      );
    }
    if (code === 'EACCES' || code === 'EADDRNOTAVAIL') {
      throw new StartProblem(`Zest Bell may not listen on ${host}:${port} (${code}). Set ZEST_HOST or ZEST_PORT.`);
    }
    throw error;
  }
}

async function isZestBell(host: string, port: number): Promise<boolean> {
  try {
    const res = await fetch(`http://${host}:${port}/health`, { signal: AbortSignal.timeout(1500) });
    return ((await res.json()) as { application?: string }).application === 'zest-bell';
  } catch {
    return false;
  }
}
