/** A row a course: what its copy is, what it would do now, and what it would have done so far. Each course answers by itself. */
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import type { SetMember } from '@zest-bell/core/exchange';
import { plural } from '@zest-bell/core/time';
import { useCourse, useRules } from '../../lib/queries.ts';
import { pastOf, rehearse } from '../../lib/ruleActions.ts';
import { errorWords } from '../../lib/api.ts';
import { LEFT_ALONE } from '../../lib/sets.ts';
import { Chip } from '../../ui/Chip.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import type { SetPart } from './setPart.ts';

export function CopiesTable({ kind, answer }: SetPart) {
  const isRule = kind === 'rule';
  const columns = [
    { name: 'Course' },
    ...(isRule ? [{ name: 'It is' }] : []),
    { name: 'Compared with the latest version' },
    ...(isRule ? [{ name: 'If it ran now' }, { name: 'Over the term so far' }] : []),
  ];
  return (
    <PlainTable
      label="Course by course"
      columns={columns}
      rows={answer.members.map((member) => ({
        key: String(member.course.id),
        head: <CourseLink kind={kind} member={member} />,
        cells: [
          ...(isRule ? [<Status key="status" member={member} />] : []),
          <Compared key="compared" member={member} />,
          ...(isRule ? [<Now key="now" member={member} />, <SoFar key="past" member={member} />] : []),
        ],
      }))}
    />
  );
}

function CourseLink({ kind, member }: { readonly kind: SetPart['kind']; readonly member: SetMember }) {
  const { course, key } = member;
  const to = kind === 'rule' ? `/c/${course.id}/rules/${key}` : `/c/${course.id}/wording?wording=${key}`;
  return (
    <Link to={to} className="hover:underline" title={course.title}>
      {course.code}
      {member.isHere && <span className="font-normal text-ink-3"> (this course)</span>}
    </Link>
  );
}

const Status = ({ member: { status } }: { readonly member: SetMember }) => (
  <Chip tone={status === 'on' ? 'zest' : 'quiet'}>{status === 'on' ? '● on' : status}</Chip>
);

function Compared({ member: { differs, waits, leftAlone } }: { readonly member: SetMember }) {
  return (
    <>
      {differs.length === 0 ? 'the same' : `differs in ${differs.map((d) => d.toLowerCase()).join(', ')}`}
      {waits && <span className="block text-[13px] text-iris">a change waits there to be confirmed</span>}
      {leftAlone && <span className="block text-[13px] text-ink-2">{LEFT_ALONE[leftAlone]}</span>}
    </>
  );
}

/** The course’s own view and its rule as it is saved there. */
function useCopy({ course, key }: SetMember) {
  const { view } = useCourse(course.id);
  const rule = useRules(course.id).data?.find((c) => c.rule.id === key)?.rule;
  return view && rule ? { view, rule } : null;
}

function Now({ member }: { readonly member: SetMember }) {
  const copy = useCopy(member);
  const { data, error } = useQuery({
    queryKey: ['rehearsal', member.course.id, member.key, member.version, 'set'],
    queryFn: ({ signal }) => rehearse(copy!.view, copy!.rule, undefined, signal),
    enabled: copy !== null,
  });
  if (error) return <Trouble error={error} />;
  if (!data) return <Waiting />;
  const count = (outcome: string) => data.nudges.filter((n) => n.decision.outcome === outcome).length;
  const [now, back] = [count('sent') + count('held'), count('withheld')];
  return (
    <>
      {plural(data.matching, 'student')} {data.matching === 1 ? 'matches' : 'match'}, {now} would be nudged
      {back > 0 && <span className="block text-[13px] text-ink-2">{back} held back by limits</span>}
    </>
  );
}

function SoFar({ member }: { readonly member: SetMember }) {
  const copy = useCopy(member);
  const { data, error } = useQuery({
    queryKey: ['past', member.course.id, member.key, member.version, 'set'],
    queryFn: ({ signal }) => pastOf(copy!.view, copy!.rule, signal),
    enabled: copy !== null,
  });
  if (error) return <Trouble error={error} />;
  if (!data) return <Waiting />;
  return (
    <>
      {plural(data.nudges, 'nudge')} to {plural(data.students, 'student')}
      <span className="block text-[13px] text-ink-2">in {plural(data.rounds, 'round')}</span>
    </>
  );
}

const Waiting = () => <span className="text-ink-3">…</span>;
const Trouble = ({ error }: { readonly error: unknown }) => (
  <span role="alert" className="text-[13px] text-tangerine-text">
    ▲ {errorWords(error)}
  </span>
);
