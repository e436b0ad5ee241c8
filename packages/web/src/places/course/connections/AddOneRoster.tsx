/** Feeding the course from a OneRoster service: an administrator's alone, as its addresses are called from this server. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import { useAsking } from '../../../lib/useAsking.ts';
import type { Here } from '../../../lib/here.ts';
import { refreshAll } from '../../../lib/queries.ts';
import { Button } from '../../../ui/Button.tsx';
import { Labelled, SelectField } from '../../../ui/fields.tsx';

const FIELDS = [
  { key: 'base', label: 'Address before /ims/oneroster', type: 'url' },
  { key: 'tokenUrl', label: 'Address that gives tokens', type: 'url' },
  { key: 'clientId', label: 'Client id', type: 'text' },
  { key: 'clientSecret', label: 'Client secret', type: 'password' },
  { key: 'class', label: 'The class, by its sourcedId', type: 'text' },
] as const;
const EMPTY = { base: '', tokenUrl: '', clientId: '', clientSecret: '', class: '', version: '1.2' as '1.2' | '1.1' };

export function AddOneRoster({ here }: { readonly here: Here }) {
  const [typed, setTyped] = useState(EMPTY);
  const { busy, problemAt, run } = useAsking();
  const add = () =>
    run(async () => {
      await ask(contract.connections.addOneRoster, {}, { body: { ...typed, course: here.id } });
      setTyped(EMPTY);
      toast('Connected. Ask it now, or wait an hour for the first time.');
      await refreshAll();
    });
  return (
    <section
      aria-label="Connect a OneRoster service"
      className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4"
    >
      <h2 className="text-[18px] font-bold">Connect a OneRoster service</h2>
      <p className="mt-1 max-w-[75ch] text-[15px] text-ink-2">
        For administrators. Zest Bell asks for the class, its people, line items and results every hour, and writes
        nothing back. It keeps the secret sealed and shows it nowhere.
      </p>
      <div className="mt-2 grid gap-3 min-[760px]:grid-cols-2">
        {FIELDS.map(({ key, label, type }) => (
          <Labelled key={key} label={label} problem={problemAt(key)}>
            {(id) => (
              <input
                id={id}
                type={type}
                className="field w-full"
                autoComplete="off"
                value={typed[key]}
                onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
              />
            )}
          </Labelled>
        ))}
        <SelectField
          label="Version"
          value={typed.version}
          onChange={(e) => setTyped({ ...typed, version: e.target.value as '1.2' | '1.1' })}
        >
          <option value="1.2">OneRoster 1.2</option>
          <option value="1.1">OneRoster 1.1</option>
        </SelectField>
      </div>
      <p className="mt-3">
        <Button look="main" busy={busy} onClick={() => void add()}>
          Connect it
        </Button>
      </p>
    </section>
  );
}
