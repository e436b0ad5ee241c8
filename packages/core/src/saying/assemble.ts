/** The rule that the parts of a text make together. */
import type { Course } from '../course/course.ts';
import type { RecipientSpec } from '../rules/rule.ts';
import type { SaidAudience, Told } from './limits.ts';
import type { Piece } from './parts.ts';
import type { SaidRecurrence, SaidRun } from './rhythm.ts';
import type { SaidRule } from './saidRule.ts';

/** What a rhythm begins with where that is not said. */
export interface RhythmBase {
  readonly course: Course;
  readonly start: string;
}

/** The rule that these parts make. */
export function assemble(
  frame: RhythmBase,
  start: SaidRule,
  values: readonly { kind: Piece['kind']; value: unknown }[],
): SaidRule {
  const of = <T>(kind: Piece['kind']): readonly T[] => values.flatMap((v) => (v.kind === kind ? [v.value as T] : []));
  const [who] = of<SaidAudience>('audience');
  const [weightSaid] = of<NonNullable<SaidRule['weight']>>('weight');
  const [from] = of<number>('spellsFrom');
  const limits = of<NonNullable<SaidRule['repeat']>>('limit');
  const [stepCount = 1] = of<number>('steps');
  const to = recipients(of<Told>('told'));
  const isStudents = who && who.roles.join() === 'student' && who.sections.length + who.except.length === 0;
  return {
    ...start,
    ...(who && !isStudents && { audience: who }),
    ...rhythmOf(frame, of<SaidRecurrence>('recurrence')[0], of<string>('time')[0], of<SaidRun>('run')),
    ...(limits.length > 0 && { repeat: Object.assign({}, ...limits) as NonNullable<SaidRule['repeat']> }),
    ...(weightSaid && { weight: weightSaid }),
    ...(from !== undefined && { spellsFrom: from }),
    ...((to !== null || stepCount > 1) && {
      steps: Array.from({ length: stepCount }, () => (to === null ? {} : { to })),
    }),
  };
}

function rhythmOf(
  { start }: RhythmBase,
  recurs: SaidRecurrence | undefined,
  time: string | undefined,
  runs: readonly SaidRun[],
): SaidRule {
  if (!recurs && time === undefined && runs.length === 0) return {};
  const from = runs.map((r) => r.from).find((d) => d !== null) ?? start.slice(0, 10);
  const until = runs.map((r) => r.until).find((d) => d !== null);
  return {
    rhythm: {
      start: `${from}T${time ?? start.slice(11)}`,
      ...(recurs && { rrule: recurs.rrule }),
      ...(until === undefined || until === null ? {} : { until }),
    },
  };
}

/** Nobody but those named; a copy, and somebody's contact, go beside the student. */
function recipients(all: readonly Told[]): readonly RecipientSpec[] | null {
  if (all.length === 0) return null;
  const only = all.find((t) => t.how === 'only');
  const others = all.filter((t) => t.how !== 'only').flatMap((t) => t.to);
  return [...new Set<RecipientSpec>([...(only?.to ?? ['student']), ...others])];
}
