/** When the rule looks: how often, and from when until when. */
import { useTyped } from '../../ui/useTyped.ts';
import { useState } from 'react';
import {
  dateWords,
  WEEKDAY_NAMES,
  WEEKDAYS,
  instantWords,
  roundInstants,
  rruleProblem,
  type Instant,
  type Rhythm,
  type Weekday,
} from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { withRhythm } from '@zest-bell/core/saying';
import {
  NTH_WORDS,
  NTHS,
  plainRhythm,
  rhythmWords,
  runWords,
  withPlain,
  type MonthDay,
  type PlainRhythm,
} from '@zest-bell/core/rules';
import { Check, DateField, Labelled, NumberField, SelectField, TimeField } from '../../ui/fields.tsx';
import { WeekdayToggles } from '../../ui/WeekdayToggles.tsx';
import { Part } from '../../ui/Part.tsx';
import { SayPart } from '../saying/SayPart.tsx';
import { RunStrip } from './RunStrip.tsx';

interface RhythmProps {
  readonly rhythm: Rhythm;
  readonly course: Course;
  readonly now: Instant;
  readonly onChange: (rhythm: Rhythm, tag?: string) => void;
}

const WORKDAYS: readonly Weekday[] = ['MO', 'TU', 'WE', 'TH', 'FR'];

/** What the first choice offers; "expert" is a recurrence rule as it is written. */
const KINDS = {
  hour: 'every few hours',
  day: 'every few days',
  weekdays: 'every weekday',
  week: 'on chosen days of the week',
  month: 'every month',
  once: 'once, on a single date',
  expert: 'on a schedule of your own',
} as const;
type RhythmKind = keyof typeof KINDS;

function kindOf(plain: PlainRhythm | null): RhythmKind {
  if (!plain) return 'expert';
  if (plain.every === 'week' && plain.interval === 1 && plain.days.join() === WORKDAYS.join()) return 'weekdays';
  return plain.every;
}

const MOST_EVERY = { hour: 23, day: 60, week: 26 } as const;

export function RhythmPart(props: RhythmProps) {
  const { rhythm, course, onChange } = props;
  const plain = plainRhythm(rhythm);
  // Somebody who asks for the rule itself gets it, although the plain controls could say it.
  const [expert, setExpert] = useState(false);
  const [spread, setSpread] = useState(false);
  const set = (next: PlainRhythm) => onChange(withPlain(rhythm, next));
  const found = kindOf(plain);
  const kind = expert ? 'expert' : spread && found === 'weekdays' ? 'week' : found;
  const choose = (next: RhythmKind) => {
    setExpert(next === 'expert');
    setSpread(next === 'week');
    const interval = plain && 'interval' in plain ? plain.interval : 1;
    if (next === 'hour') set({ every: 'hour', interval: 3 });
    else if (next === 'day') set({ every: 'day', interval: plain?.every === 'day' ? interval : 1 });
    else if (next === 'weekdays') set({ every: 'week', interval: 1, days: WORKDAYS });
    else if (next === 'week') set({ every: 'week', interval: 1, days: plain?.every === 'week' ? plain.days : ['MO'] });
    else if (next === 'month') set({ every: 'month', on: { nth: 1, day: 'MO' } });
    else if (next === 'once') set({ every: 'once' });
  };
  const date = rhythm.start.slice(0, 10);
  const setStart = (day: string, time: string) => onChange({ ...rhythm, start: `${day}T${time}` }, 'time');
  const time = rhythm.start.slice(11, 16);
  return (
    <Part words={rhythmWords(rhythm)} label="When it runs" wide>
      <SayPart
        course={course}
        label="Type when it runs"
        placeholder="Sundays and Tuesdays at 6 pm until Nov 10"
        takes={['rhythm']}
        start={rhythm.start}
        onTake={({ rhythm: said }) => {
          setExpert(false);
          if (said) onChange(withRhythm(rhythm, said));
        }}
      />
      <SelectField label="Run" value={kind} onChange={(e) => choose(e.target.value as RhythmKind)}>
        {Object.entries(KINDS).map(([k, words]) => (
          <option key={k} value={k}>
            {words}
          </option>
        ))}
      </SelectField>
      {kind === 'expert' ? (
        <RawRule rhythm={rhythm} onChange={onChange} />
      ) : (
        plain &&
        plain.every !== 'once' &&
        plain.every !== 'month' &&
        kind !== 'weekdays' && (
          <NumberField
            label={plain.every === 'week' ? 'Every how many weeks' : `Every how many ${plain.every}s`}
            whole
            min={1}
            max={MOST_EVERY[plain.every]}
            value={plain.interval}
            onChange={(n) => n !== null && set({ ...plain, interval: n })}
          />
        )
      )}
      {kind === 'week' && plain?.every === 'week' && (
        <WeekdayToggles
          legend="on"
          chosen={plain.days}
          onChange={(days) => days.length > 0 && set({ ...plain, days })}
        />
      )}
      {kind === 'month' && plain?.every === 'month' && (
        <MonthFields on={plain.on} onChange={(on) => set({ every: 'month', on })} />
      )}
      <div className="flex flex-wrap gap-3">
        {plain?.every === 'once' && (
          <DateField
            label="on"
            value={date}
            min={course.start}
            max={course.end}
            onChange={(day) => onChange({ ...rhythm, start: `${day}T${time}`, until: day })}
          />
        )}
        <TimeField
          label={plain?.every === 'hour' ? 'first at (course time)' : 'at (course time)'}
          value={time}
          onChange={(t) => setStart(date, t)}
        />
      </div>
      <NextRounds {...props} />
    </Part>
  );
}

/** The first Monday of each month, or a date of it. */
function MonthFields({ on, onChange }: { readonly on: MonthDay; readonly onChange: (on: MonthDay) => void }) {
  return (
    <div className="flex flex-wrap items-end gap-3">
      <SelectField
        label="on"
        value={'date' in on ? 'date' : String(on.nth)}
        onChange={(e) => {
          const nth = NTHS.find((n) => String(n) === e.target.value);
          onChange(nth === undefined ? { date: 1 } : { nth, day: 'date' in on ? 'MO' : on.day });
        }}
      >
        {NTHS.map((n) => (
          <option key={n} value={n}>
            the {NTH_WORDS[n]}
          </option>
        ))}
        <option value="date">a date</option>
      </SelectField>
      {'date' in on ? (
        <NumberField
          label="day of the month"
          whole
          min={1}
          max={31}
          value={on.date}
          onChange={(date) => date !== null && onChange({ date })}
        />
      ) : (
        <SelectField
          label="day of the week"
          value={on.day}
          onChange={(e) => onChange({ nth: on.nth, day: e.target.value as Weekday })}
        >
          {WEEKDAYS.map((day) => (
            <option key={day} value={day}>
              {WEEKDAY_NAMES[day]}
            </option>
          ))}
        </SelectField>
      )}
    </div>
  );
}

/** The next five looks by date, so that a rhythm is seen and not only read. */
function NextRounds({ rhythm, course, now }: RhythmProps) {
  const coming = roundInstants(rhythm, course.calendar, now + 1);
  return (
    <div>
      <h3 className="font-body text-[13px] font-semibold text-ink-2">
        {coming.length === 0 ? 'No checks left' : `The next checks, of ${coming.length}`}
      </h3>
      <ol className="mt-1 font-num text-[13px] leading-relaxed" data-testid="next-rounds">
        {coming.slice(0, 5).map((t) => (
          <li key={t}>{instantWords(t, course.timeZone)}</li>
        ))}
      </ol>
    </div>
  );
}

/** A recurrence rule as it is written. */
function RawRule({ rhythm, onChange }: Pick<RhythmProps, 'rhythm' | 'onChange'>) {
  const [text, type] = useTyped(rhythm.rrule);
  const problem = rruleProblem(text) ?? undefined;
  return (
    <Labelled label="Recurrence rule" problem={problem}>
      {(id) => (
        <>
          <input
            id={id}
            className="field font-num"
            value={text}
            spellCheck={false}
            aria-invalid={problem !== undefined}
            onChange={(e) => {
              const fits = !rruleProblem(e.target.value);
              type(e.target.value);
              if (fits) onChange({ ...rhythm, rrule: e.target.value }, 'rrule');
            }}
          />
          <span className="text-[13px] text-ink-2">
            For experts: a rule such as FREQ=YEARLY;BYMONTH=10;BYDAY=1MO. Set the first and the last day in the
            sentence.
          </span>
        </>
      )}
    </Labelled>
  );
}

/** First and last day it looks. */
export function RunPart({ rhythm, course, now, onChange }: RhythmProps) {
  const from = rhythm.start.slice(0, 10);
  const until = rhythm.until ?? course.end;
  const problem = until < from ? 'The last day is before the first day' : undefined;
  const setFrom = (date: string, tag?: string) =>
    onChange({ ...rhythm, start: `${date}${rhythm.start.slice(10)}` }, tag);
  const setUntil = (date: string, tag?: string) => onChange({ ...rhythm, until: date }, tag);
  const once = plainRhythm(rhythm)?.every === 'once';
  return (
    <Part words={runWords(rhythm, course)} label="First and last day" wide>
      <RunStrip
        course={course}
        now={now}
        from={from}
        until={until}
        rounds={roundInstants(rhythm, course.calendar)}
        onFrom={(date) => setFrom(date, 'run-from')}
        onUntil={(date) => setUntil(date, 'run-until')}
      />
      <div className="grid grid-cols-2 gap-3">
        <DateField label="First day" value={from} min={course.start} max={course.end} onChange={(d) => setFrom(d)} />
        <DateField
          label="Last day"
          value={until}
          min={course.start}
          max={course.end}
          problem={problem}
          onChange={(d) => setUntil(d)}
        />
      </div>
      {once && <p className="text-[13px] text-ink-2">The first and last day are the same: this rule runs once.</p>}
      <p className="text-[13px] text-ink-2">
        The course runs {dateWords(course.start)} to {dateWords(course.end)}. No rule runs outside it.
      </p>
      {course.breaks.length > 0 && (
        <Check
          label={`Do not run on breaks (${course.breaks.map((b) => b.name ?? dateWords(b.from)).join(', ')})`}
          checked={rhythm.skipBreaks}
          onChange={(skipBreaks) => onChange({ ...rhythm, skipBreaks })}
        />
      )}
    </Part>
  );
}
