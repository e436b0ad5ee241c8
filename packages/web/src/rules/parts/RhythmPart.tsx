import { useState } from 'react';
import {
  dateWords,
  plainRhythm,
  rhythmWords,
  runWords,
  rruleProblem,
  withPlain,
  WEEKDAY_NAMES,
  WEEKDAYS,
  type Course,
  type PlainRhythm,
  type Rhythm,
  type Weekday,
} from '@zest-bell/core';
import { Check, Labelled, NumberField, SelectField } from '../../ui/fields.tsx';
import { Part } from './Part.tsx';

interface RhythmProps {
  readonly rhythm: Rhythm;
  readonly course: Course;
  readonly onChange: (rhythm: Rhythm, tag?: string) => void;
}

const WORKDAYS: readonly Weekday[] = ['MO', 'TU', 'WE', 'TH', 'FR'];

/** When the rule looks. */
export function RhythmPart({ rhythm, onChange }: RhythmProps) {
  const plain = plainRhythm(rhythm);
  const set = (next: PlainRhythm) => onChange(withPlain(rhythm, next));
  const time = rhythm.start.slice(11, 16);
  return (
    <Part words={rhythmWords(rhythm)} label="When it looks">
      {plain && plain.every !== 'once' ? (
        <>
          <div className="flex gap-3">
            <NumberField
              label="Every"
              whole
              min={1}
              max={26}
              value={plain.interval}
              onChange={(n) => n !== null && set({ ...plain, interval: n })}
            />
            <SelectField
              label="unit"
              value={plain.every}
              onChange={(e) =>
                set(
                  e.target.value === 'week'
                    ? { every: 'week', interval: plain.interval, days: WORKDAYS }
                    : { every: e.target.value as 'hour' | 'day', interval: plain.interval },
                )
              }
            >
              <option value="hour">{plain.interval === 1 ? 'hour' : 'hours'}</option>
              <option value="day">{plain.interval === 1 ? 'day' : 'days'}</option>
              <option value="week">{plain.interval === 1 ? 'week' : 'weeks'}</option>
            </SelectField>
          </div>
          {plain.every === 'week' && (
            <fieldset>
              <legend className="mb-1 text-[13px] font-semibold text-ink-2">on</legend>
              <div className="flex flex-wrap gap-1.5">
                {WEEKDAYS.map((day) => (
                  <DayToggle
                    key={day}
                    day={day}
                    on={plain.days.includes(day)}
                    onToggle={() => {
                      const days = WEEKDAYS.filter((d) => plain.days.includes(d) !== (d === day));
                      if (days.length > 0) set({ ...plain, days });
                    }}
                  />
                ))}
              </div>
            </fieldset>
          )}
        </>
      ) : (
        <RawRule rhythm={rhythm} onChange={onChange} />
      )}
      <Labelled label="at (course time)">
        {(id) => (
          <input
            id={id}
            type="time"
            className="field w-36 font-num"
            value={time}
            onChange={(e) => {
              if (e.target.value)
                onChange({ ...rhythm, start: `${rhythm.start.slice(0, 11)}${e.target.value}` }, 'time');
            }}
          />
        )}
      </Labelled>
    </Part>
  );
}

function DayToggle(props: { readonly day: Weekday; readonly on: boolean; readonly onToggle: () => void }) {
  return (
    <button
      type="button"
      aria-pressed={props.on}
      aria-label={WEEKDAY_NAMES[props.day]}
      onClick={props.onToggle}
      className="h-9 min-w-10 rounded-lg border border-line-strong px-2 text-[13.5px] font-semibold aria-pressed:border-pine aria-pressed:bg-pine aria-pressed:text-on-pine"
    >
      {WEEKDAY_NAMES[props.day].slice(0, 3)}
    </button>
  );
}

/** A recurrence rule that the plain controls cannot say is shown as it is. */
function RawRule({ rhythm, onChange }: Omit<RhythmProps, 'course'>) {
  const [text, setText] = useState(rhythm.rrule);
  const problem = rruleProblem(text) ?? undefined;
  return (
    <Labelled label="Recurrence rule (RFC 5545)" problem={problem}>
      {(id) => (
        <input
          id={id}
          className="field font-num"
          value={text}
          aria-invalid={problem !== undefined}
          onChange={(e) => {
            setText(e.target.value);
            if (!rruleProblem(e.target.value)) onChange({ ...rhythm, rrule: e.target.value }, 'rrule');
          }}
        />
      )}
    </Labelled>
  );
}

/** From when until when it looks. */
export function RunPart({ rhythm, course, onChange }: RhythmProps) {
  const from = rhythm.start.slice(0, 10);
  const until = rhythm.until ?? course.end;
  const problem = until < from ? 'The last day lies before the first' : undefined;
  return (
    <Part words={runWords(rhythm, course)} label="From when until when">
      <div className="grid grid-cols-2 gap-3">
        <DateField
          label="First day"
          value={from}
          course={course}
          onChange={(date) => onChange({ ...rhythm, start: `${date}${rhythm.start.slice(10)}` })}
        />
        <DateField
          label="Last day"
          value={until}
          course={course}
          problem={problem}
          onChange={(date) => onChange({ ...rhythm, until: date })}
        />
      </div>
      <p className="text-[13px] text-ink-2">
        The course runs {dateWords(course.start)} to {dateWords(course.end)}; nothing rings outside it.
      </p>
      {course.breaks.length > 0 && (
        <Check
          label={`Not on breaks (${course.breaks.map((b) => b.name ?? dateWords(b.from)).join(', ')})`}
          checked={rhythm.skipBreaks}
          onChange={(skipBreaks) => onChange({ ...rhythm, skipBreaks })}
        />
      )}
    </Part>
  );
}

function DateField(props: {
  readonly label: string;
  readonly value: string;
  readonly course: Course;
  readonly problem?: string | undefined;
  readonly onChange: (date: string) => void;
}) {
  return (
    <Labelled label={props.label} problem={props.problem}>
      {(id) => (
        <input
          id={id}
          type="date"
          className="field font-num text-[13.5px]"
          value={props.value}
          min={props.course.start}
          max={props.course.end}
          aria-invalid={props.problem !== undefined}
          onChange={(e) => e.target.value && props.onChange(e.target.value)}
        />
      )}
    </Labelled>
  );
}
