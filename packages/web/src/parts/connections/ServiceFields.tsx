/** How a OneRoster service is reached: what an administrator types of it, wherever that is asked. */
import { useState } from 'react';
import { useKept } from '../../lib/useKept.ts';
import { Labelled, SelectField } from '../../ui/fields.tsx';

export interface TypedService {
  readonly base: string;
  readonly tokenUrl: string;
  readonly clientId: string;
  readonly clientSecret: string;
  readonly version: '1.2' | '1.1';
}
const NOTHING_KEPT = { base: '', tokenUrl: '', clientId: '', version: '1.2' as TypedService['version'] };

/** Keeps what is typed of a service until it is connected, all but the secret: that stays in the page. */
export function useTypedService(key: string) {
  const { value: kept, set, drop } = useKept(`service ${key}`, NOTHING_KEPT);
  const [clientSecret, setSecret] = useState('');
  return {
    typed: { ...kept, clientSecret } satisfies TypedService,
    setTyped: ({ clientSecret: secret, ...rest }: TypedService) => {
      set(rest);
      setSecret(secret);
    },
    dropTyped: () => {
      drop();
      setSecret('');
    },
  };
}

const FIELDS = [
  { key: 'base', label: 'Address before /ims/oneroster', type: 'url' },
  { key: 'tokenUrl', label: 'Token address', type: 'url' },
  { key: 'clientId', label: 'Client id', type: 'text' },
  { key: 'clientSecret', label: 'Client secret', type: 'password' },
] as const;

export function ServiceFields(props: {
  readonly typed: TypedService;
  readonly onChange: (typed: TypedService) => void;
  readonly problemAt: (path: string) => string | undefined;
}) {
  const { typed, onChange, problemAt } = props;
  return (
    <>
      {FIELDS.map(({ key, label, type }) => (
        <Labelled key={key} label={label} problem={problemAt(key)}>
          {(id) => (
            <input
              id={id}
              type={type}
              className="field w-full"
              autoComplete="off"
              value={typed[key]}
              onChange={(e) => onChange({ ...typed, [key]: e.target.value })}
            />
          )}
        </Labelled>
      ))}
      <SelectField
        label="Version"
        value={typed.version}
        onChange={(e) => onChange({ ...typed, version: e.target.value as TypedService['version'] })}
      >
        <option value="1.2">OneRoster 1.2</option>
        <option value="1.1">OneRoster 1.1</option>
      </SelectField>
    </>
  );
}
