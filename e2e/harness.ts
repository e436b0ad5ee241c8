/** The real application over the demo's own data, and a browser in front of it. The eight weeks are played once a build. */
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, existsSync, mkdirSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { standsStill, wasHit, watched } from './pressing.ts';
import puppeteer, {
  type Browser,
  type ElementHandle,
  type EvaluateFunc,
  type HTTPRequest,
  type Page,
} from 'puppeteer-core';

export const root = fileURLToPath(new URL('..', import.meta.url));
/** How long a test waits for what must come, in ms: ample on a machine that has something else to do. */
const PATIENCE = 60_000;
const played = join(root, 'artifacts', 'demo-played');

function freePort(): Promise<number> {
  return new Promise((resolve) => {
    const server = createServer().listen(0, '127.0.0.1', () => {
      const { port } = server.address() as AddressInfo;
      server.close(() => resolve(port));
    });
  });
}

export interface App {
  readonly base: string;
  readonly child: ChildProcess;
  stop(): Promise<void>;
}

/** Runs the built server on a data folder and waits until it says that it is ready. */
export async function startServer(data: string, env: Readonly<Record<string, string>> = {}): Promise<App> {
  const chosen = await freePort();
  const base = `http://127.0.0.1:${chosen}`;
  const child = spawn(process.execPath, ['packages/server/dist/main.js'], {
    cwd: root,
    env: {
      ...process.env,
      NODE_OPTIONS: '',
      NODE_ENV: 'production',
      ZEST_PORT: String(chosen),
      ZEST_DATA: data,
      ZEST_DEMO: 'on',
      ...env,
    },
    stdio: ['ignore', 'ignore', 'inherit'],
  });
  const gone = new Promise<void>((resolve) => child.once('exit', () => resolve()));
  for (const end = Date.now() + 90_000; ;) {
    const ready = await fetch(`${base}/health`).then(
      (r) => r.ok,
      () => false,
    );
    if (ready) break;
    if (child.exitCode !== null || Date.now() > end) throw new Error('The server did not start');
    await new Promise((r) => setTimeout(r, 100));
  }
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
const LOCKED_AT_MOST = 180_000;

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

/** A page with the few gestures that the tests make, each waiting until what it needs is there. */
export class Scene {
  readonly page: Page;
  readonly complaints: string[] = [];

  constructor(page: Page) {
    this.page = page;
    page.setDefaultTimeout(PATIENCE);
    page.on('pageerror', (e) => this.complaints.push(String(e)));
    page.on('console', (m) => {
      if (m.type() === 'error' && !/status of 4\d\d/.test(m.text())) this.complaints.push(m.text());
    });
  }

  /** Opens an address, and waits until the page has what it shows. */
  async go(address: string): Promise<void> {
    await this.page.goto(address, { waitUntil: 'domcontentloaded' });
    await this.until(
      () => document.querySelector('h1, form, main') !== null && document.querySelector('[data-loading]') === null,
    );
  }

  /** Waits until it is so on the page; what the page shows instead is told where it never is. */
  async until<T extends unknown[]>(isSo: EvaluateFunc<T>, ...given: T): Promise<void> {
    try {
      // By the clock: a page that is not drawn has no frames.
      await this.page.waitForFunction(isSo, { timeout: PATIENCE, polling: 50 }, ...given);
    } catch (error) {
      const { place, words, fonts } = await this.page.evaluate(() => ({
        place: location.pathname + location.search,
        words: (document.querySelector('main') ?? document.body).innerText.replace(/\s+/g, ' ').slice(0, 1000),
        fonts: document.fonts.status,
      }));
      const complaints = this.complaints.join('; ');
      throw new Error(
        `${place} never had ${String(isSo)} of ${given.map(String).join(', ')}. Fonts: ${fonts}. ${complaints} ${words}`,
        {
          cause: error,
        },
      );
    }
  }

  /** Keeps what is asked for at such paths from the server until it is let go. */
  async holdBack(isHeld: (path: string) => boolean): Promise<() => Promise<void>> {
    const held: HTTPRequest[] = [];
    let isOver = false;
    const hold = (r: HTTPRequest) => {
      if (!isOver && r.method() === 'GET' && isHeld(new URL(r.url()).pathname)) held.push(r);
      else void r.continue();
    };
    await this.page.setRequestInterception(true);
    this.page.on('request', hold);
    return async () => {
      isOver = true;
      await Promise.all(held.map((r) => r.continue()));
      await this.page.setRequestInterception(false);
      this.page.off('request', hold);
    };
  }

  /** Waits until a menu of the editor has closed and what is typed goes into the text again. */
  async backInText(): Promise<void> {
    await this.until(() => !document.querySelector('[cmdk-item]') && document.activeElement?.matches('.words'));
    // The editor hears of the focus a frame later, and puts its caret then.
    await this.page.evaluate(
      () => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(() => done(null)))),
    );
  }

  /** Types into a menu that searches, and takes what it then has first. */
  async pick(words: string): Promise<void> {
    await this.page.waitForSelector('[cmdk-input]');
    await this.page.keyboard.type(words);
    // The list is sorted by what was typed in its own time.
    await this.until((wanted) => {
      const typed = document.querySelector<HTMLInputElement>('[cmdk-input]')?.value;
      const first = document.querySelector('[cmdk-item][aria-selected=true]');
      const shown = [...document.querySelectorAll('[cmdk-item]')].filter((i) => (i as HTMLElement).offsetParent);
      return typed === wanted && first !== null && shown[0] === first;
    }, words);
    await this.press('Enter');
    await this.page.waitForSelector('[cmdk-input]', { hidden: true });
  }

  /** Waits until an element no longer moves. */
  async settled(selector: string): Promise<void> {
    await this.page.waitForFunction(
      (selected) => {
        const box = document.querySelector(selected)?.getBoundingClientRect();
        const where = box ? `${box.x} ${box.y} ${box.width} ${box.height}` : '';
        const kept = window as unknown as { where?: string; times?: number };
        kept.times = kept.where === where && where !== '' ? (kept.times ?? 0) + 1 : 0;
        kept.where = where;
        return kept.times >= 3;
      },
      { polling: 'raf', timeout: PATIENCE },
      selector,
    );
  }

  /** The first visible element of a role whose accessible name holds the words. */
  async find(role: string, name: string): Promise<ElementHandle> {
    const handle = await this.page.waitForSelector(`aria/${name}[role="${role}"]`, { timeout: PATIENCE });
    return handle!;
  }

  async click(role: string, name: string): Promise<void> {
    await this.clickOn(`aria/${name}[role="${role}"]`);
  }

  /** Clicks what is labelled with words that begin so. */
  async clickLabelled(start: string): Promise<void> {
    await this.clickOn(`[aria-label^="${start}"]`);
  }

  /** Clicks what shows these words. */
  async clickText(text: string, within = ''): Promise<void> {
    await this.clickOn(`${within} ::-p-text(${text})`);
  }

  /** Clicks once what it finds can be used and no longer moves; what is drawn anew meanwhile is looked up again. */
  private async clickOn(selector: string): Promise<void> {
    for (const end = Date.now() + PATIENCE; ;) {
      const element = await this.page.waitForSelector(selector, { timeout: PATIENCE });
      try {
        await element!.scrollIntoView();
        if (!(await element!.evaluate(standsStill))) continue;
        await element!.evaluate(watched);
        await element!.click();
        // What arrives between the look and the click may push it away from under the pointer.
        if (await element!.evaluate(wasHit).catch(() => true)) return;
      } catch (error) {
        if (Date.now() > end) throw error;
      }
      if (Date.now() > end) throw new Error(`${selector} can never be clicked`);
    }
  }

  /** Types into a field once it is there. */
  async type(selector: string, words: string): Promise<void> {
    const field = await this.page.waitForSelector(selector, { timeout: PATIENCE });
    await field!.type(words);
  }

  /** Gives files to a chooser of files. */
  async upload(selector: string, ...paths: string[]): Promise<void> {
    const chooser = await this.page.waitForSelector(selector, { timeout: PATIENCE });
    await (chooser as unknown as { uploadFile(...p: string[]): Promise<void> }).uploadFile(...paths);
  }

  /** Sets a field for a date, as 2026-09-21. */
  async setDate(label: string, value: string): Promise<void> {
    const input = await this.page.waitForSelector(`aria/${label}`, { timeout: PATIENCE });
    await input!.evaluate((e, v) => {
      // As the framework listens for it.
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(e, v);
      e.dispatchEvent(new Event('input', { bubbles: true }));
    }, value);
  }

  /** Chooses an option, by its value or by the words it shows, once it is there. */
  async select(selector: string, wanted: string | RegExp): Promise<void> {
    const list = await this.page.waitForSelector(selector, { timeout: PATIENCE });
    for (const end = Date.now() + PATIENCE; ;) {
      const options = await list!.$$eval('option', (all) => all.map((o) => ({ value: o.value, words: o.text })));
      const found = options.find(({ value, words }) =>
        typeof wanted === 'string' ? value === wanted || words === wanted : wanted.test(words),
      );
      if (found) return void (await list!.select(found.value));
      if (Date.now() > end) throw new Error(`${selector} never offers ${wanted}`);
    }
  }

  async text(selector: string): Promise<string> {
    const element = await this.page.waitForSelector(selector, { timeout: PATIENCE });
    return (await element!.evaluate((e) => (e as HTMLElement).innerText)).replace(/\s+/g, ' ').trim();
  }

  /** Waits until the words of an element fit. */
  async see(selector: string, wanted: RegExp, ms = PATIENCE): Promise<string> {
    let last = '';
    for (const end = Date.now() + ms; Date.now() < end;) {
      last = await this.text(selector).catch(() => '');
      if (wanted.test(last)) return last;
      await new Promise((r) => setTimeout(r, 50));
    }
    const said = last.length > 1500 ? `${last.slice(0, 500)} … ${last.slice(-1000)}` : last;
    throw new Error(`${selector} said “${said}” and never ${wanted}`);
  }

  /** Presses Tab until the focused element's name fits; the keyboard alone must reach everything. */
  async tabTo(wanted: RegExp, most = 90): Promise<string> {
    const seen: string[] = [];
    for (let i = 0; i < most; i++) {
      await this.page.keyboard.press('Tab');
      const name = await this.focused();
      if (wanted.test(name)) return name;
      seen.push(name);
    }
    throw new Error(`Tab never came to ${wanted}; it came by ${[...new Set(seen)].join(' | ')}`);
  }

  async press(...keys: Parameters<Page['keyboard']['press']>[0][]): Promise<void> {
    for (const key of keys) await this.page.keyboard.press(key);
  }

  focused(): Promise<string> {
    return this.page.evaluate(() => {
      const e = document.activeElement as HTMLElement | null;
      if (!e) return '';
      const label = e.getAttribute('aria-label') ?? (e as HTMLInputElement).labels?.[0]?.innerText;
      return (label ?? e.innerText ?? e.title).replace(/\s+/g, ' ').trim();
    });
  }
}
