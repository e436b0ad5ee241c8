/**
 * The real application over the demo's own data, and a browser in front of it. The eight weeks are played once a build. Test files of one
 * process share the server's modules and one browser: each file has a server, a data folder and a browser context of its own.
 */
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import type { Browser, BrowserContext, CookieData } from 'puppeteer-core';
import { launchBrowser } from '../bench/browser.ts';
import { STARTS_WITHIN } from '../bench/running.ts';
import { Scene } from './scene.ts';

export const root = fileURLToPath(new URL('..', import.meta.url));
const played = join(root, 'artifacts', 'demo-played');

interface App {
  readonly base: string;
  stop(): Promise<void>;
}

/** What is tested is what was built. */
const built = (module: string): Promise<unknown> => import(join(root, 'packages/server/dist', module));

interface ServerModule {
  readonly start: (config: object, say: (sentence: string) => void) => Promise<App>;
}
interface Configurable {
  readonly readConfig: (env: Readonly<Record<string, string>>, folder: string) => object;
}

/** Starts the built server on a data folder; it answers when this does. */
async function startServer(data: string, env: Readonly<Record<string, string>> = {}): Promise<App> {
  process.env['NODE_ENV'] = 'production';
  const { start } = (await built('start.js')) as ServerModule;
  const { readConfig } = (await built('platform/process/config.js')) as Configurable;
  const settings = { ZEST_DATA: data, ZEST_PORT: '0', ZEST_LOG: 'error', ZEST_DEMO: 'on', ...env };
  return start(readConfig(settings, root), () => undefined);
}

let shared: Promise<Browser> | null = null;

/** The browser of this process, from the first file that needs it until the process ends. */
const browserOfAll = (): Promise<Browser> => (shared ??= launchBrowser());

export async function closeBrowser(): Promise<void> {
  const browser = await shared;
  shared = null;
  await browser?.close();
}

// The runner says by this that there are no more files.
process.once('disconnect', () => void closeBrowser().finally(() => process.exit()));

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
    // The one who comes first plays it; the others wait for that.
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

export interface BrowserStage {
  readonly base: string;
  /** What a browser keeps for one person: cookies, storage, downloads. */
  readonly context: BrowserContext;
  /** A fresh page; what it complains of in the console is kept. */
  /** `tour`: as somebody who comes for the first time. */
  /** `apart`: in a browser of its own, as somebody else. */
  open(path?: string, options?: { tour?: boolean; apart?: boolean }): Promise<Scene>;
  /**
   * A page on which the demo's instructor is signed in, at the rules unless told otherwise. What is sent by hand leaves at once, unless
   * a test is about the seconds in which it can be taken back.
   */
  openDemo(options?: { readonly delay?: number; readonly place?: string }): Promise<Scene>;
  stop(): Promise<void>;
}

/** The demo at its opening, or what `prepare` has put into an empty folder, with the settings that it returns. */
export async function openStage(prepare?: (folder: string) => Promise<Record<string, string>>): Promise<BrowserStage> {
  const folder = prepare ? mkdtempSync(join(tmpdir(), 'zest-bell-e2e-')) : await demoFolder();
  const app = await startServer(folder, prepare ? await prepare(folder) : {});
  const browser = await browserOfAll();
  const context = await browser.createBrowserContext();
  const contexts = [context];
  const stage: BrowserStage = {
    base: app.base,
    context,
    async open(path = '/', { tour = false, apart = false } = {}) {
      const own = apart ? await browser.createBrowserContext() : context;
      if (apart) contexts.push(own);
      const page = await own.newPage();
      // Functions that are handed to the page name themselves by it, as they were compiled.
      await page.evaluateOnNewDocument('window.__name = (given) => given');
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
      await context.setCookie(await demoSession(app.base, delay));
      return stage.open(place);
    },
    async stop() {
      for (const one of contexts) await one.close();
      await app.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
  return stage;
}

/** Signs the demo's instructor in, without the page that does it; returns the cookie of the session. */
async function demoSession(base: string, delay: number): Promise<CookieData> {
  const ask = async (method: string, path: string, body: object, cookie = '') => {
    const headers = { 'content-type': 'application/json', 'sec-fetch-site': 'same-origin', cookie };
    const answer = await fetch(`${base}/api/v1${path}`, { method, headers, body: JSON.stringify(body) });
    if (!answer.ok) throw new Error(`${path} was answered ${answer.status}`);
    return answer;
  };
  const [said] = (await ask('POST', '/session/demo', {})).headers.getSetCookie();
  const cookie = said!.split(';')[0]!;
  await ask('PUT', '/account/send-delay', { seconds: delay }, cookie);
  const [name, value] = cookie.split('=', 2);
  return { name: name!, value: value!, domain: new URL(base).hostname, path: '/', httpOnly: true, sameSite: 'Lax' };
}

/** Of everybody in the demo. */
export const DEMO_PASSWORD = 'high-water-0914';

/** Signs one of the demo's people in by their password, in a browser of their own. */
export async function signedIn(stage: BrowserStage, name: string): Promise<Scene> {
  const scene = await stage.open('/', { apart: true });
  await scene.type('input[name=email]', `${name}@saltmarsh.example`);
  await scene.type('input[name=password]', DEMO_PASSWORD);
  await scene.clickText('Sign in', 'form button');
  return scene;
}

/** For how many seconds anyone who is signed in can take back what they send by hand. */
export async function setSendDelay(scene: Scene, delay: number): Promise<void> {
  await scene.page.evaluate(async (seconds) => {
    const body = JSON.stringify({ seconds });
    const headers = { 'content-type': 'application/json' };
    const answer = await fetch('/api/v1/account/send-delay', { method: 'PUT', headers, body });
    if (!answer.ok) throw new Error(`The delay was not set: ${answer.status}`);
  }, delay);
}
