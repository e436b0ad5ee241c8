import { instantWords, numberWords } from '../time/words.ts';
import { assertNever } from '../problem.ts';
import type { Instant } from '../time/instant.ts';

/** The fact behind a measure's value (engine C5): never a bare flag, always what happened and when. */
export type Fact =
  | { readonly kind: 'last'; readonly what: 'signIn' | 'visit' | 'open'; readonly at: Instant | null }
  | { readonly kind: 'items'; readonly items: readonly { readonly title: string; readonly dueAt: Instant | null }[] }
  | { readonly kind: 'score'; readonly points: number; readonly of: number | null; readonly at: Instant }
  | { readonly kind: 'ungraded' }
  | { readonly kind: 'done'; readonly at: Instant | null }
  | { readonly kind: 'due'; readonly at: Instant | null }
  | { readonly kind: 'total'; readonly earned: number; readonly possible: number; readonly graded: number }
  | { readonly kind: 'doesNotCount' };

const LAST = { signIn: 'signed in', visit: 'visit', open: 'opened' } as const;

/** The fact in a few words: "last visit Tue Oct 20, 9:14 PM". */
export function factWords(fact: Fact, zone: string): string {
  switch (fact.kind) {
    case 'last':
      if (fact.at === null)
        return fact.what === 'open' ? 'never opened' : fact.what === 'visit' ? 'no visit yet' : 'never signed in';
      return `last ${LAST[fact.what]} ${instantWords(fact.at, zone)}`;
    case 'items':
      if (fact.items.length === 0) return 'nothing missing';
      return `missing ${fact.items.map((i) => i.title).join(', ')}`;
    case 'score':
      return `${numberWords(fact.points)}${fact.of === null ? '' : ` of ${numberWords(fact.of)}`} points, graded ${instantWords(fact.at, zone)}`;
    case 'ungraded':
      return 'not graded yet';
    case 'done':
      return fact.at === null ? 'not submitted' : `done ${instantWords(fact.at, zone)}`;
    case 'due':
      return fact.at === null ? 'no due date' : `due ${instantWords(fact.at, zone)}`;
    case 'total':
      return `${numberWords(fact.earned)} of ${numberWords(fact.possible)} points in ${fact.graded} graded`;
    case 'doesNotCount':
      return 'does not count for this student';
    default:
      return assertNever(fact);
  }
}
