/**
 * Every place in a browser, over a course of 2,000 students and 200,000 events: from the press until its content is there and nothing of
 * it is still loading, with its code cached and not, and what it waited for in the meantime; then the dialogs of a press, and the scripts
 * of the first load. `npm run bench -- places`.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import type { Browser, BrowserContext, Page } from 'puppeteer-core';
import { launchBrowser } from './browser.ts';
import { benchCourse, benchHistory, benchRules } from './data.ts';
import { fillHistory } from './filling.ts';
import { FIRST_SCRIPTS, firstScripts } from './firstScripts.ts';
import { besideGoal, median } from './goals.ts';
import { API_BASE } from '@zest-bell/core/contract';
import { startServer, type RunningServer } from './running.ts';
import { scenarioOf } from './scenario.ts';

const CLASS = { name: 'a course of 2,000', students: 2000, events: 200_000 };
const RUNS = 5;
/** In ms: a place with its code in the browser's cache, one with its code asked for, and a dialog. */
const CACHED = 700;
const ASKED_FOR = 1500;
const DIALOG = 300;

/** A place, and the one from which it is opened. */
const PLACES: readonly (readonly [place: string, from: string])[] = [
  ['today', 'course'],
  ['students', 'today'],
  ['students/gradebook', 'today'],
  ['students/class', 'today'],
  ['students/s7', 'today'],
  ['rules', 'today'],
  ['rules/{rule}', 'today'],
  ['rules/{rule}/history', 'today'],
  ['wording', 'today'],
  ['tray', 'today'],
  ['log', 'today'],
  ['log/back', 'today'],
  ['replay', 'today'],
  ['replay/who-it-found', 'today'],
  ['replay/early-signs', 'today'],
  ['replay/ahead', 'today'],
  ['replay/term', 'today'],
  ['replay/outcomes', 'today'],
  ['course', 'today'],
  ['course/people', 'today'],
  ['course/items', 'today'],
  ['course/calendar', 'today'],
  ['course/data', 'today'],
  ['course/connections', 'today'],
  ['course/changes', 'today'],
  ['course/access', 'today'],
  ['shelf', 'today'],
  ['setup', 'today'],
];

/** Dialogs, and the button that opens each. */
const DIALOGS: readonly (readonly [place: string, button: string])[] = [
  ['rules', 'New rule'],
  ['course/people', 'Paste rows'],
  ['course/items', 'Paste rows'],
];

interface Opened {
  readonly ms: number;
  /** In ms: scripts that were fetched, answers of the server, and the main thread's own script and layout. */
  readonly code: number;
  readonly server: number;
  readonly script: number;
  readonly layout: number;
}

export async function benchPlaces(): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'zest-bell-bench-'));
  const server = await startServer(join(folder, 'data'));
  const browser = await launchBrowser();
  try {
    const { course, rule } = await fill(server, join(folder, 'data', 'zest-bell.db'));
    const at = (place: string) => `${server.base}/c/${course}/${place.replace('{rule}', rule)}`;
    console.log(`Every place of ${CLASS.name} with ${CLASS.events} events, median of ${RUNS}:`);
    const asked = process.argv.find((a) => a.startsWith('only='))?.slice(5);
    for (const [place, from] of PLACES.filter(([each]) => asked === undefined || each === asked)) {
      const cached: Opened[] = [];
      const without: Opened[] = [];
      for (let run = 0; run < RUNS; run++) {
        const context = await browser.createBrowserContext();
        await signIn(context, server);
        // Once with a cache that knows nothing of it, then in a page that was loaded anew.
        for (const into of [without, cached]) {
          const page = await context.newPage();
          await open(page, at(from));
          into.push(await press(page, at(place)));
          await page.close();
        }
        await context.close();
      }
      said(`${place}, its code cached`, cached, CACHED);
      said(`${place}, its code asked for`, without, ASKED_FOR);
    }
    if (asked === undefined || asked === 'dialogs')
      for (const [place, button] of DIALOGS) await dialog(browser, server, at(place), button);
  } finally {
    await browser.close();
    await server.stop();
    rmSync(folder, { recursive: true, force: true });
  }
  besideGoal('scripts of the first load, gzipped', firstScripts() / 1000, { unit: 'KB', atMost: FIRST_SCRIPTS / 1000 });
}

async function fill(server: RunningServer, file: string): Promise<{ course: number; rule: string }> {
  const given = benchCourse(CLASS);
  const course = await server.begin(scenarioOf(given));
  const rules: string[] = [];
  for (const rule of benchRules()) {
    const made = await server.send('POST', `${API_BASE}/courses/${course}/rules`, {
      rule: { ...rule, status: 'draft', steps: [{ deliver: 'send', to: ['student'], wording: 'away-first' }] },
      starter: 'away',
    });
    rules.push((made as { rule: { id: string } }).rule.id);
  }
  fillHistory(file, course, given, benchHistory(given, CLASS));
  return { course, rule: rules[0]! };
}

async function signIn(context: BrowserContext, server: RunningServer): Promise<void> {
  const [name, value] = server.cookie().split('=') as [string, string];
  await context.setCookie({ name, value, domain: new URL(server.base).hostname, path: '/' });
}

async function open(page: Page, address: string): Promise<void> {
  // The compiler of the bench names functions by a helper, which the page has none of.
  await page.evaluateOnNewDocument('globalThis.__name = (named) => named');
  await page.goto(address, { waitUntil: 'networkidle0' });
}

/** Opens an address within the page, as a press on its link does, and waits until its content is there. */
async function press(page: Page, address: string): Promise<Opened> {
  const before = await page.metrics();
  const opened = await page.evaluate(async (to: string) => {
    document.querySelector('[data-page]')!.setAttribute('data-left', '');
    performance.clearResourceTimings();
    const from = performance.now();
    window.history.pushState(null, '', to);
    window.dispatchEvent(new PopStateEvent('popstate'));
    const isThere = () =>
      document.querySelector('[data-page]:not([data-left]), main:not(:has([data-left])) form') !== null &&
      document.querySelector('[data-left]') === null &&
      document.querySelector('main [data-loading], [aria-busy=true]') === null;
    const frame = () => new Promise((next) => requestAnimationFrame(next));
    await frame();
    while (!isThere() && performance.now() - from < 30_000) await frame();
    const ms = performance.now() - from;
    const entries = performance.getEntriesByType('resource') as PerformanceResourceTiming[];
    /** How long at least one of them was on its way. */
    const onTheirWay = (of: readonly PerformanceResourceTiming[]) => {
      let until = from;
      let sum = 0;
      for (const e of of.toSorted((a, b) => a.startTime - b.startTime)) {
        sum += Math.max(0, e.responseEnd - Math.max(until, e.startTime));
        until = Math.max(until, e.responseEnd);
      }
      return sum;
    };
    const isCode = (e: PerformanceResourceTiming) => e.name.includes('/assets/');
    return {
      ms,
      shown: isThere()
        ? null
        : document.body.innerText.slice(0, 600) +
          [...document.querySelectorAll('[data-loading], [aria-busy=true]')]
            .map((e) => e.outerHTML.slice(0, 200))
            .join(),
      code: onTheirWay(entries.filter(isCode)),
      server: onTheirWay(entries.filter((e) => !isCode(e) && e.startTime - from < ms)),
    };
  }, address);
  if (opened.shown !== null) throw new Error(`${address} never had its content: ${opened.shown}`);
  const after = await page.metrics();
  const spent = (of: 'ScriptDuration' | 'LayoutDuration' | 'RecalcStyleDuration') => 1000 * (after[of]! - before[of]!);
  return {
    ms: opened.ms,
    code: opened.code,
    server: opened.server,
    script: spent('ScriptDuration'),
    layout: spent('LayoutDuration') + spent('RecalcStyleDuration'),
  };
}

function said(what: string, opened: readonly Opened[], goal: number): void {
  const of = (part: keyof Opened) => Math.round(median(opened.map((o) => o[part])));
  const parts = `code ${of('code')}, server ${of('server')}, script ${of('script')}, layout ${of('layout')} ms`;
  besideGoal(`${what} (${parts})`, of('ms'), { unit: 'ms', atMost: goal });
}

async function dialog(browser: Browser, server: RunningServer, address: string, button: string): Promise<void> {
  const taken: number[] = [];
  for (let run = 0; run < RUNS; run++) {
    const context = await browser.createBrowserContext();
    await signIn(context, server);
    const page = await context.newPage();
    await open(page, address);
    const pressed = await page.waitForSelector(
      `::-p-xpath(//main//button[normalize-space()=${JSON.stringify(button)}])`,
    );
    taken.push(
      await pressed!.evaluate(async (element) => {
        const from = performance.now();
        (element as HTMLElement).click();
        const isThere = () =>
          document.querySelector('[role=dialog]') !== null &&
          document.querySelector('[role=dialog] [data-loading]') === null;
        while (!isThere() && performance.now() - from < 30_000)
          await new Promise((next) => requestAnimationFrame(next));
        return performance.now() - from;
      }),
    );
    await context.close();
  }
  besideGoal(`“${button}” opens its dialog, its code asked for`, median(taken), { unit: 'ms', atMost: DIALOG });
}
