/** The morning desk over all of one’s courses: what waits, who falls through, and what ran, each row with its course. */
import { Link } from 'react-router';
import { useQueries } from '@tanstack/react-query';
import { dayWords, plural } from '@zest-bell/core/time';
import {
  isClear,
  type CourseCard,
  type FallingLine,
  type InboxAnswer,
  type TodayAnswer,
} from '@zest-bell/core/exchange';
import { grouped } from '@zest-bell/core/course';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { roundWords } from '../../lib/decisionWords.ts';
import { useHere } from '../../lib/here.ts';
import { useCourses } from '../../lib/queries.ts';
import { EverywhereSwitch } from '../../parts/common/EverywhereSwitch.tsx';
import { PlacePage } from '../../parts/common/PlacePage.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { Card } from './Card.tsx';
import { fallingWords } from './fallingWords.ts';
import { Replies } from './Replies.tsx';
import { useInbox } from '../../lib/useInbox.ts';
import { SetUpEverywhere } from './SetUpEverywhere.tsx';
import { OtherCourse } from './OtherCourse.tsx';

/** Rows that are shown of each list; its course has them all. */
const MOST = 60;

export function EverywherePage() {
  const here = useHere();
  const inbox = useInbox();
  const courses = useCourses();
  const open = (courses.data ?? []).filter((c) => !c.isArchived);
  const falling = useQueries({
    queries: open.map((c) => ({
      ...atMoment(['falling', c.id], here.now),
      queryFn: ({ signal }: { signal: AbortSignal }) => ask(contract.desk.falling, { course: c.id }, { signal }),
    })),
  });
  const today = useQueries({
    queries: open.map((c) => ({
      queryKey: ['today', c.id],
      queryFn: () => ask(contract.desk.today, { course: c.id }),
    })),
  });
  if (inbox.isPending || courses.isPending)
    return (
      <PlacePage place="today">
        <Loading what="your morning" />
      </PlacePage>
    );
  const error = inbox.error ?? courses.error;
  if (error || !inbox.data)
    return (
      <PlacePage place="today">
        <Failed error={error} retry={() => void inbox.refetch()} />
      </PlacePage>
    );
  const ofCourse = <T,>(all: readonly { readonly data: T | undefined }[]) =>
    open.flatMap((course, i) => {
      const data = all[i]?.data;
      return data === undefined ? [] : [{ course, data }];
    });
  const troubles = [...falling, ...today].filter((q) => q.error !== null);
  return (
    <PlacePage
      place="today"
      part="all your courses"
      lead={`${dayWords(here.now, here.course.timeZone)}, all your courses`}
      scope={<EverywhereSwitch here={here} place="today" />}
    >
      {troubles.length > 0 && (
        <Failed error={troubles[0]!.error} retry={() => troubles.forEach((q) => void q.refetch())} />
      )}
      <div className="grid gap-4 min-[980px]:grid-cols-[minmax(0,1.5fr)_minmax(0,1fr)]">
        <div className="grid content-start gap-4">
          <WaitingEverywhere inbox={inbox.data} />
          <SetUpEverywhere courses={inbox.data.courses} />
          <FallingEverywhere all={ofCourse(falling).map(({ course, data }) => ({ course, lines: data.lines }))} />
          <Replies inbox={inbox.data} />
        </div>
        <div className="grid content-start gap-4">
          <RanEverywhere all={ofCourse(today)} />
        </div>
      </div>
    </PlacePage>
  );
}

function WaitingEverywhere({ inbox }: { readonly inbox: InboxAnswer }) {
  const waiting = inbox.courses.filter((c) => !isClear(c));
  return (
    <Card title={waiting.length === 0 ? 'Nothing is waiting for your decision' : 'Waiting for you'}>
      {waiting.length === 0 && (
        <p className="text-ink-2">In all your courses, mail is going out and every check ran.</p>
      )}
      <ul>
        {waiting.map((c) => (
          <OtherCourse key={c.course} course={c} />
        ))}
      </ul>
    </Card>
  );
}

function FallingEverywhere(props: {
  readonly all: readonly { readonly course: CourseCard; readonly lines: readonly FallingLine[] }[];
}) {
  const students = props.all
    .flatMap(({ course, lines }) => {
      const byStudent = grouped(lines, (l) => l.student);
      return [...byStudent.values()].map((own) => ({ course, own }));
    })
    .sort((a, b) => a.own[0]!.since - b.own[0]!.since);
  if (students.length === 0) return null;
  return (
    <Card
      title="Falling through"
      count={students.length}
      note="Students who match a rule but are not reached by it, longest first. Open one to help."
    >
      <ul>
        {students.slice(0, MOST).map(({ course, own }) => (
          <li key={`${course.id} ${own[0]!.student}`} className="border-b border-line py-2.5 last:border-b-0">
            <p className="flex flex-wrap items-baseline gap-x-3">
              <span className="font-semibold text-ink-2">{course.code}</span>
              <Link
                className="font-bold hover:underline"
                to={`/c/${course.id}/students/${encodeURIComponent(own[0]!.student)}`}
              >
                {own[0]!.name}
              </Link>
            </p>
            {fallingWords(own, course.timeZone).map((words) => (
              <p key={words} className="text-[14.5px]">
                {words}
              </p>
            ))}
          </li>
        ))}
      </ul>
      {students.length > MOST && (
        <p className="mt-2 text-[14px] text-ink-2">{plural(students.length - MOST, 'more student')} in the courses.</p>
      )}
    </Card>
  );
}

function RanEverywhere(props: {
  readonly all: readonly { readonly course: CourseCard; readonly data: TodayAnswer }[];
}) {
  const rounds = props.all
    .flatMap(({ course, data }) => data.rang.map((round) => ({ course, round })))
    .sort((a, b) => b.round.at - a.round.at);
  return (
    <Card title="What ran in the last days" count={rounds.length}>
      {rounds.length === 0 && <p className="text-ink-2">No rule ran.</p>}
      <ul>
        {rounds.slice(0, MOST).map(({ course, round }) => (
          <li key={`${course.id} ${round.rule} ${round.at}`} className="border-b border-line py-2 last:border-b-0">
            <span className="font-semibold text-ink-2">{course.code}</span>{' '}
            <Link className="font-bold hover:underline" to={`/c/${course.id}/rules/${round.rule}/history`}>
              {round.name}
            </Link>
            <span className="block text-[14px] text-ink-2">
              <When at={round.at} zone={course.timeZone} />: {roundWords(round)}
            </span>
          </li>
        ))}
      </ul>
    </Card>
  );
}
