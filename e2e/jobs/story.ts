/** A job as one person does it: what is pressed is counted, so that no job takes more presses than it did. */
import { expect } from '@jest/globals';
import type { Scene } from '../scene.ts';

export class JobRun {
  readonly scene: Scene;
  private pressed = 0;

  constructor(scene: Scene) {
    this.scene = scene;
  }

  /** Presses what shows these words. */
  async press(words: string, within = 'body'): Promise<void> {
    this.pressed++;
    await this.scene.clickText(words, within);
  }

  /** Presses the control with this accessible name. */
  async pressCalled(name: string): Promise<void> {
    this.pressed++;
    await this.scene.clickLabelled(name);
  }

  /** Presses the one that a selector finds. */
  async pressOn(selector: string): Promise<void> {
    this.pressed++;
    await this.scene.clickAt(selector);
  }

  /** Goes to a place by the bar at the top. */
  async goTo(place: string): Promise<void> {
    await this.press(place, 'header nav');
  }

  /** Sends what was written by hand, once it says to how many. */
  async send(count?: number): Promise<void> {
    const said = await this.see(
      AS_READ,
      count === undefined ? /Send [1-9]\d* messages?$/ : new RegExp(`Send ${count} messages?$`),
    );
    await this.press(/Send \d+ messages?$/.exec(said)![0], AS_READ);
  }

  /** Types into a list that searches, and takes what comes first. */
  async pick(words: string): Promise<void> {
    await this.scene.pick(words);
  }

  /** Types into a field in place of what it says. */
  async fill(selector: string, words: string): Promise<void> {
    const field = (await this.scene.page.waitForSelector(selector))!;
    await field.click({ count: 3 });
    await field.type(words);
  }

  async choose(selector: string, wanted: string | RegExp): Promise<void> {
    await this.scene.select(selector, wanted);
  }

  async keys(...keys: Parameters<Scene['press']>): Promise<void> {
    await this.scene.press(...keys);
  }

  async see(selector: string, wanted: RegExp, ms?: number): Promise<string> {
    return this.scene.see(selector, wanted, ms);
  }

  /** The job is done: it took no more presses than this. */
  doneIn(most: number): void {
    expect(this.pressed).toBeLessThanOrEqual(most);
  }
}

export const SENTENCE = '[data-testid=sentence]';
export const FILTER = '[data-testid=filter-sentence]';
export const COUNT = '[data-testid=count]';
export const REACH = '[data-testid=reach]';
export const RULE = '[aria-label="The rule"]';
export const DIALOG = '[role=dialog]';
export const AS_READ = '[aria-label="As they will read it"]';
