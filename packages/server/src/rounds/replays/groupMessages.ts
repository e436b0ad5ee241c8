/** Who of each group of students was sent what: praise, warnings, support. */
import type { Course } from '@zest-bell/core/course';
import type { GroupMessages } from '@zest-bell/core/exchange';
import { studentGroups, type GroupBy } from '@zest-bell/core/outcomes';
import { WORDING_PURPOSES, type WordingPurpose } from '@zest-bell/core/wording';
import { rowsOf } from '../../platform/database/query.ts';
import type { Em } from '../../platform/database/orm.ts';

/** How many students of each group were sent something of each purpose; each student counts once. */
export async function groupMessages(em: Em, id: number, course: Course, by: GroupBy): Promise<GroupMessages[]> {
  const sent = await rowsOf<{ student: string; purpose: WordingPurpose }>(
    em,
    em
      .getKnex()('nudge as n')
      .distinct('n.student as student', 'w.purpose as purpose')
      .join('wording as w', (join) => join.on('w.course', 'n.course').on('w.key', 'n.wording'))
      .where({ 'n.course': id, 'n.state': 'sent', 'n.to_student': true }),
  );
  const got = new Set(sent.map((s) => `${s.purpose} ${s.student}`));
  return studentGroups(course, by).map(({ group, isSmaller, members }) => ({
    group,
    isSmaller,
    students: members.length,
    got: Object.fromEntries(
      WORDING_PURPOSES.map((purpose) => [purpose, members.filter((p) => got.has(`${purpose} ${p.id}`)).length]),
    ) as Record<WordingPurpose, number>,
  }));
}
