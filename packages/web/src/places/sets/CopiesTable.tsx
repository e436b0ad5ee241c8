/** A row a course: what its copy is, what it really sent, what it would do now, and what this version would have done. Each answers on its own. */
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import type { SetMember } from '@zest-bell/core/exchange';
import { dayWords, nextRound, plural } from '@zest-bell/core/time';
import { offWords } from '../../lib/decisionWords.ts';
import { OutcomeFigures } from '../../parts/common/OutcomeFigures.tsx';
import { useCourse, useOutcomes, useRules } from '../../lib/queries.ts';
import { pastOf, rehearse } from '../../lib/ruleActions.ts';
import { errorWords } from '../../lib/api.ts';
import { LEFT_ALONE } from '../../lib/sets.ts';
import { Chip } from '../../ui/Chip.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import type { SetPart } from './setPart.ts';

export function CopiesTable({ here, kind, answer }: SetPart) {
  const isRule = kind === 'rule';
  const columns = [
    { name: 'Course' },
    ...(isRule ? [{ name: 'It is' }] : []),
    { name: 'Compared with the latest version' },
    ...(isRule
      ? [
          { name: 'Really sent' },
          { name: 'If it ran now' },
          { name: 'If this version had been on, without other rules' },
        ]
      : []),
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
          ...(isRule
            ? [
                <Sent key="sent" member={member} />,
                <Now key="now" member={member} now={here.now} />,
                <SoFar key="past" member={member} />,
              ]
            : []),
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

function Status({ member: { status, course, key } }: { readonly member: SetMember }) {
  const card = useRules(course.id).data?.find((c) => c.rule.id === key);
  if (status === 'on') return <Chip tone="zest">● on</Chip>;
  return <Chip tone="quiet">{offWords(status ?? 'paused', card?.wasOn ?? false)}</Chip>;
}

/** What its copy there has really sent, and what came of it. */
function Sent({ member: { course, key } }: { readonly member: SetMember }) {
  const { data, error } = useOutcomes(course.id);
  if (error) return <Trouble error={error} />;
  if (!data) return <Waiting />;
  const outcome = data.rules[key];
  return outcome && outcome.sent > 0 ? <OutcomeFigures of={outcome} /> : 'nothing yet';
}

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

function Now({ member, now }: { readonly member: SetMember; readonly now: number }) {
  const copy = useCopy(member);
  // Before the term nobody matches yet: what is said is of the first round.
  const isBefore = copy !== null && now < copy.view.course.calendar.start;
  const first = isBefore ? nextRound(copy.rule.rhythm, copy.view.course.calendar, now) : null;
  const { data, error } = useQuery({
    queryKey: ['rehearsal', member.course.id, member.key, member.version, 'set'],
    queryFn: ({ signal }) => rehearse(copy!.view, copy!.rule, first ?? undefined, signal),
    enabled: copy !== null,
  });
  if (error) return <Trouble error={error} />;
  if (!data) return <Waiting />;
  const count = (outcome: string) => data.nudges.filter((n) => n.decision.outcome === outcome).length;
  const [heard, back] = [count('sent') + count('held'), count('withheld')];
  return (
    <>
      {first !== null && 'At the first check '}
      {plural(data.matching, 'student')} {data.matching === 1 ? 'matches' : 'match'}, {heard} would be nudged
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
      {copy && (
        <span className="block text-[13px] text-ink-2">since {dayWords(data.from, copy.view.course.timeZone)}</span>
      )}
      {plural(data.nudges, 'nudge')} to {plural(data.students, 'student')}
      <span className="block text-[13px] text-ink-2">in {plural(data.rounds, 'check')}</span>
    </>
  );
}

const Waiting = () => <span className="text-ink-3">…</span>;
const Trouble = ({ error }: { readonly error: unknown }) => (
  <span role="alert" className="text-[13px] text-tangerine-text">
    ▲ {errorWords(error)}
  </span>
);
