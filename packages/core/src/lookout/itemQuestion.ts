/** What is asked of an item from its column in the gradebook: whom it finds as a condition, and the subject that fits them. */
import type { Condition } from '../conditions/condition.ts';
import type { Item } from '../course/item.ts';
import type { Instant } from '../time/instant.ts';
import { dayWords } from '../time/words.ts';
import { assertNever } from '../problem/problem.ts';

export type ItemQuestion =
  | { readonly kind: 'notSubmitted' }
  /** Of those who did it, unless all who have no grade are meant. */
  | { readonly kind: 'notGraded'; readonly doneOnly: boolean }
  /** In percent. */
  | { readonly kind: 'under' | 'over'; readonly value: number };

export function itemCondition(item: Item, question: ItemQuestion): Condition {
  const of = { item: item.id };
  switch (question.kind) {
    case 'notSubmitted':
      if (item.kind === 'page') return { measure: 'opens', ...of, is: '<', value: 1 };
      return { measure: 'submitted', ...of, is: 'equals', value: false };
    case 'notGraded': {
      const ungraded: Condition = { measure: 'score', ...of, is: 'empty' };
      return question.doneOnly
        ? { all: [{ measure: 'submitted', ...of, is: 'equals', value: true }, ungraded] }
        : ungraded;
    }
    case 'under':
      return { measure: 'score', ...of, is: '<', value: question.value };
    case 'over':
      return { measure: 'score', ...of, is: '>', value: question.value };
    default:
      return assertNever(question);
  }
}

/** A subject for a message to those whom the question finds. It is a template: braces of a title are left out. */
export function itemSubject(item: Item, question: ItemQuestion, now: Instant, timeZone: string): string {
  const title = item.title.replace(/[{}]/g, '');
  switch (question.kind) {
    case 'notSubmitted':
      if (item.kind === 'page') return `Please have a look at ${title}`;
      if (item.kind === 'practice') return `Practice for you: ${title}`;
      return item.dueAt !== null && item.dueAt > now
        ? `${title} is due ${dayWords(item.dueAt, timeZone)}`
        : `I do not have ${title} from you yet`;
    case 'notGraded':
      return `${title} is not graded yet`;
    case 'under':
      return `About your score on ${title}`;
    case 'over':
      return `Well done on ${title}`;
    default:
      return assertNever(question);
  }
}
