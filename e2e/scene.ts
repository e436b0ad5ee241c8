/** A page with the few gestures that the tests make, each waiting until what it needs is there. */
import type { ElementHandle, EvaluateFunc, HTTPRequest, Page } from 'puppeteer-core';
import { leadsTo, standsStill, wasHit, watched } from './pressing.ts';

/** How long a test waits for what must come, in ms: ample on a machine that has something else to do. */
const PATIENCE = 60_000;

const plain = (words: string): string => words.replace(/\s+/g, ' ').trim();

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
      await this.page.waitForFunction(isSo, { polling: 50 }, ...given);
    } catch (error) {
      const shown = await this.shown();
      throw new Error(`Never came ${String(isSo)} of ${given.map(String).join(', ')}. ${shown}`, { cause: error });
    }
  }

  /** What a failed wait tells. */
  private async shown(): Promise<string> {
    const { place, words, fonts } = await this.page.evaluate(() => ({
      place: location.pathname + location.search,
      words: (document.querySelector('main') ?? document.body).innerText.replace(/\s+/g, ' ').slice(0, 1000),
      fonts: document.fonts.status,
    }));
    return `${place} shows: ${words}. Fonts: ${fonts}. ${this.complaints.join('; ')}`;
  }

  /** What becomes of what the page asks for, by its path: it passes, is lost, or waits until it is let go. Returns how to end that. */
  async between(fateOf: (path: string) => 'passes' | 'waits' | 'isLost'): Promise<() => Promise<void>> {
    const waiting: HTTPRequest[] = [];
    let isOver = false;
    const letOn = (r: HTTPRequest) =>
      r.continue().catch((error: unknown) => {
        // What was asked for as it ended is on its way already.
        if (!isOver) throw error;
      });
    const decide = (r: HTTPRequest) => {
      const fate = isOver ? 'passes' : fateOf(new URL(r.url()).pathname);
      if (fate === 'waits') waiting.push(r);
      else void (fate === 'isLost' ? r.abort() : letOn(r));
    };
    await this.page.setRequestInterception(true);
    this.page.on('request', decide);
    return async () => {
      isOver = true;
      await Promise.all(waiting.map((r) => r.continue()));
      await this.page.setRequestInterception(false);
      this.page.off('request', decide);
    };
  }

  /** Keeps what is asked for at such paths from the page until it is let go. */
  holdBack(isHeld: (path: string) => boolean): Promise<() => Promise<void>> {
    return this.between((path) => (isHeld(path) ? 'waits' : 'passes'));
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
    await this.gone('[cmdk-input]');
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
      { polling: 'raf' },
      selector,
    );
  }

  /** The first visible element of a role with the words in its accessible name. */
  async find(role: string, name: string): Promise<ElementHandle> {
    const handle = await this.page.waitForSelector(`aria/${name}[role="${role}"]`);
    return handle!;
  }

  async click(role: string, name: string): Promise<void> {
    await this.clickAt(`aria/${name}[role="${role}"]`);
  }

  /** Clicks what is labelled with words that begin so. */
  async clickLabelled(start: string): Promise<void> {
    await this.clickAt(`[aria-label^="${start}"]`);
  }

  /** Clicks what shows these words. */
  async clickText(text: string, within = ''): Promise<void> {
    await this.clickAt(`${within} ::-p-text(${text})`);
  }

  /** Clicks once what a selector finds can be used and no longer moves; what is drawn anew in the meantime is looked up again. */
  async clickAt(selector: string, count = 1): Promise<void> {
    for (const end = Date.now() + PATIENCE; ;) {
      const element = await this.page.waitForSelector(selector);
      try {
        await element!.scrollIntoView();
        if (!(await element!.evaluate(standsStill))) continue;
        const way = await element!.evaluate(leadsTo);
        await element!.evaluate(watched);
        await element!.click({ count });
        // What arrives between the look and the click may push it away from under the pointer.
        if (await element!.evaluate(wasHit).catch(() => true)) return void (way && (await this.hasLeft(...way)));
      } catch (error) {
        if (Date.now() > end) throw error;
      }
      if (Date.now() > end) throw new Error(`${selector} can never be clicked`);
    }
  }

  /**
   * Until a link has led away, or a question came up: the page before stays until the code of the next is there, and what one does on it
   * in the meantime is no longer what a test means.
   */
  private async hasLeft(from: string, to: string): Promise<void> {
    await this.until(
      (was, wanted) =>
        location.pathname === wanted || location.pathname !== was || document.querySelector('[role$=dialog]') !== null,
      from,
      to,
    );
  }

  /** Types into a field once it is there. */
  async type(selector: string, words: string): Promise<void> {
    const field = await this.page.waitForSelector(selector);
    await field!.type(words);
  }

  /** Gives files to a chooser of files. */
  async upload(selector: string, ...paths: string[]): Promise<void> {
    const chooser = await this.page.waitForSelector(selector);
    await (chooser as unknown as { uploadFile(...p: string[]): Promise<void> }).uploadFile(...paths);
  }

  /** Sets a field for a date, as 2026-09-21. */
  async setDate(label: string, value: string): Promise<void> {
    const input = await this.page.waitForSelector(`aria/${label}`);
    await input!.evaluate((e, v) => {
      // As the framework listens for it.
      Object.getOwnPropertyDescriptor(HTMLInputElement.prototype, 'value')!.set!.call(e, v);
      e.dispatchEvent(new Event('input', { bubbles: true }));
    }, value);
  }

  /** Chooses an option, by its value or by the words it shows, once it is there. */
  async select(selector: string, wanted: string | RegExp): Promise<void> {
    const list = await this.page.waitForSelector(selector);
    for (const end = Date.now() + PATIENCE; ;) {
      const options = await list!.$$eval('option', (all) => all.map((o) => ({ value: o.value, words: o.text })));
      const found = options.find(({ value, words }) =>
        typeof wanted === 'string' ? value === wanted || words === wanted : wanted.test(words),
      );
      if (found) return void (await list!.select(found.value));
      if (Date.now() > end) throw new Error(`${selector} never offers ${wanted}`);
    }
  }

  /** Reads of an element what is asked for, once it is there. */
  async read<T, E extends Element = HTMLInputElement>(selector: string, read: (element: E) => T): Promise<T> {
    const element = await this.page.waitForSelector(selector);
    return await element!.evaluate(read as unknown as (element: Element) => T);
  }

  /** Waits until there is nothing of the kind, or none that shows. */
  async gone(selector: string): Promise<void> {
    await this.page.waitForSelector(selector, { hidden: true });
  }

  async text(selector: string): Promise<string> {
    return plain(await this.read(selector, (e: HTMLElement) => e.innerText));
  }

  /** Waits until the words of an element fit. */
  async see(selector: string, wanted: RegExp, ms = PATIENCE): Promise<string> {
    let last = '';
    for (const end = Date.now() + ms; Date.now() < end;) {
      const words = await this.page.$eval(selector, (e) => (e as HTMLElement).innerText).catch(() => null);
      last = words === null ? last : plain(words);
      if (words !== null && wanted.test(last)) return last;
      await new Promise((r) => setTimeout(r, 50));
    }
    const said = last.length > 1500 ? `${last.slice(0, 500)} … ${last.slice(-1000)}` : last;
    throw new Error(`${selector} said “${said}” and never ${wanted}. ${await this.shown()}`);
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
