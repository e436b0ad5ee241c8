/** Students whom a rule finds and does not reach, the longest first, each with what helps. */
import { useState } from 'react';
import { DropdownMenu } from 'radix-ui';
import { Ellipsis } from 'lucide-react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { DAY, dayWords, plural } from '@zest-bell/core/time';
import { evidenceFacts } from '@zest-bell/core/conditions';
import type { FallingLine } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { atMoment } from '../../lib/atMoment.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { menuItem } from '../../ui/menu.ts';
import { Failed } from '../../parts/common/States.tsx';
import { AddressDialog } from './AddressDialog.tsx';
import { AsideDialog } from '../../parts/editing/AsideDialog.tsx';
import { Card } from './Card.tsx';
import { byWeight, canBeWritten, fallingWords, REASON_WORDS } from './fallingWords.ts';
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
  const [isTold, setTold] = useState(false);
  const first = lines[0]!;
  const zone = here.course.timeZone;
  const close = () => setOpened(null);
  const help = helpFor(lines);
  const facts = evidenceFacts(heaviest(lines).evidence, zone);
  return (
    <li className="border-b border-line py-1.5 last:border-b-0" data-testid={`falling-${first.student}`}>
      <div className="grid min-h-11 grid-cols-[minmax(0,1fr)_auto_auto] items-center gap-x-3 min-[560px]:grid-cols-[minmax(0,1fr)_40px_182px_auto]">
        <div className="min-w-0 max-[559px]:col-span-full">
          <p className="flex items-baseline gap-x-2">
            <Link
              className="truncate text-[14.5px] leading-[22px] font-semibold underline-offset-4 hover:underline"
              to={studentPath(here, first.student)}
            >
              {first.name}
            </Link>
            <Chip tone="quiet">{REASON_WORDS[first.reason]}</Chip>
          </p>
          <button
            type="button"
            aria-expanded={isTold}
            title={isTold ? undefined : facts.map((f) => f.exact).join(' · ')}
            className="block w-full truncate text-left text-[13px] leading-[18px] text-ink-2 hover:text-ink"
            onClick={() => setTold(!isTold)}
          >
            {facts.map((f) => f.words).join(' · ')}
          </button>
        </div>
        <span
          className="text-[14px] tabular-nums min-[560px]:text-right"
          title={`Not reached since ${dayWords(first.since, zone)}`}
        >
          {Math.max(1, Math.floor((here.now - first.since) / DAY))} d
        </span>
        <span className="justify-self-end">
          <Help help={help} onOpen={setOpened} />
        </span>
        <DropdownMenu.Root>
          <DropdownMenu.Trigger
            aria-label={`More about ${first.name}`}
            className="-mr-2 grid size-8 place-items-center rounded-lg hover:bg-fog"
          >
            <Ellipsis size={17} aria-hidden />
          </DropdownMenu.Trigger>
          <DropdownMenu.Portal>
            <DropdownMenu.Content align="end" sideOffset={4} className="pop z-50 min-w-56 p-1.5">
              {help.limited && (
                <DropdownMenu.Item asChild className={menuItem}>
                  <Link to={limitsOf(here, help.limited)}>{limitWords(help.limited)}</Link>
                </DropdownMenu.Item>
              )}
              <DropdownMenu.Item className={menuItem} onSelect={() => setOpened({ what: 'aside' })}>
                Set aside
              </DropdownMenu.Item>
            </DropdownMenu.Content>
          </DropdownMenu.Portal>
        </DropdownMenu.Root>
      </div>
      {isTold && (
        <div className="pb-1.5 text-[14px]">
          {fallingWords(lines, zone).map((words) => (
            <p key={words}>{words}</p>
          ))}
          <p className="text-ink-2">Now: {facts.map((f) => f.exact).join(' · ')}.</p>
        </div>
      )}
      {opened?.what === 'address' && <AddressDialog here={here} student={first.student} onClose={close} />}
      {opened?.what === 'aside' && <AsideDialog here={here} students={[first.student]} onClose={close} />}
      {opened?.what === 'write' && <WriteNowDialog here={here} line={opened.line} onClose={close} />}
    </li>
  );
}

/** What helps a student, as far as anything does. */
interface HelpForStudent {
  /** Whether the address that is known was the trouble; null where the address is in order. */
  readonly address: 'none' | 'bounced' | null;
  readonly writable: FallingLine | undefined;
  /** The line of the rule with a limit that can be changed. */
  readonly limited: FallingLine | undefined;
}

function helpFor(lines: readonly FallingLine[]): HelpForStudent {
  const address = lines.find((l) => l.reason === 'noAddress' || l.reason === 'bounced');
  return {
    address: address === undefined ? null : address.reason === 'bounced' ? 'bounced' : 'none',
    writable: byWeight(lines).find(canBeWritten),
    limited: lines.find((l) => l.reason === 'budget' || l.reason === 'limit' || l.reason === 'paused'),
  };
}

const limitsOf = (here: CourseHere, line: FallingLine): string => `/c/${here.id}/rules/${line.rule}?open=limits`;
const limitWords = (line: FallingLine): string =>
  line.reason === 'limit' ? 'Raise the limit' : 'Make the rule essential';

/** The one thing that helps most. That a rule may pass a student's pause is never proposed first. */
function Help(props: { readonly help: HelpForStudent; readonly onOpen: (part: OpenedPart) => void }) {
  const { help, onOpen } = props;
  const { address, writable } = help;
  if (address !== null)
    return (
      <Button needs="data.write" onClick={() => onOpen({ what: 'address' })}>
        {address === 'bounced' ? 'Change the address' : 'Add an address'}
      </Button>
    );
  if (writable)
    return (
      <Button needs="nudges.decide" onClick={() => onOpen({ what: 'write', line: writable })}>
        {writable.reason === 'budget' ? 'Let this one through' : 'Write now'}
      </Button>
    );
  return <Button onClick={() => onOpen({ what: 'aside' })}>Set aside</Button>;
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
