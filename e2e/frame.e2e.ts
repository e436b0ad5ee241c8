/** One frame: nothing moves from a page to the next, and a page scrolls as a whole or within its panes, never both. */
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { FIRST_SCRIPTS, firstScripts } from '../bench/firstScripts.ts';
import { openStage, type BrowserStage } from './harness.ts';
import type { Scene } from './scene.ts';

let stage: BrowserStage;
let scene: Scene;
beforeAll(async () => {
  stage = await openStage();
  scene = await stage.openDemo();
});
afterAll(async () => {
  expect(scene.complaints).toEqual([]);
  await stage.stop();
});

const TABBED = [
  'students',
  'students/gradebook',
  'students/class',
  'replay',
  'replay/who-it-found',
  'replay/early-signs',
  'replay/ahead',
  'replay/outcomes',
  'replay/term',
  'replay/terms',
  'course',
  'course/people',
  'course/items',
  'course/calendar',
  'course/data',
  'course/connections',
  'course/changes',
  'course/access',
  'course/acts',
  'students/n7',
  'rules/quiet/history',
];
const PLAIN = [
  'today',
  'today/everywhere',
  'students/everywhere',
  'rules',
  'rules/everywhere',
  'tray/everywhere',
  'shelf',
  'rules/quiet',
  'wording',
  'tray',
  'log',
  'log/everywhere',
  'merge',
  'carry',
  'setup',
];

interface Frame {
  readonly page: string;
  readonly left: number;
  readonly title: number;
  readonly tabs: number | null;
  /** Of the filters where it has some, else of what it shows. */
  readonly content: number;
  readonly width: number;
  readonly scrollsSideways: boolean;
  /** Whether the page as a whole is higher than the window. */
  readonly isHigher: boolean;
  readonly fills: boolean;
}

async function frameOf(page: string): Promise<Frame> {
  await scene.go(`${stage.base}/c/1/${page}`);
  await scene.page.waitForSelector('[data-page]');
  return scene.page.evaluate((name) => {
    const box = (selector: string) => document.querySelector(selector)?.getBoundingClientRect();
    const frame = document.querySelector<HTMLElement>('[data-page]')!;
    const style = getComputedStyle(frame);
    const root = document.documentElement;
    const title = frame.firstElementChild!.getBoundingClientRect();
    return {
      page: name,
      left: title.left,
      title: title.top,
      tabs: box('[data-testid=page-tabs]')?.top ?? null,
      content: (box('[data-testid=filters]') ?? box('[data-testid=page-content]'))!.top,
      width: frame.clientWidth - parseFloat(style.paddingLeft) - parseFloat(style.paddingRight),
      scrollsSideways: root.scrollWidth > root.clientWidth,
      isHigher: root.scrollHeight > root.clientHeight,
      fills: frame.dataset['page'] === 'fills',
    };
  }, page);
}

const distinct = <T>(values: readonly T[]): T[] => [...new Set(values)];

describe.each([
  [1280, 800],
  [1920, 1080],
])('%i wide', (width, height) => {
  test('titles, tabs and content are where they were, to the pixel, and one thing scrolls', async () => {
    await scene.page.setViewport({ width, height });
    const frames: Frame[] = [];
    for (const page of [...TABBED, ...PLAIN]) frames.push(await frameOf(page));
    const where = (what: (frame: Frame) => number | null, among = frames) =>
      distinct(among.map(what)).map(
        (at) =>
          `${at}: ${among
            .filter((f) => what(f) === at)
            .map((f) => f.page)
            .join(', ')}`,
      );
    const [tabbed, plain] = [frames.slice(0, TABBED.length), frames.slice(TABBED.length)];
    expect(where((f) => f.left)).toHaveLength(1);
    expect(where((f) => f.title)).toHaveLength(1);
    expect(where((f) => f.width)).toHaveLength(1);
    expect(where((f) => f.tabs, tabbed)).toHaveLength(1);
    expect(where((f) => f.content, tabbed)).toEqual([expect.anything()]);
    expect(where((f) => f.content, plain)).toEqual([expect.anything()]);
    expect(frames.filter((f) => f.scrollsSideways).map((f) => f.page)).toEqual([]);
    expect(frames.filter((f) => f.fills && f.isHigher).map((f) => f.page)).toEqual([]);
    if (width === 1920) expect(frames[0]!.width).toBe(1232);
  });
});

test('the first scripts of a page stay small', () => {
  const bytes = firstScripts();
  expect(bytes).toBeGreaterThan(50_000);
  expect(bytes).toBeLessThanOrEqual(FIRST_SCRIPTS);
});
