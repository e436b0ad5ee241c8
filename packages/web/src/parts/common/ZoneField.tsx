/** An IANA time zone, from those that the browser knows: searched by typing, the likely ones first. */
import { useMemo, useState } from 'react';
import { Command } from 'cmdk';
import { Popover } from 'radix-ui';
import { Pop } from '../../ui/Pop.tsx';
import { useCourses } from '../../lib/queries.ts';
import { Labelled } from '../../ui/fields.tsx';
import { wordFilter } from '../../ui/wordFilter.ts';

const nameOf = (zone: string): string => zone.replaceAll('_', ' ').replaceAll('/', ', ');

/** How far a zone is from Greenwich now: “GMT-5”. */
const offsetOf = (timeZone: string, now: Date): string =>
  new Intl.DateTimeFormat('en-US', { timeZone, timeZoneName: 'shortOffset' })
    .formatToParts(now)
    .find((p) => p.type === 'timeZoneName')?.value ?? '';

export function ZoneField(props: {
  readonly value: string;
  readonly problem?: string | undefined;
  readonly onChange: (zone: string) => void;
}) {
  const { value, onChange } = props;
  const courses = useCourses();
  const [open, setOpen] = useState(false);
  const { likely, others } = useMemo(() => {
    const own = Intl.DateTimeFormat().resolvedOptions().timeZone;
    const known = Intl.supportedValuesOf('timeZone');
    const first = [...new Set([value, own, ...(courses.data ?? []).map((c) => c.timeZone)])];
    return { likely: first, others: known.filter((zone) => !first.includes(zone)) };
  }, [value, courses.data]);
  const now = new Date();
  const entry = (zone: string) => (
    <Command.Item
      key={zone}
      value={zone}
      keywords={[nameOf(zone), zone]}
      onSelect={() => {
        onChange(zone);
        setOpen(false);
      }}
      className="flex cursor-pointer justify-between gap-3 rounded-lg px-2.5 py-1.5 data-[selected=true]:bg-fog"
    >
      {nameOf(zone)}
      <span className="font-num text-[13px] text-ink-3">{open && likely.includes(zone) && offsetOf(zone, now)}</span>
    </Command.Item>
  );
  const group =
    '[&_[cmdk-group-heading]]:px-2.5 [&_[cmdk-group-heading]]:pt-2 [&_[cmdk-group-heading]]:text-[13px] [&_[cmdk-group-heading]]:text-ink-3';
  return (
    <Labelled label="Time zone" problem={props.problem}>
      {(id) => (
        <Popover.Root open={open} onOpenChange={setOpen}>
          <Popover.Trigger
            id={id}
            aria-label={`Time zone: ${nameOf(value)}`}
            aria-invalid={props.problem !== undefined}
            className="field min-w-0 truncate text-left"
          >
            {nameOf(value)}
          </Popover.Trigger>
          <Pop label="Time zone" className="w-[340px] p-3">
            <Command label="Time zone" loop filter={wordFilter}>
              <Command.Input
                autoFocus
                placeholder="Search: a city or a region"
                aria-label="Search the time zones"
                className="field mb-2 w-full"
              />
              <Command.List className="max-h-[300px] overflow-auto">
                <Command.Empty className="p-3 text-ink-2">No matches. Try the name of a larger city.</Command.Empty>
                <Command.Group heading="Yours, and your courses’" className={group}>
                  {likely.map(entry)}
                </Command.Group>
                <Command.Group heading="All time zones" className={group}>
                  {others.map(entry)}
                </Command.Group>
              </Command.List>
            </Command>
          </Pop>
        </Popover.Root>
      )}
    </Labelled>
  );
}
