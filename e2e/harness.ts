/** The real application over the demo's own data, and a browser in front of it. The eight weeks are played once a build. */
import type { ChildProcess } from 'node:child_process';
import { once } from 'node:events';
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import puppeteer, { type Browser } from 'puppeteer-core';
import { spawnServer, STARTS_WITHIN } from '../bench/running.ts';
import { Scene } from './scene.ts';

export const root = fileURLToPath(new URL('..', import.meta.url));
const played = join(root, 'artifacts', 'demo-played');

export interface App {
  readonly base: string;
  readonly child: ChildProcess;
  stop(): Promise<void>;
}

/** Runs the built server on a data folder and waits until it says that it is ready. */
export async function startServer(data: string, env: Readonly<Record<string, string>> = {}): Promise<App> {
  const { child, base } = await spawnServer(data, {
    NODE_OPTIONS: '',
    NODE_ENV: 'production',
    ZEST_DEMO: 'on',
    ...env,
  });
  const gone = once(child, 'exit');
  return {
    base,
    child,
    stop: async () => {
      child.kill('SIGTERM');
      await gone;
    },
  };
}

/** Longer than playing the demo takes: a lock that is older was left behind. */
const LOCKED_AT_MOST = STARTS_WITHIN + 60_000;

function takes(lock: string): boolean {
  if (existsSync(lock) && Date.now() - statSync(lock).mtimeMs > LOCKED_AT_MOST) rmSync(lock, { recursive: true });
  try {
    mkdirSync(lock);
    return true;
  } catch {
    return false;
  }
}

/** A copy of the demo at its opening. */
export async function demoFolder(): Promise<string> {
  const built = statSync(join(root, 'packages/server/dist/.built')).mtimeMs;
  const mark = join(played, '.at-opening');
  const isFresh = () => existsSync(mark) && statSync(mark).mtimeMs >= built;
  const lock = `${played}.lock`;
  mkdirSync(dirname(played), { recursive: true });
  while (!isFresh()) {
    // Whoever comes first plays it; the others wait for that.
    if (!takes(lock)) {
      await new Promise((r) => setTimeout(r, 200));
      continue;
    }
    try {
      if (isFresh()) break;
      rmSync(played, { recursive: true, force: true });
      await (await startServer(played)).stop();
      writeFileSync(mark, '');
    } finally {
      rmSync(lock, { recursive: true, force: true });
    }
  }
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-e2e-'));
  cpSync(played, folder, { recursive: true });
  return folder;
}

export interface Stage {
  readonly base: string;
  readonly browser: Browser;
  /** A fresh page; what it complains of in the console is kept. */
  /** `tour`: as somebody who comes for the first time. */
  /** `apart`: in a browser of its own, as somebody else. */
  open(path?: string, options?: { tour?: boolean; apart?: boolean }): Promise<Scene>;
  /**
   * A page on which the demo's instructor is signed in, at the rules unless told otherwise; empty for where signing in leads. What
   * is sent by hand leaves at once, unless a test is about the seconds in which it can be taken back.
   */
  openDemo(options?: { readonly delay?: number; readonly place?: string }): Promise<Scene>;
  stop(): Promise<void>;
}

/** The demo at its opening, or what `prepare` has put into an empty folder, with the settings that it returns. */
export async function openStage(prepare?: (folder: string) => Promise<Record<string, string>>): Promise<Stage> {
  const folder = prepare ? mkdtempSync(join(tmpdir(), 'zest-bell-e2e-')) : await demoFolder();
  const app = await startServer(folder, prepare ? await prepare(folder) : {});
  const browser = await puppeteer.launch({
    executablePath: process.env['CHROMIUM'] ?? '/usr/bin/chromium',
    headless: true,
    userDataDir: join(folder, 'profile'),
    args: [
      '--no-sandbox',
      '--disable-gpu',
      '--disable-quic',
      '--disable-dev-shm-usage',
      '--no-first-run',
      '--disable-background-networking',
      '--disable-component-update',
      '--disable-sync',
      '--force-color-profile=srgb',
      '--font-render-hinting=none',
      '--lang=en-US',
      // Nothing to wait for between a click and what it opens.
      '--force-prefers-reduced-motion',
    ],
    defaultViewport: { width: 1280, height: 800, deviceScaleFactor: 1 },
  });
  const stage: Stage = {
    base: app.base,
    browser,
    async open(path = '/', { tour = false, apart = false } = {}) {
      const page = await (apart ? await browser.createBrowserContext() : browser).newPage();
      // The tour of a first visit has a test of its own.
      if (!tour)
        await page.evaluateOnNewDocument(() => {
          // Letters are shown in frames that keep nothing.
          if (window.top === window) localStorage.setItem('zest-bell-tour', 'over');
        });
      const scene = new Scene(page);
      await scene.go(`${app.base}${path}`);
      return scene;
    },
    async openDemo({ delay = 0, place = '/c/1/rules' } = {}) {
      const scene = await stage.open();
      await scene.clickText('Open the demo as Dr. Ostrander');
      await scene.until(() => location.pathname.startsWith('/c/'));
      await setSendDelay(scene, delay);
      if (place) await scene.go(`${app.base}${place}`);
      return scene;
    },
    async stop() {
      await browser.close();
      await app.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
  return stage;
}

/** Of everybody in the demo. */
export const DEMO_PASSWORD = 'high-water-0914';

/** Signs one of the demo's people in by their password, in a browser of their own. */
export async function signedIn(stage: Stage, name: string): Promise<Scene> {
  const scene = await stage.open('/', { apart: true });
  await scene.type('input[name=email]', `${name}@saltmarsh.example`);
  await scene.type('input[name=password]', DEMO_PASSWORD);
  await scene.clickText('Sign in', 'form button');
  return scene;
}

/** For how many seconds whoever is signed in can take back what they send by hand. */
export async function setSendDelay(scene: Scene, delay: number): Promise<void> {
  await scene.page.evaluate(async (seconds) => {
    const body = JSON.stringify({ seconds });
    const headers = { 'content-type': 'application/json' };
    const answer = await fetch('/api/v1/account/send-delay', { method: 'PUT', headers, body });
    if (!answer.ok) throw new Error(`The delay was not set: ${answer.status}`);
  }, delay);
}
