/** Files that the server makes in the background, as it tells of them. */
export const EXPORT_WHAT = ['log', 'withheld', 'course'] as const;
export type ExportSubject = (typeof EXPORT_WHAT)[number];

/** `csv` and `xlsx` are tables, `jsonl`, `mbox` and `eml` the full messages; `scenario` and `madeUp` a whole course. */
export const EXPORT_FORMATS = ['csv', 'csvBom', 'xlsx', 'jsonl', 'mbox', 'eml', 'scenario', 'madeUp'] as const;
export type ExportFormat = (typeof EXPORT_FORMATS)[number];

export interface ExportState {
  readonly id: string;
  readonly state: 'waiting' | 'running' | 'done' | 'failed';
  /** How many of how many are written. */
  readonly done: number;
  readonly total: number;
  /** What the file is called. */
  readonly name: string;
  /** Once it is done. */
  readonly bytes: number;
  /** Why it failed, as a sentence; null while it did not. */
  readonly trouble: string | null;
}

/** The calendar that other programs read: since when there is an address. */
export interface FeedState {
  readonly since: number | null;
}
