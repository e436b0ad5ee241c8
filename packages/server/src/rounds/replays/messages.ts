/** What the server and its thread for replays say to each other. */
import type { Problem } from '@zest-bell/core/problem';
import type { CourseParts } from '@zest-bell/core/course';
import type { HistoryColumns } from '@zest-bell/core/activity';
import type { ErrorCode } from '../../platform/errors/errors.ts';
import type { OrderOf, WorkName } from './works.ts';

/** A course with all that is known of it, as plain data. */
export interface KnownCourse {
  readonly parts: CourseParts;
  readonly columns: HistoryColumns;
}

export type ThreadRequest =
  /** `facts` names the facts that the work is done on, and `version` how much is known in them. */
  | {
      readonly id: number;
      readonly name: WorkName;
      readonly order: OrderOf<WorkName>;
      readonly facts: number;
      readonly version: number;
    }
  /** The answer to `lacking`. */
  | { readonly id: number; readonly known: KnownCourse }
  | { readonly id: number; readonly stop: true };

/** Results are JSON already, as they go on to a browser as they are. */
export type ThreadAnswer =
  | { readonly id: number; readonly lacking: true }
  | { readonly id: number; readonly share: number }
  | { readonly id: number; readonly found: string }
  | { readonly id: number; readonly answer: string }
  | { readonly id: number; readonly refused: { readonly code: ErrorCode; readonly problems: readonly Problem[] } }
  /** A fault of the program. */
  | { readonly id: number; readonly fault: string };
