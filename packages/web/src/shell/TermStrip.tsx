/**
 * The spine under the top bar: a column a day of the term, what was sent on it, breaks, now, and the rounds to come. It is
 * one stop for the keyboard; arrows walk the days. A press, or Enter, opens the day: what was sent on it, and what can be seen of it.
 */
import { useRef, useState, type KeyboardEvent, type ReactNode } from 'react';
import { Popover } from 'radix-ui';
import { dateOf, dayNumberOf, dayWords, DAY, numberWords, plural, timeWords } from '@zest-bell/core/time';
import type { TermAnswer } from '@zest-bell/core/exchange';
import { useTerm } from '../lib/queries.ts';
import { Button, LinkButton } from '../ui/Button.tsx';
import type { CourseHere } from '../lib/here.ts';
import { useStripRun } from '../lib/stripRun.ts';
import { useTermMoment } from '../lib/termMoment.ts';

/** The same on every page, so that nothing below it moves from one to the next. */
const HEIGHT = 36;
const BASE = 24;
const TALLEST = 18;

export function TermStrip({ here }: { readonly here: CourseHere }) {
  const term = useTerm(here.id);
  if (!term.data) return <div className="bg-strip" style={{ height: HEIGHT }} />;
  return <Strip here={here} term={term.data} />;
}

interface StripDay {
  readonly number: number;
  readonly date: string;
  readonly sent: number;
  readonly attention: number;
  readonly rounds: readonly { readonly at: number; readonly rules: readonly string[] }[];
}

function Strip({ here, term }: { readonly here: CourseHere; readonly term: TermAnswer }) {
  const { calendar, timeZone } = here.course;
  const today = calendar.dayNumber(here.now);
  const byDay = new Map<number, StripDay['rounds'][number][]>();
  for (const round of term.coming) {
    const day = calendar.dayNumber(round.at);
    byDay.set(day, [...(byDay.get(day) ?? []), round]);
  }
  const days = term.days.map((d): StripDay => {
    const number = dayNumberOf(d.date);
    return { ...d, number, rounds: byDay.get(number) ?? [] };
  });
  const first = days[0]?.number ?? today;
  const run = useStripRun((s) => s.run);
  const looks = new Set(run?.rounds.map((t) => calendar.dayNumber(t)));
  const [cursor, setCursor] = useState<number | null>(null);
  const shown = cursor === null ? null : days[Math.max(0, Math.min(days.length - 1, cursor))]!;
  const weeks = Math.ceil(days.length / 7);
  const width = 100 / (weeks * 7);
  const most = Math.max(4, ...days.map((d) => d.sent + d.attention));
  const left = (number: number) => (number - first) * width;
  const nowLeft = left(calendar.zone.toWall(here.now) / DAY);

  const { asOf, follows, move } = useTermMoment();
  const strip = useRef<HTMLDivElement>(null);
  const [opened, setOpened] = useState<StripDay | null>(null);
  // A place that follows the strip sees the term as it was at the end of a day; today it is now again.
  const moveTo = (day: StripDay) => {
    move(day.number === today ? null : calendar.zone.toInstant((day.number + 1) * DAY) - 1);
    setOpened(null);
  };
  const seenLeft = asOf === null ? null : left(calendar.zone.toWall(asOf) / DAY);
  const onKeyDown = (e: KeyboardEvent) => {
    const at = cursor ?? Math.max(0, Math.min(days.length - 1, today - first));
    const step = { ArrowRight: 1, ArrowLeft: -1, ArrowDown: 7, ArrowUp: -7 }[e.key];
    if (step !== undefined) setCursor(Math.max(0, Math.min(days.length - 1, at + step)));
    else if (e.key === 'Home') setCursor(0);
    else if (e.key === 'End') setCursor(days.length - 1);
    else if (e.key === 'Enter' && shown) setOpened(shown);
    else return;
    e.preventDefault();
  };

  return (
    <div
      ref={strip}
      role="slider"
      tabIndex={0}
      aria-label="Term, day by day. Use the arrow keys to move, Enter to open a day"

      aria-valuemin={0}
      aria-valuemax={days.length - 1}
      aria-valuenow={cursor ?? Math.max(0, Math.min(days.length - 1, today - first))}
      aria-valuetext={dayText(shown ?? days[Math.max(0, Math.min(days.length - 1, today - first))], timeZone)}
      onKeyDown={onKeyDown}
      onBlur={() => setCursor(null)}
      onMouseLeave={() => setCursor(null)}
      className="on-strip relative bg-strip text-[10.5px] leading-[13px] text-strip-ink outline-offset-[-3px]"
      style={{ height: HEIGHT }}
      data-testid="term-strip"
    >
      <div className="absolute inset-y-0 right-5 left-5">
        {Array.from({ length: weeks }, (_, w) => (
          <div
            key={w}
            aria-hidden
            className="absolute top-1 bottom-0 border-l border-[#2d3d36]"
            style={{ left: `${w * 7 * width}%` }}
          >
            <span
              className={`absolute bottom-0 left-1 whitespace-nowrap ${today >= first + w * 7 && today < first + (w + 1) * 7 ? 'font-bold text-zest' : 'max-[760px]:hidden'}`}
            >
              wk {w + 1}
            </span>
          </div>
        ))}
        {here.course.breaks.map((b) => (
          <div
            key={b.from}
            aria-hidden
            className="absolute top-1 overflow-hidden bg-[repeating-linear-gradient(115deg,#22302a_0_7px,#2d3d36_7px_8px)] pl-1.5 whitespace-nowrap"
            style={{
              left: `${left(dayNumberOf(b.from))}%`,
              width: `${(dayNumberOf(b.to) - dayNumberOf(b.from) + 1) * width}%`,
              height: BASE - 4,
            }}
          >
            <span className="max-[760px]:hidden">{b.name ?? 'Break'}</span>
          </div>
        ))}
        {run && (
          <div
            aria-hidden
            className="pointer-events-none absolute top-[3px] h-[3px] rounded-full bg-zest/80"
            style={{
              left: `${left(dayNumberOf(run.from))}%`,
              width: `${Math.max(0, left(dayNumberOf(run.until) + 1) - left(dayNumberOf(run.from)))}%`,
            }}
          />
        )}
        {days.map((d, i) => (
          <div
            key={d.number}
            aria-hidden
            title={dayText(d, timeZone)}
            onMouseEnter={() => setCursor(i)}
            onClick={() => setOpened(d)}
            className={`absolute top-0 bottom-0 cursor-pointer hover:bg-white/10 ${cursor === i ? 'bg-white/10' : ''}`}
            style={{ left: `${left(d.number)}%`, width: `${width}%` }}
          >
            <Bar day={d} most={most} />
            {d.number >= today && (d.rounds.length > 0 || looks.has(d.number)) && (
              <span
                className={`absolute left-1/2 size-[5px] -translate-x-1/2 rounded-full border ${looks.has(d.number) ? 'border-zest bg-zest' : 'border-[#8fa398]'}`}
                style={{ top: BASE - 7 }}
              />
            )}
          </div>
        ))}
        {nowLeft >= 0 && nowLeft <= 100 && (
          <div
            aria-hidden
            className="pointer-events-none absolute inset-y-0 w-0.5 bg-zest"
            style={{ left: `${nowLeft}%`, height: BASE }}
          >
            <span className="absolute -top-px left-1/2 -translate-x-1/2 border-x-[5px] border-t-[7px] border-x-transparent border-t-zest" />
          </div>
        )}
        {seenLeft !== null && (
          <div
            aria-hidden
            className="pointer-events-none absolute inset-y-0 w-0.5 bg-white"
            style={{ left: `${seenLeft}%`, height: BASE }}
          >
            <span className="absolute -top-px left-1/2 -translate-x-1/2 border-x-[5px] border-t-[7px] border-x-transparent border-t-white" />
          </div>
        )}
        {shown && !opened && (
          <div
            role="status"
            className="pop pointer-events-none absolute top-full z-30 mt-1 max-w-80 -translate-x-1/2 px-3 py-2 text-[13px] leading-snug"
            style={{ left: `clamp(150px, ${left(shown.number) + width / 2}%, calc(100% - 150px))` }}
          >
            {dayText(shown, timeZone)}
            <Legend most={most} hasRun={run !== null} />
          </div>
        )}
        {opened && (
          <Popover.Root open onOpenChange={(isOpen) => !isOpen && setOpened(null)}>
            <Popover.Anchor className="absolute bottom-0" style={{ left: `${left(opened.number) + width / 2}%` }} />
            <Popover.Portal>
              <Popover.Content
                aria-label={dayText(opened, timeZone)}
                onCloseAutoFocus={(e) => {
                  e.preventDefault();
                  strip.current?.focus({ preventScroll: true });
                }}
                collisionPadding={12}
                sideOffset={4}
                className="pop z-40 grid max-w-80 gap-2.5 px-4 py-3 text-[14px] leading-snug"
              >
                <p>{dayText(opened, timeZone)}</p>
                {opened.sent + opened.attention > 0 && (
                  <LinkButton to={`/c/${here.id}/log?date=${opened.date}`} onClick={() => setOpened(null)}>
                    {readWords(opened.sent + opened.attention)}
                  </LinkButton>
                )}
                {follows && opened.number <= today && (
                  <Button onClick={() => moveTo(opened)}>
                    {opened.number === today ? 'See the students as of now' : 'See the students as of this day'}
                  </Button>
                )}
                <Legend most={most} hasRun={run !== null} />
              </Popover.Content>
            </Popover.Portal>
          </Popover.Root>
        )}
      </div>
    </div>
  );
}

function Bar({ day, most }: { readonly day: StripDay; readonly most: number }) {
  if (day.sent + day.attention === 0) return null;
  // A day with few stays seen beside one with very many.
  const height = (n: number) => Math.max(n > 0 ? 5 : 0, (n / most) * TALLEST);
  return (
    <span className="absolute inset-x-[18%] flex flex-col" style={{ bottom: HEIGHT - BASE }}>
      {/* Hatched as well as coloured: what waits for the instructor. */}
      <span
        className="bg-[repeating-linear-gradient(45deg,#e8702a_0_3px,#b9531a_3px_5px)]"
        style={{ height: height(day.attention) }}
      />
      <span className="rounded-t-[2px] bg-[#9ccb5f]" style={{ height: height(day.sent) }} />
    </span>
  );
}

const readWords = (n: number): string => (n === 1 ? 'Read the message' : `Read the ${numberWords(n)} messages`);

/** What the strip draws, by its shapes. */
const Legend = ({ most, hasRun }: { readonly most: number; readonly hasRun: boolean }) => (
  <ul className="mt-1.5 grid gap-0.5 border-t border-line pt-1.5 text-[12.5px] text-ink-2">
    <Sign of={<span className="block size-2.5 rounded-t-[2px] bg-[#9ccb5f]" />}>
      sent on a day; the highest bar is {numberWords(most)}
    </Sign>
    <Sign of={<span className="block size-2.5 bg-[repeating-linear-gradient(45deg,#e8702a_0_3px,#b9531a_3px_5px)]" />}>
      waiting for you
    </Sign>
    <Sign of={<span className="block size-2 rounded-full border-[1.5px] border-ink-2" />}>a check to come</Sign>
    <Sign of={<span className="block h-3 w-0.5 bg-[#9cb30f]" />}>now</Sign>
    {hasRun && (
      <Sign of={<span className="block h-[3px] w-3 rounded-full bg-[#9cb30f]" />}>
        when the open rule runs; a filled circle is one of its checks
      </Sign>
    )}
  </ul>
);

const Sign = ({ of, children }: { readonly of: ReactNode; readonly children: ReactNode }) => (
  <li className="flex items-center gap-2">
    <span aria-hidden className="grid w-3 flex-none place-items-center">
      {of}
    </span>
    <span>{children}</span>
  </li>
);

function dayText(day: StripDay | undefined, zone: string): string {
  if (!day) return '';
  const date = dayWords(Date.parse(`${dateOf(day.number)}T12:00:00Z`), 'UTC');
  const parts = [day.sent > 0 ? `${plural(day.sent, 'message')} sent` : ''];
  if (day.attention > 0) parts.push(`${day.attention} waiting for you`);
  for (const r of day.rounds.slice(0, 4)) parts.push(`${timeWords(r.at, zone)} ${r.rules.join(', ')}`);
  const said = parts.filter(Boolean).join(' · ');
  return `${date}: ${said || 'nothing sent'}`;
}
