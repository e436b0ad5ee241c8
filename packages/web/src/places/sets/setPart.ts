import type { SetAnswer, SetKind } from '@zest-bell/core/exchange';
import type { CourseHere } from '../../lib/here.ts';
import type { SetChoices } from './useChoices.ts';

/** What the parts of the page of a set have in common. */
export interface SetPart {
  readonly here: CourseHere;
  readonly kind: SetKind;
  /** The key of the copy here. */
  readonly of: string;
  readonly answer: SetAnswer;
  readonly choices: SetChoices;
}
