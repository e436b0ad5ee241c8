import { useMemo } from 'react';
import { Labelled } from './fields.tsx';

/** An IANA time zone, from those that the browser knows. */
export function ZoneField(props: {
  readonly value: string;
  readonly problem?: string | undefined;
  readonly onChange: (zone: string) => void;
}) {
  const zones = useMemo(() => {
    const known = Intl.supportedValuesOf('timeZone');
    return known.includes(props.value) ? known : [props.value, ...known];
  }, [props.value]);
  return (
    <Labelled label="Time zone" problem={props.problem}>
      {(id) => (
        <select id={id} className="field min-w-0" value={props.value} onChange={(e) => props.onChange(e.target.value)}>
          {zones.map((zone) => (
            <option key={zone} value={zone}>
              {zone.replaceAll('_', ' ')}
            </option>
          ))}
        </select>
      )}
    </Labelled>
  );
}
