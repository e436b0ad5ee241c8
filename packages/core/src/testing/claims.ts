/**
 * What a message to students claims, held to what its rule has found. A reading of its own for tests: it knows the words that
 * our texts use, not the language.
 */
import { leavesOf } from '../conditions/condition.ts';
import type { MeasureName } from '../measures/values/measure.ts';
import type { Rule } from '../rules/rule.ts';
import type { Wording } from '../wording/wording.ts';

const ABSENCE: readonly MeasureName[] = [
  'daysSinceVisit',
  'daysSinceSignIn',
  'daysSinceParticipation',
  'longestGap',
  'visits',
];
const CHANGE: readonly MeasureName[] = ['visitsChange', 'postsChange'];
const OPEN_WORK: readonly MeasureName[] = ['missing', 'submitted', 'dueSoon', 'streak'];
const COURSE_GRADE: readonly MeasureName[] = ['courseGrade', 'gradeVsClass', 'gradeChange'];
const SCORES: readonly MeasureName[] = ['score', 'points', 'latestScore', 'lowScores', 'highScores', ...COURSE_GRADE];

/** A merge field or a way of saying something, and the measures of which a rule needs one to say it. */
const CLAIMS: readonly (readonly [RegExp, readonly MeasureName[]])[] = [
  [/student\.(last_visit|days_since_visit)\b/, ABSENCE],
  [/student\.missing_(items|list|count)\b/, OPEN_WORK],
  [/student\.course_grade\b/, COURSE_GRADE],
  [/student\.latest_score\b/, ['latestScore']],
  [/student\.(topic|score)_list\b/, SCORES],
  [/item\.score\b/, ['score', 'points']],
  [/student\.days_enrolled\b/, ['daysEnrolled']],
  [/have (also )?not seen you|been quiet|were away|been away|miss you|(see|have) you back|are back/i, ABSENCE],
  [/(work|this) is still open|do not have (this|yours|anything|all)|nothing submitted|did not find it/i, OPEN_WORK],
  [/your labs are in/i, ['missing', 'submitted']],
  [/not opened|opened it yet/i, ['opens', 'share']],
  [/your (latest )?(score|grade) (in|on|is)|with a grade|low score|a hard one|latest work/i, SCORES],
  [/(much|most|part) of (the practice|what there is)|your practice/i, ['share']],
  [/you have(n’t| not)? posted|taken part|every (recent )?discussion|post from you/i, ['streak', 'dueSoon', 'posts']],
  [/less often|fewer (visits|posts)/i, CHANGE],
  [/not completed/i, ['completed']],
];

/** What no measure says of anybody, or what only holds at one time of day. */
const NEVER = /more than most|careful|just graded|keeps? count|others answer|good (morning|afternoon|evening)|tonight/i;

const GUARDED = /\{% if ([\w.]+) %\}.*?\{% (?:endif|else) %\}/gs;

/** Each claim of the wording's texts that no condition of the rule is about and no condition in the text guards. */
export function unfoundedClaims(wording: Wording, rule: Rule): string[] {
  const measures = new Set(leavesOf(rule.when).map((leaf) => leaf.measure));
  const texts = [wording, ...(wording.variants ?? []), ...(wording.copies ?? [])];
  return texts.flatMap(({ subject, text }) => {
    const whole = `${subject}\n${text}`;
    const open = whole.replace(GUARDED, '');
    const unfounded = CLAIMS.filter(([, needs]) => !needs.some((m) => measures.has(m))).map(([claim]) =>
      claim.exec(open),
    );
    return [...unfounded, NEVER.exec(whole)].flatMap((found) => (found ? [found[0]] : []));
  });
}

/** How many words somebody reads in a message. */
export const wordCount = (text: string): number => text.split(/\s+/).filter(Boolean).length;
