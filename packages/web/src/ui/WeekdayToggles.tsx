import { WEEKDAY_NAMES, WEEKDAYS, type Weekday } from '@zest-bell/core/time';

/** The seven days, each on or off. */
export function WeekdayToggles(props: {
  readonly legend: string;
  readonly chosen: readonly Weekday[];
  readonly onChange: (chosen: Weekday[]) => void;
}) {
  const { chosen, onChange } = props;
  return (
    <fieldset>
      <legend className="mb-1 text-[13px] font-semibold text-ink-2">{props.legend}</legend>
      <div className="flex flex-wrap gap-1.5">
        {WEEKDAYS.map((day) => (
          <button
            key={day}
            type="button"
            aria-pressed={chosen.includes(day)}
            onClick={() => onChange(WEEKDAYS.filter((d) => chosen.includes(d) !== (d === day)))}
            className="h-9 min-w-10 rounded-lg border border-line-strong px-2 text-[13.5px] font-semibold aria-pressed:border-pine aria-pressed:bg-pine aria-pressed:text-on-pine"
          >
            {WEEKDAY_NAMES[day].slice(0, 3)}
            <span className="sr-only">{WEEKDAY_NAMES[day].slice(3)}</span>
          </button>
        ))}
      </div>
    </fieldset>
  );
}
