/**
 * What one process tells the others so that they need not wait until they look by themselves, as they do every few seconds: news
 * that is lost delays, and loses nothing.
 */

export type Topic = 'mail';

export interface News {
  tell(topic: Topic): Promise<void>;
  on(topic: Topic, heard: () => void): void;
  close(): Promise<void>;
}

/** Without a way to reach other processes, each polls. */
export const noNews: News = { tell: () => Promise.resolve(), on: () => undefined, close: () => Promise.resolve() };
