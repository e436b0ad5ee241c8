/** Who came back after a message: of everybody, or of the students who were chosen in the table. Printed, or taken along. */
import { useState } from 'react';
import { Link, useLocation, useNavigate, useSearchParams } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { dateOf, dateWords, DAY, dayNumberOf, dayWords, localDateSchema, plural } from '@zest-bell/core/time';
import { dateTime, text, type ExportTable } from '@zest-bell/core/exports';
import { KNOWN_AFTER } from '@zest-bell/core/outcomes';
import type { BackLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { BackGroup } from '../../lib/backGroup.ts';
import { studentPath, useHere, type CourseHere } from '../../lib/here.ts';
import { Empty, Failed, Loading } from '../../parts/common/States.tsx';
import { ExportMenu } from '../../parts/exports/ExportMenu.tsx';
import { Button } from '../../ui/Button.tsx';
import { DateField } from '../../ui/fields.tsx';
import { Page } from '../../ui/Page.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { When } from '../../ui/When.tsx';

/** The days that are shown at first. */
const BACK_DAYS = 14;
/** Rows at once. */
const MOST = 200;

export function BackPage() {
  const here = useHere();
  const { calendar } = here.course;
  const [params, setParams] = useSearchParams();
  const [shown, setShown] = useState(MOST);
  const group = useGroup(here);
  const asked = localDateSchema.safeParse(params.get('since'));
  const today = calendar.dayNumber(here.now);
  const date = asked.success ? asked.data : dateOf(today - BACK_DAYS);
  const since = calendar.zone.toInstant(dayNumberOf(date) * DAY);
  const answer = useQuery({
    queryKey: ['back', here.id, here.answer.version, here.now, since],
    queryFn: () => ask(contract.desk.back, { course: here.id }, { query: { since } }),
  });
  const lines = answer.data ? inOrder(answer.data.lines.filter((l) => group.has(l.student))) : null;
  const title = `Who came back since ${dateWords(date)}`;
  return (
    <Page
      title={title}
      lead={
        <Link
          className="font-semibold text-pine underline-offset-4 hover:underline print:hidden"
          to={`/c/${here.id}/log`}
        >
          ← Send log
        </Link>
      }
      actions={
        lines &&
        lines.length > 0 && (
          <>
            <Button onClick={() => window.print()}>Print</Button>
            <ExportMenu what={plural(lines.length, 'nudge')} table={() => tableOf(here, title, lines)} />
          </>
        )
      }
      filters={
        <div className="flex flex-wrap items-end gap-3 print:hidden">
          <DateField
            label="Messages sent on or after"
            value={date}
            min={here.course.start}
            max={dateOf(today)}
            onChange={(next) => setParams({ since: next }, { replace: true, state: group.state })}
          />
          {group.students && (
            <p className="pb-1.5 text-[14.5px]">
              {plural(group.students.length, 'student')} from Students{' '}
              <Button look="quiet" onClick={group.clear}>
                Show everybody
              </Button>
            </p>
          )}
        </div>
      }
    >
      {answer.isError ? (
        <Failed error={answer.error} retry={() => void answer.refetch()} />
      ) : !lines ? (
        <Loading what="who came back" />
      ) : lines.length === 0 ? (
        <Empty title="Nothing was sent">
          {group.students ? 'None of these students' : 'Nobody'} got a message since {dateWords(date)}. Choose an
          earlier day.
        </Empty>
      ) : (
        <section className="rounded-[16px] border border-line bg-sheet px-5 py-4">
          <p role="status" className="text-[15px]">
            {summaryOf(lines, group.students)}
          </p>
          <PlainTable
            label={title}
            columns={[{ name: 'Student' }, { name: 'Message' }, { name: 'Came back' }, { name: 'Replied' }]}
            rows={lines.slice(0, shown).map((line) => rowOf(here, line))}
          />
          {lines.length > shown && (
            <Button onClick={() => setShown(shown + MOST)}>
              Show {Math.min(MOST, lines.length - shown)} of {lines.length - shown} more
            </Button>
          )}
          <p className="mt-3 text-[13.5px] text-ink-2">
            A student has come back when, within two weeks of the message, they did what it was about: a visit after an
            absence, for example.
          </p>
        </section>
      )}
    </Page>
  );
}

/** The students for whom the page was opened; everybody, unless it was opened for a group. */
function useGroup(here: CourseHere) {
  const { state } = useLocation() as { readonly state: BackGroup | null };
  const navigate = useNavigate();
  const students = state?.students.filter((s) => here.course.personIndex.has(s)) ?? null;
  const known = students && new Set(students);
  return {
    state,
    students,
    has: (student: string) => known === null || known.has(student),
    clear: () => void navigate({ search: window.location.search }, { replace: true, state: null }),
  };
}

/** Who came back first, the latest on top; then the others, the latest message on top. */
const inOrder = (lines: readonly BackLine[]): readonly BackLine[] =>
  [...lines].sort((a, b) => (b.back?.at ?? 0) - (a.back?.at ?? 0) || b.sentAt - a.sentAt);

function summaryOf(lines: readonly BackLine[], group: readonly string[] | null): string {
  const written = new Set(lines.map((l) => l.student));
  const back = new Set(lines.flatMap((l) => (l.back ? [l.student] : [])));
  const none = group ? group.length - written.size : 0;
  const of = `${back.size} of the ${plural(written.size, 'student')} who got a message came back.`;
  return none > 0 ? `${of} ${plural(none, 'student')} of this group got no message in this time.` : of;
}

function notBack({ canReturn, sentAt }: BackLine, here: CourseHere): string {
  if (!canReturn) return 'nothing to come back to';
  return here.now < sentAt + KNOWN_AFTER ? 'not yet' : 'not within two weeks';
}

const rowOf = (here: CourseHere, line: BackLine) => {
  const zone = here.course.timeZone;
  return {
    key: String(line.nudge),
    head: here.course.personIndex.has(line.student) ? (
      <Link className="text-pine underline-offset-4 hover:underline" to={studentPath(here, line.student)}>
        {line.name}
      </Link>
    ) : (
      line.name
    ),
    cells: [
      <Link key="sent" className="underline-offset-4 hover:underline" to={`/c/${here.id}/log?nudge=${line.nudge}`}>
        {dayWords(line.sentAt, zone)}, {line.ruleName ?? 'by hand'}
      </Link>,
      line.back ? (
        <span key="back">
          <When at={line.back.at} zone={zone} words={dayWords} />: {line.back.what}
        </span>
      ) : (
        <span key="back" className="text-ink-2">
          {notBack(line, here)}
        </span>
      ),
      line.replied ? 'yes' : '–',
    ],
  };
};

const tableOf = (here: CourseHere, name: string, lines: readonly BackLine[]): ExportTable => ({
  name: `${here.course.code} ${name}`,
  zone: here.course.timeZone,
  columns: [
    ...[text('ID'), text('Student'), dateTime('Message sent'), text('Rule')],
    ...[dateTime('Came back'), text('What they did'), text('Replied')],
  ],
  rows: lines.map((l) => [
    ...[l.student, l.name, l.sentAt, l.ruleName ?? 'by hand'],
    ...[l.back?.at ?? null, l.back?.what ?? notBack(l, here), l.replied ? 'yes' : 'no'],
  ]),
});
