/** Students down, the term across: stretches in which a rule matches as bands, nudges and what was held back as marks. */
import { useEffect, useMemo, useRef, useState } from 'react';
import { useVirtualizer } from '@tanstack/react-virtual';
import { dayWords, plural } from '@zest-bell/core/time';
import type { Rule } from '@zest-bell/core/rules';
import { WITHHELD_WORDS } from '@zest-bell/core/rounds';
import type { ReplayedStudent } from '@zest-bell/core/outcomes';
import type { ReplayAnswer } from '@zest-bell/core/exchange';
import { nameOf, type CourseHere } from '../../lib/here.ts';
import { Empty } from '../../parts/common/States.tsx';
import { StudentReplayDialog } from './StudentReplayDialog.tsx';

const LANE = 30;
const NAME = 190;

export function ReplayGrid(props: {
  readonly here: CourseHere;
  readonly seen: ReplayAnswer;
  /** As it is, where something else is tried: a second lane above each. */
  readonly before: ReplayAnswer | null;
  readonly names: ReadonlyMap<string, string>;
  readonly changed: Rule | null;
}) {
  const { here, seen, before, names } = props;
  const rows = useMemo(() => rowsOf(here, seen, before), [here, seen, before]);
  const row = before ? 2 * LANE - 8 : LANE;
  const frame = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(900);
  const [open, setOpen] = useState<string | null>(null);
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const fit = new ResizeObserver(() => setWidth(Math.max(260, element.clientWidth - NAME - 24)));
    fit.observe(element);
    return () => fit.disconnect();
  }, []);
  // eslint-disable-next-line react-hooks/incompatible-library -- its functions are called in this render alone
  const list = useVirtualizer({
    count: rows.length,
    getScrollElement: () => frame.current,
    estimateSize: () => row,
    overscan: 6,
  });
  useEffect(() => {
    list.measure();
  }, [list, row]);
  if (rows.length === 0)
    return <Empty title="Nobody would have been nudged">No check of the term so far found a student.</Empty>;
  const { calendar } = here.course;
  const { start } = calendar;
  const end = Math.min(here.now, calendar.end);
  const x = (t: number) => ((t - start) / (end - start)) * width;
  const opened = rows.find((s) => s.student === open);
  return (
    <section aria-label="Student by student" className="rounded-[16px] border border-line bg-sheet px-3 py-3.5">
      <h2 className="px-2 text-[17px] font-bold">Student by student</h2>
      <p className="px-2 text-[14px] text-ink-2">
        A band shows when the student matches. <span aria-hidden>●</span> nudged,{' '}
        <span aria-hidden className="text-iris">
          ◆
        </span>{' '}
        waiting for you, <span aria-hidden>|</span> held back.{' '}
        {before && 'Upper lane: the saved rule. Lower lane: your version.  '}
        Press a name to read each.
      </p>
      <div
        ref={frame}
        className="mt-2 max-h-[520px] overflow-auto"
        tabIndex={0}
        role="region"
        aria-label="Students of the replay"
      >
        <div style={{ height: list.getTotalSize(), position: 'relative' }}>
          {list.getVirtualItems().map((item) => {
            const s = rows[item.index]!;
            return (
              <div
                key={s.student}
                className="absolute inset-x-0 flex items-center border-b border-line hover:bg-fog"
                style={{ top: item.start, height: row }}
              >
                <button
                  type="button"
                  onClick={() => setOpen(s.student)}
                  className="truncate px-2 text-left text-[14.5px] font-semibold underline-offset-4 hover:underline"
                  style={{ width: NAME }}
                >
                  {nameOf(here, s.student)}
                </button>
                <span className="grid">
                  {[s.was, s.is].map(
                    (lane, i) =>
                      lane && (
                        <Lane
                          key={i}
                          student={lane}
                          height={before ? LANE - 6 : LANE}
                          width={width}
                          x={x}
                          until={seen.until}
                          zone={here.course.timeZone}
                          onOpen={() => setOpen(s.student)}
                        />
                      ),
                  )}
                </span>
              </div>
            );
          })}
        </div>
      </div>
      {opened && (
        <StudentReplayDialog
          here={here}
          student={opened.student}
          versions={
            opened.was
              ? [
                  { name: 'As it is', marks: opened.was.marks, changed: null },
                  { name: 'As tried', marks: opened.is.marks, changed: props.changed },
                ]
              : [{ name: null, marks: opened.is.marks, changed: null }]
          }
          names={names}
          onClose={() => setOpen(null)}
        />
      )}
    </section>
  );
}

interface ReplayRow {
  readonly student: string;
  /** As it is; null where nothing else is tried. */
  readonly was: ReplayedStudent | null;
  readonly is: ReplayedStudent;
}

/** Everybody with a decision in either, in roster order; a student in only one has an empty lane in the other. */
function rowsOf(here: CourseHere, seen: ReplayAnswer, before: ReplayAnswer | null): ReplayRow[] {
  const is = new Map(seen.students.map((s) => [s.student, s]));
  if (!before) return seen.students.map((s) => ({ student: s.student, was: null, is: s }));
  const was = new Map(before.students.map((s) => [s.student, s]));
  const empty = (student: string): ReplayedStudent => ({ student, marks: [], spells: [] });
  return here.course.people
    .filter((p) => is.has(p.id) || was.has(p.id))
    .map(({ id }) => ({ student: id, was: was.get(id) ?? empty(id), is: is.get(id) ?? empty(id) }));
}

function Lane(props: {
  readonly student: ReplayedStudent;
  readonly height: number;
  readonly width: number;
  readonly until: number;
  readonly zone: string;
  readonly x: (t: number) => number;
  readonly onOpen: () => void;
}) {
  const { student: s, height, width, x, until, zone } = props;
  const nudges = s.marks.filter((m) => m.outcome === 'sent' || m.outcome === 'held').length;
  const middle = height / 2;
  return (
    <svg
      width={width}
      height={height}
      role="img"
      aria-label={`${plural(nudges, 'nudge')}, ${plural(s.marks.filter((m) => m.outcome === 'withheld').length, 'time')} held back`}
      className="cursor-pointer"
      onClick={props.onOpen}
    >
      {s.spells.map((spell) => (
        <rect
          key={`${spell.rule} ${spell.from}`}
          x={x(spell.from)}
          width={Math.max(2, x(spell.to ?? until) - x(spell.from))}
          y={middle - 6}
          height={12}
          rx={3}
          className="fill-strip-bar opacity-45"
        />
      ))}
      <line x1={x(until)} x2={x(until)} y1={0} y2={height} className="stroke-line-strong" strokeDasharray="2 3" />
      {s.marks.map((m) => {
        const at = x(m.round);
        const key = `${m.rule} ${m.round}`;
        const words = `${dayWords(m.round, zone)}: ${m.outcome === 'withheld' ? `held back, ${WITHHELD_WORDS[m.reason as keyof typeof WITHHELD_WORDS]}` : m.outcome === 'held' ? 'waiting for you' : m.outcome === 'sent' ? 'nudged' : 'canceled'}`;
        if (m.outcome === 'sent')
          return (
            <circle key={key} cx={at} cy={middle} r={5} className="fill-pine">
              <title>{words}</title>
            </circle>
          );
        if (m.outcome === 'held')
          return (
            <path key={key} d={`M${at} ${middle - 6}l6 6l-6 6l-6 -6z`} className="fill-iris">
              <title>{words}</title>
            </path>
          );
        return (
          <line key={key} x1={at} x2={at} y1={middle - 5} y2={middle + 5} className="stroke-ink-3" strokeWidth={1.5}>
            <title>{words}</title>
          </line>
        );
      })}
    </svg>
  );
}
