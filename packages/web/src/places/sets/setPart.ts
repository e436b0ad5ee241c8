import type { SetAnswer, SetKind } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import type { SetChoices } from './useChoices.ts';

/** What each part of the page is about. */
export interface SetPart {
  readonly here: CourseHere;
  readonly kind: SetKind;
  /** The key of the copy here. */
  readonly of: string;
  readonly answer: SetAnswer;
  readonly choices: SetChoices;
}
