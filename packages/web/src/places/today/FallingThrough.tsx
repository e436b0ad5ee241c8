/** Students whom a rule finds and does not reach, the longest first, each with what helps. */
import { useState } from 'react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { DAY, dayWords, plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import type { FallingLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';

import { studentPath, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Failed } from '../../parts/common/States.tsx';
import { AddressDialog } from './AddressDialog.tsx';
import { AsideDialog } from '../../parts/editing/AsideDialog.tsx';
import { Card } from './Card.tsx';
import { byWeight, canBeWritten, fallingWords } from './fallingWords.ts';
import { WriteNowDialog } from './WriteNowDialog.tsx';

/** Lines that are shown at first; nobody reads forty before class. */
const SHOWN = 6;

export function FallingThrough({ here }: { readonly here: CourseHere }) {
  const [all, setAll] = useState(false);
  const falling = useQuery({
    ...atMoment(['falling', here.id], here.now),
    queryFn: ({ signal }) => ask(contract.desk.falling, { course: here.id }, { signal }),
  });
  if (falling.isError) return <Failed error={falling.error} retry={() => void falling.refetch()} />;
  if (!falling.data) return null;
  const { lines, aside } = falling.data;
  const students = [...byStudent(lines).values()];
  if (students.length === 0 && aside.length === 0) return null;
  const shown = all ? students : students.slice(0, SHOWN);
  return (
    <Card
      title="Falling through"
      count={students.length}
      note="Students who match a rule but are not reached by it, longest first."
    >
      {students.length === 0 && <p className="py-2 text-ink-2">Nobody, apart from the students you set aside.</p>}
      <ul>
        {shown.map((ofStudent) => (
          <Student key={ofStudent[0]!.student} here={here} lines={ofStudent} />
        ))}
      </ul>
      {students.length > shown.length && (
        <Button look="quiet" className="mt-2" onClick={() => setAll(true)}>
          Show all {students.length} students
        </Button>
      )}
      {aside.length > 0 && (
        <details className="pt-3 text-[14.5px]">
          <summary className="cursor-pointer text-ink-2">{plural(aside.length, 'student')} set aside</summary>
          <ul>
            {aside.map((a) => (
              <li key={a.student} className="flex flex-wrap items-baseline gap-x-3 py-1.5">
                <Link className="font-semibold hover:underline" to={studentPath(here, a.student)}>
                  {a.name}
                </Link>
                <span className="min-w-0 flex-1 text-ink-2">
                  until {dayWords(a.until, here.course.timeZone)}
                  {a.note && `: “${a.note}”`} ({a.by})
                </span>
                <BringBack here={here} student={a.student} name={a.name} />
              </li>
            ))}
          </ul>
        </details>
      )}
    </Card>
  );
}

/** Students in the order of their longest line. */
function byStudent(lines: readonly FallingLine[]): ReadonlyMap<string, FallingLine[]> {
  const students = new Map<string, FallingLine[]>();
  for (const line of lines) {
    const known = students.get(line.student);
    if (known) known.push(line);
    else students.set(line.student, [line]);
  }
  return students;
}

const heaviest = (lines: readonly FallingLine[]): FallingLine => byWeight(lines)[0]!;

type OpenedPart = { readonly what: 'address' | 'aside' } | { readonly what: 'write'; readonly line: FallingLine };

function Student({ here, lines }: { readonly here: CourseHere; readonly lines: readonly FallingLine[] }) {
  const [opened, setOpened] = useState<OpenedPart | null>(null);
  const first = lines[0]!;
  const zone = here.course.timeZone;
  const close = () => setOpened(null);
  const noAddress = lines.some((l) => l.reason === 'noAddress' || l.reason === 'bounced');
  const writable = byWeight(lines).find(canBeWritten);
  const limited = lines.find((l) => l.reason === 'budget' || l.reason === 'limit' || l.reason === 'paused');
  return (
    <li className="border-b border-line py-3 last:border-b-0" data-testid={`falling-${first.student}`}>
      <p className="flex flex-wrap items-baseline gap-x-3">
        <Link className="font-bold underline-offset-4 hover:underline" to={studentPath(here, first.student)}>
          {first.name}
        </Link>
        <span className="text-[14px] text-ink-2">
          {plural(Math.max(1, Math.floor((here.now - first.since) / DAY)), 'day')}
        </span>
      </p>
      {fallingWords(lines, zone).map((words) => (
        <p key={words} className="text-[14.5px]">
          {words}
        </p>
      ))}
      <p className="text-[13.5px] text-ink-2">Now: {evidenceWords(heaviest(lines).evidence, zone)}.</p>
      <p className="mt-1.5 flex flex-wrap items-center gap-x-4 gap-y-1">
        {noAddress && (
          <Button needs="data.write" look="quiet" onClick={() => setOpened({ what: 'address' })}>
            {first.reason === 'bounced' ? 'Change the address' : 'Add an address'}
          </Button>
        )}
        {writable && !noAddress && (
          <Button needs="nudges.decide" look="quiet" onClick={() => setOpened({ what: 'write', line: writable })}>
            {writable.reason === 'budget' ? 'Let this one through' : 'Write now'}
          </Button>
        )}
        {limited && (
          <Link
            className="px-1 font-semibold text-pine underline-offset-4 hover:underline"
            to={`/c/${here.id}/rules/${limited.rule}?open=limits`}
          >
            {limited.reason === 'limit' ? 'Raise the limit' : 'Make the rule essential'}
          </Link>
        )}
        <Button look="quiet" onClick={() => setOpened({ what: 'aside' })}>
          Set aside
        </Button>
      </p>
      {opened?.what === 'address' && <AddressDialog here={here} student={first.student} onClose={close} />}
      {opened?.what === 'aside' && <AsideDialog here={here} students={[first.student]} onClose={close} />}
      {opened?.what === 'write' && <WriteNowDialog here={here} line={opened.line} onClose={close} />}
    </li>
  );
}

function BringBack(props: { readonly here: CourseHere; readonly student: string; readonly name: string }) {
  const bring = () =>
    attempt(async () => {
      await ask(contract.desk.takeBackAside, { course: props.here.id, student: props.student });
      await refreshAll();
      toast(`${props.name} is back on the list.`);
    });
  return (
    <Button look="quiet" onClick={() => bring()}>
      Bring back
    </Button>
  );
}
