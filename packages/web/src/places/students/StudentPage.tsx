/** One student: where they stand, how to reach them, and everything between them and the instructor, the latest first. */
import { Fragment, type ReactNode } from 'react';
import { useParams, useSearchParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { dayWords } from '@zest-bell/core/time';
import { fullName, type Person, nameIn } from '@zest-bell/core/course';
import type { LastSeen } from '@zest-bell/core/lookout';
import type { StudentAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { useHere, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { attempt } from '../../lib/attempt.ts';
import { Button } from '../../ui/Button.tsx';
import { PartTabs } from '../../ui/PageTabs.tsx';
import { OutcomeFigures } from '../../parts/common/OutcomeFigures.tsx';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { FactsPart } from './FactsPart.tsx';
import { GradesPart } from './GradesPart.tsx';
import { KeptPart } from './KeptPart.tsx';
import { NotesPart, useNotes } from './NotesPart.tsx';
import { RulesPart } from './RulesPart.tsx';
import { StudentActions } from './StudentActions.tsx';
import { Timeline } from './Timeline.tsx';
import { When } from '../../ui/When.tsx';
import { Page } from '../../ui/Page.tsx';

/** What the page shows beside the student. */
const PARTS = {
  timeline: 'Timeline',
  grades: 'Work and grades',
  rules: 'Rules',
  notes: 'Notes',
  facts: 'All facts',
} as const;
type StudentPart = keyof typeof PARTS;

export function StudentPage() {
  const here = useHere();
  const { student = '' } = useParams();
  const [params, setParams] = useSearchParams();
  const person = here.course.people[here.course.personIndex.get(student) ?? -1];
  const answer = useQuery({
    ...atMoment(['student', here.id, student], here.now),
    queryFn: () => ask(contract.desk.student, { course: here.id, student }),
    enabled: person !== undefined,
  });
  const notes = useNotes(here, person ? student : '').data ?? [];
  if (!person) return <Empty title="Student not found">This student is not in the course.</Empty>;
  if (answer.isError)
    return (
      <Page title={fullName(person)}>
        <Failed error={answer.error} retry={() => void answer.refetch()} />
      </Page>
    );
  if (!answer.data)
    return (
      <Page title={fullName(person)}>
        <Loading what={fullName(person)} />
      </Page>
    );
  const asked = params.get('part') ?? '';
  const part: StudentPart = asked in PARTS ? (asked as StudentPart) : 'timeline';
  const { story, rules } = answer.data;
  const matching = rules.filter((r) => r.standing.inAudience && r.standing.verdict === true).length;
  const counts: Partial<Record<StudentPart, number>> = {
    rules: matching,
    ...(notes.length === 0 ? {} : { notes: notes.length }),
  };
  return (
    <Page
      title={nameIn(here.course, person.id)}
      lead={`${person.email ?? 'no email address'}${person.section ? `, section ${person.section}` : ''}`}
      actions={<StudentActions here={here} person={person} />}
      tabs={
        <PartTabs
          label="Show"
          value={part}
          tabs={(Object.keys(PARTS) as StudentPart[]).map((value) => ({
            value,
            name: (
              <>
                {PARTS[value]}
                {counts[value] !== undefined && <span className="tabular-nums"> {counts[value]}</span>}
              </>
            ),
          }))}
          onChange={(name) => setParams(name === 'timeline' ? {} : { part: name }, { replace: true })}
        />
      }
    >
      <div className="grid gap-5 min-[900px]:grid-cols-[320px_minmax(0,1fr)]">
        <About here={here} person={person} answer={answer.data} />
        <section aria-label="Story" className="min-w-0">
          {part === 'timeline' && (
            <Timeline key={student} here={here} answer={answer.data} notes={notes} firstName={person.firstName} />
          )}
          {part === 'grades' && <GradesPart here={here} student={student} story={story} />}
          {part === 'rules' && <RulesPart here={here} rules={rules} />}
          {part === 'notes' && <NotesPart here={here} person={person} notes={notes} />}
          {part === 'facts' && (
            <>
              <FactsPart here={here} person={person} />
              <KeptPart here={here} person={person} />
            </>
          )}
        </section>
      </div>
    </Page>
  );
}

function About(props: { readonly here: CourseHere; readonly person: Person; readonly answer: StudentAnswer }) {
  const { here, person, answer } = props;
  const zone = here.course.timeZone;
  return (
    <section aria-label="About the student" className="min-w-0">
      {answer.outcome.sent > 0 && (
        <p>
          <OutcomeFigures of={answer.outcome} />
        </p>
      )}
      {answer.bouncedAt !== null && <Bounced here={here} person={person} at={answer.bouncedAt} />}
      {person.paused && (
        <p className="mt-3 rounded-xl bg-iris-soft px-3.5 py-2.5 text-[14.5px]">
          <strong>Paused nudges</strong>
          {answer.pausedUntil !== null && ` until ${dayWords(answer.pausedUntil, zone)}`}. Only essential rules still
          write to {person.firstName}.
        </p>
      )}
      <dl className="mt-3 rounded-[16px] border border-line bg-sheet px-4 py-1">
        {answer.facts.map((f) => (
          <div
            key={f.title}
            className="grid min-h-10 grid-cols-[minmax(0,1fr)_auto] items-baseline gap-x-3 border-b border-line py-1.5 last:border-b-0"
          >
            <dt className="text-[13.5px] text-ink-2">{f.title}</dt>
            <dd className="contents">
              <strong className="text-right text-[15px] tabular-nums">{f.value}</strong>{' '}
              <span className="truncate text-[13px] text-ink-3" title={f.fact}>
                {f.fact}
              </span>
              <span className="text-right text-[13px] text-ink-2">{f.among?.replace(' of the class', '')}</span>
            </dd>
          </div>
        ))}
      </dl>
      <LastSeenList here={here} last={answer.story.last} />
      {person.contacts.length > 0 && (
        <>
          <h2 className="mt-4 text-[15px] font-bold">Contacts</h2>
          <ul className="mt-1 text-[14.5px]">
            {person.contacts.map((c) => (
              <li key={`${c.kind} ${c.email}`} className="break-words">
                {c.name} <span className="text-ink-2">({c.kind})</span>
                <br />
                <span className="text-ink-2">{c.email}</span>
              </li>
            ))}
          </ul>
        </>
      )}
    </section>
  );
}

/** When they were last in the course, what they opened last, and where they posted last. */
function LastSeenList({ here, last }: { readonly here: CourseHere; readonly last: LastSeen }) {
  const zone = here.course.timeZone;
  const titleOf = (id: string) => here.course.items[here.course.itemIndex.get(id) ?? -1]?.title ?? id;
  const rows: [string, ReactNode][] = [
    ['Last visit', last.visit === null ? 'never' : <When at={last.visit} zone={zone} />],
    [
      'Last opened',
      last.page === null ? (
        'nothing yet'
      ) : (
        <>
          {titleOf(last.page.item)}, <When at={last.page.at} zone={zone} />
        </>
      ),
    ],
    [
      'Last post',
      last.post === null ? (
        'none yet'
      ) : (
        <>
          {titleOf(last.post.item)}, <When at={last.post.at} zone={zone} />
        </>
      ),
    ],
  ];
  return (
    <dl className="mt-3 grid grid-cols-[92px_minmax(0,1fr)] gap-x-2 gap-y-0.5 text-[14px]">
      {rows.map(([term, words]) => (
        <Fragment key={term}>
          <dt className="text-ink-3">{term}</dt>
          <dd className="break-words">{words}</dd>
        </Fragment>
      ))}
    </dl>
  );
}

/** The address does not work: it says so until the instructor says otherwise. */
function Bounced(props: { readonly here: CourseHere; readonly person: Person; readonly at: number }) {
  const { here, person, at } = props;
  const works = async () => {
    await attempt(async () => {
      await ask(contract.intake.addressWorks, { course: here.id, student: person.id });
      await refreshAll();
      toast(`Zest Bell writes to ${fullName(person)} again.`);
    });
  };
  return (
    <div className="mt-3 rounded-xl bg-tangerine-soft px-3.5 py-2.5 text-[14.5px]">
      <p>
        <span aria-hidden>▲ </span>
        <strong>Mail came back</strong> on {dayWords(at, here.course.timeZone)}: this address does not work.
      </p>
      <Button needs="data.write" className="mt-2" onClick={() => works()}>
        The address works again
      </Button>
    </div>
  );
}
