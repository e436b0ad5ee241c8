/** The real application over the demo's own data, and a browser in front of it. The eight weeks are played once a build. */
import { spawn, type ChildProcess } from 'node:child_process';
import { cpSync, existsSync, mkdtempSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { createServer, type AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import puppeteer, { type Browser, type ElementHandle, type Page } from 'puppeteer-core';

export const root = fileURLToPath(new URL('..', import.meta.url));
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
export async function startServer(data: string, port?: number): Promise<App> {
  const chosen = port ?? (await freePort());
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

/** A copy of the demo at its opening. */
export async function demoFolder(): Promise<string> {
  const built = statSync(join(root, 'packages/server/dist/.built')).mtimeMs;
  const mark = join(played, '.at-opening');
  if (!existsSync(mark) || statSync(mark).mtimeMs < built) {
    rmSync(played, { recursive: true, force: true });
    await (await startServer(played)).stop();
    writeFileSync(mark, '');
  }
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-e2e-'));
  cpSync(played, folder, { recursive: true });
  return folder;
}

export interface Stage {
  readonly base: string;
  readonly browser: Browser;
  /** A fresh page; what it complains of in the console is kept. */
  open(path?: string): Promise<Scene>;
  stop(): Promise<void>;
}

export async function openStage(): Promise<Stage> {
  const folder = await demoFolder();
  const app = await startServer(folder);
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
    ],
    defaultViewport: { width: 1280, height: 800, deviceScaleFactor: 1 },
  });
  return {
    base: app.base,
    browser,
    async open(path = '/') {
      const page = await browser.newPage();
      const scene = new Scene(page);
      await page.goto(`${app.base}${path}`, { waitUntil: 'networkidle0' });
      return scene;
    },
    async stop() {
      await browser.close();
      await app.stop();
      rmSync(folder, { recursive: true, force: true });
    },
  };
}

/** A page with the few gestures that the tests make, each waiting until what it needs is there. */
export class Scene {
  readonly page: Page;
  readonly complaints: string[] = [];

  constructor(page: Page) {
    this.page = page;
    page.on('pageerror', (e) => this.complaints.push(String(e)));
    page.on('console', (m) => {
      if (m.type() === 'error' && !/status of 4\d\d/.test(m.text())) this.complaints.push(m.text());
    });
  }

  /** The first visible element of a role whose accessible name holds the words. */
  async find(role: string, name: string): Promise<ElementHandle> {
    const handle = await this.page.waitForSelector(`aria/${name}[role="${role}"]`, { timeout: 10_000 });
    return handle!;
  }

  async click(role: string, name: string): Promise<void> {
    const element = await this.find(role, name);
    await element.scrollIntoView();
    await element.click();
  }

  /** Clicks what is labelled with words that begin so. */
  async clickLabelled(start: string): Promise<void> {
    const element = await this.page.waitForSelector(`[aria-label^="${start}"]`, { timeout: 10_000 });
    await element!.click();
  }

  /** Clicks what shows these words. */
  async clickText(text: string, within = ''): Promise<void> {
    const element = await this.page.waitForSelector(`${within} ::-p-text(${text})`, { timeout: 10_000 });
    await element!.click();
  }

  async text(selector: string): Promise<string> {
    const element = await this.page.waitForSelector(selector, { timeout: 10_000 });
    return (await element!.evaluate((e) => (e as HTMLElement).innerText)).replace(/\s+/g, ' ').trim();
  }

  /** Waits until the words of an element fit. */
  async see(selector: string, wanted: RegExp, ms = 10_000): Promise<string> {
    let last = '';
    for (const end = Date.now() + ms; Date.now() < end;) {
      last = await this.text(selector).catch(() => '');
      if (wanted.test(last)) return last;
      await new Promise((r) => setTimeout(r, 50));
    }
    throw new Error(`${selector} said “${last.slice(0, 400)}” and never ${wanted}`);
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
