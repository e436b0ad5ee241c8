/** Budget, quiet hours and days, breaks, marks, and what asks or holds before anything is sent. */
import { useId, useState, type ReactNode } from 'react';
import { X } from 'lucide-react';
import type { Problem } from '@zest-bell/core/problem';
import type { Weekday } from '@zest-bell/core/time';
import type { QuietHours } from '@zest-bell/core/course';
import { PERCENT_RANGE } from '@zest-bell/core/measures';
import { BUDGET_RANGE, LONGEST_MARK, STALE_HOURS_RANGE, type CourseLimits } from '@zest-bell/core/rounds';
import type { CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { WeekdayToggles } from '../../ui/WeekdayToggles.tsx';
import { Check, DateField, Labelled, NumberField, TimeField } from '../../ui/fields.tsx';

interface FieldsProps {
  readonly here: CourseHere;
  readonly limits: CourseLimits;
  readonly problems: readonly Problem[];
  readonly onChange: (limits: CourseLimits) => void;
}

export function LimitFields(props: FieldsProps) {
  return (
    <div className="grid gap-6">
      <Budget {...props} />
      <Quiet {...props} />
      <Breaks {...props} />
      <Marks {...props} />
      <Guards {...props} />
    </div>
  );
}

/** The parts, by their anchors, for a list that leads to them. */
export const LIMIT_PARTS = [
  ['budget', 'Message budget'],
  ['quiet', 'Quiet hours'],
  ['breaks', 'Breaks'],
  ['scores', 'Named scores'],
  ['before', 'Before anything is sent'],
] as const;

function Part(props: {
  /** Where a link leads to it. */
  readonly anchor?: string;
  readonly title: string;
  readonly help: string;
  readonly problem?: string | undefined;
  readonly children: ReactNode;
}) {
  const id = useId();
  return (
    <section aria-labelledby={id} id={props.anchor} tabIndex={-1} className="grid scroll-mt-4 gap-2 outline-none">
      <h2 id={id} className="text-[16px] font-bold">
        {props.title}
      </h2>
      <p className="-mt-1.5 text-[14px] text-ink-2">{props.help}</p>
      {props.children}
      {props.problem && <p className="text-[13.5px] font-semibold text-tangerine-text">▲ {props.problem}</p>}
    </section>
  );
}

const problemAt = (problems: readonly Problem[], start: string): string | undefined =>
  problems.find((p) => p.path === start || p.path.startsWith(`${start}.`))?.message;

function Budget({ limits, problems, onChange }: FieldsProps) {
  const { settings } = limits;
  const set = (budget: CourseLimits['settings']['budget']) =>
    onChange({ ...limits, settings: { ...settings, budget } });
  return (
    <Part
      anchor="budget"
      title="Message budget"
      help="How many nudges one student may get from all rules together."
      problem={problemAt(problems, 'settings.budget')}
    >
      <Check
        label="Limit how many nudges a student gets"
        checked={settings.budget !== null}
        onChange={(on) => set(on ? { count: 1, days: 14, strict: false } : null)}
      />
      {settings.budget && (
        <div className="flex gap-4">
          <NumberField
            label="At most"
            unit="nudges"
            {...BUDGET_RANGE.count}
            value={settings.budget.count}
            onChange={(count) => count !== null && set({ ...settings.budget!, count })}
          />
          <NumberField
            label="within"
            unit="days"
            {...BUDGET_RANGE.days}
            value={settings.budget.days}
            onChange={(days) => days !== null && set({ ...settings.budget!, days })}
          />
        </div>
      )}
      {!isTwoWeeks(settings.budget) && (
        <Button
          look="quiet"
          className="justify-self-start text-left whitespace-normal!"
          onClick={() => set({ count: 1, days: 14, strict: true })}
        >
          At most one message in two weeks, from all rules
        </Button>
      )}
      {settings.budget && (
        <>
          <Check
            label="Allow no exceptions but essential rules"
            checked={settings.budget.strict === true}
            onChange={(strict) => set({ ...settings.budget!, strict })}
          />
          <details className="text-[14px] text-ink-2">
            <summary className="font-semibold">What may exceed it</summary>
            <ul className="mt-1 list-disc pl-5">
              <li>rules that are essential, and a message by hand when you say so</li>
              {!settings.budget.strict && (
                <>
                  <li>later steps of a rule, such as a firmer message five days on</li>
                  <li>a stronger message after a lighter one: how much a rule matters is set in the rule</li>
                </>
              )}
              <li>messages that go to you or to others, and not to the student</li>
            </ul>
            <p className="mt-1">
              A step that writes to the student and to others waits as a whole: a copy for you or an advisor is held
              back with it.
            </p>
          </details>
        </>
      )}
    </Part>
  );
}

/** At most one message in two weeks, with nothing that passes it: common practice, no source. */
const isTwoWeeks = (budget: CourseLimits['settings']['budget']): boolean =>
  budget?.count === 1 && budget.days === 14 && budget.strict === true;

function Quiet({ limits, problems, onChange }: FieldsProps) {
  const { settings } = limits;
  const quiet = settings.quietHours;
  const set = (quietHours: QuietHours | null) => onChange({ ...limits, settings: { ...settings, quietHours } });
  const days = (quiet?.days ?? []) as readonly Weekday[];
  return (
    <Part
      anchor="quiet"
      title="Quiet hours"
      help="Nudges decided in quiet hours leave when they end, if the student still matches."
      problem={problemAt(problems, 'settings.quietHours')}
    >
      <Check
        label="Send nothing at certain hours or on certain days"
        checked={quiet !== null}
        onChange={(on) => set(on ? { from: '21:00', to: '07:00', days: [] } : null)}
      />
      {quiet && (
        <>
          <div className="flex gap-4">
            <TimeField label="from" value={quiet.from ?? ''} onChange={(from) => set({ ...quiet, from })} />
            <TimeField label="to" value={quiet.to ?? ''} onChange={(to) => set({ ...quiet, to })} />
          </div>
          <WeekdayToggles legend="and all day on" chosen={days} onChange={(next) => set({ ...quiet, days: next })} />
        </>
      )}
    </Part>
  );
}

function Breaks({ here, limits, problems, onChange }: FieldsProps) {
  const { breaks } = limits;
  const set = (next: CourseLimits['breaks']) => onChange({ ...limits, breaks: next });
  const add = () => set([...breaks, { from: here.course.end, to: here.course.end, name: 'Break' }]);
  return (
    <Part
      anchor="breaks"
      title="Breaks"
      help="Break days do not count as absence. Rules do not run on them unless you say so."
      problem={breaks.length === 0 ? problemAt(problems, 'breaks') : undefined}
    >
      {breaks.map((b, i) => {
        const change = (part: Partial<typeof b>) => set(breaks.map((x, n) => (n === i ? { ...x, ...part } : x)));
        return (
          <div key={i} className="grid grid-cols-[1fr_auto_auto_auto] items-end gap-2">
            <Labelled label="Name" problem={problemAt(problems, `breaks[${i}]`)}>
              {(id) => (
                <input
                  id={id}
                  className="field w-full min-w-0"
                  value={b.name ?? ''}
                  onChange={(e) => change({ name: e.target.value })}
                />
              )}
            </Labelled>
            <DateField label="first day" value={b.from} onChange={(from) => change({ from })} />
            <DateField label="last day" value={b.to} onChange={(to) => change({ to })} />
            <Remove label={`Remove ${b.name ?? 'this break'}`} onClick={() => set(breaks.filter((_, n) => n !== i))} />
          </div>
        );
      })}
      <Button className="justify-self-start" onClick={add}>
        Add a break
      </Button>
    </Part>
  );
}

function Remove({ label, onClick }: { readonly label: string; readonly onClick: () => void }) {
  return (
    <button
      type="button"
      aria-label={label}
      title={label}
      onClick={onClick}
      className="grid size-9 place-items-center rounded-lg text-ink-3 hover:bg-fog hover:text-ink"
    >
      <X size={16} aria-hidden />
    </button>
  );
}

function Marks({ limits, problems, onChange }: FieldsProps) {
  const { marks } = limits;
  const [name, setName] = useState('');
  const set = (next: CourseLimits['marks']) => onChange({ ...limits, marks: next });
  const fresh = name.trim();
  const add = () => {
    if (!fresh || Object.hasOwn(marks, fresh)) return;
    set({ ...marks, [fresh]: 80 });
    setName('');
  };
  return (
    <Part
      anchor="scores"
      title="Named scores"
      help="Scores with a name that rules compare with, such as a mastery score. A change applies to every rule that uses the score."
      problem={problemAt(problems, 'marks')}
    >
      {Object.entries(marks).map(([mark, value]) => (
        <div key={mark} className="flex items-end gap-2">
          <NumberField
            label={`the ${mark} score`}
            unit="%"
            {...PERCENT_RANGE}
            value={value}
            onChange={(n) => n !== null && set({ ...marks, [mark]: n })}
          />
          <Remove
            label={`Remove the ${mark} score`}
            onClick={() => set(Object.fromEntries(Object.entries(marks).filter(([m]) => m !== mark)))}
          />
        </div>
      ))}
      <div className="flex items-end gap-2">
        <Labelled label="New named score">
          {(id) => (
            <input
              id={id}
              className="field w-40"
              placeholder="for example: pass"
              maxLength={LONGEST_MARK}
              value={name}
              onChange={(e) => setName(e.target.value)}
            />
          )}
        </Labelled>
        <Button disabled={!fresh || Object.hasOwn(marks, fresh)} onClick={add}>
          Add
        </Button>
      </div>
    </Part>
  );
}

function Guards({ limits, problems, onChange }: FieldsProps) {
  const { guards } = limits;
  const set = (part: Partial<typeof guards>) => onChange({ ...limits, guards: { ...guards, ...part } });
  return (
    <Part
      anchor="before"
      title="Before anything is sent"
      help="When Zest Bell asks you first, and when it waits for new data. A message by hand also asks above 20 people."
      problem={problemAt(problems, 'guards')}
    >
      <NumberField
        label="Ask me before a rule writes about more than"
        unit="% of the class"
        min={1}
        max={100}
        value={Math.round(guards.askAbove * 100)}
        onChange={(n) => n !== null && set({ askAbove: n / 100 })}
      />
      <NumberField
        label="Hold checks and mail when the platform has sent no data for"
        unit="hours"
        {...STALE_HOURS_RANGE}
        empty="never"
        value={guards.staleHours}
        onChange={(staleHours) => set({ staleHours })}
      />
    </Part>
  );
}
