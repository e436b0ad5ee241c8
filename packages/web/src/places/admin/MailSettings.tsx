/** The senders of the installation: its own, the addresses that mail may come from, and senders that nobody has proven. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { InstallationAnswer, UnprovenSender } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { useSession } from '../../lib/queries.ts';
import { ProveAddress } from '../../parts/common/ProveAddress.tsx';
import { Failed } from '../../parts/common/States.tsx';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled, SelectField } from '../../ui/fields.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';

const MAKERS_WORDS = {
  proven: 'everybody with a proven address',
  named: 'the people named below',
  administrators: 'administrators',
} as const;

interface MailSettingsProps {
  readonly saved: InstallationAnswer;
  readonly again: () => void;
  readonly className: string;
}

export function MailSettings({ saved, again, className }: MailSettingsProps) {
  const [settings, setSettings] = useState(saved);
  const [list, setList] = useState(saved.senderDomains.join('\n'));
  const { problemAt, clear, run } = useAsking();
  const { confirmed, dialog } = useConfirmed(run);
  const isFixed = (name: 'sender' | 'senderDomains') => saved.fixed.includes(name);
  const senderDomains = list.split(/[\s,;]+/).filter((entry) => entry !== '');
  const sender = settings.sender ?? { name: 'Zest Bell', address: '' };
  const change = (part: Partial<InstallationAnswer>) => {
    clear();
    setSettings({ ...settings, ...part });
  };
  const save = () =>
    confirmed(async () => {
      const { factorRequired, keepMonths } = saved;
      const { coursesBy, courseMakers } = settings;
      const own = isFixed('sender') ? {} : { sender: sender.address === '' ? null : sender };
      const named = isFixed('senderDomains') ? {} : { senderDomains };
      const body = { factorRequired, keepMonths, coursesBy, courseMakers, ...own, ...named };
      await ask(contract.admin.setSettings, {}, { body });
      toast('Saved. This now applies to everyone.');
      again();
    });
  return (
    <section aria-label="Mail and courses" className={className}>
      <h2 className="text-[18px] font-bold">Mail and courses</h2>
      {saved.sender === null && (
        <p className="mt-1 max-w-[75ch] text-[14.5px]">
          No sender is set for the installation’s own mail. Until one is set, invitations, passwords, notices, and
          summaries come from the first administrator’s address.
        </p>
      )}
      <div className="mt-2 grid gap-3 min-[640px]:grid-cols-2">
        <Labelled label="Name of the installation’s sender" problem={problemAt('sender.name')}>
          {(id) => (
            <input
              id={id}
              className="field w-full"
              disabled={isFixed('sender')}
              value={sender.name}
              onChange={(e) => change({ sender: { ...sender, name: e.target.value } })}
            />
          )}
        </Labelled>
        <Labelled label="Its address" problem={problemAt('sender.address')}>
          {(id) => (
            <input
              id={id}
              type="email"
              className="field w-full"
              disabled={isFixed('sender')}
              placeholder="bell@uni.example"
              value={sender.address}
              onChange={(e) => change({ sender: { ...sender, address: e.target.value } })}
            />
          )}
        </Labelled>
      </div>
      {isFixed('sender') && <Fixed by="ZEST_SENDER" />}
      <div className="mt-3">
        <Labelled
          label="Messages may come from these domains and addresses, one per line (empty: any proven address)"
          problem={problemAt('senderDomains')}
        >
          {(id) => (
            <textarea
              id={id}
              rows={3}
              className="field w-full"
              disabled={isFixed('senderDomains')}
              placeholder={'uni.example\n*.uni.example'}
              value={list}
              onChange={(e) => {
                clear();
                setList(e.target.value);
              }}
            />
          )}
        </Labelled>
        {isFixed('senderDomains') && <Fixed by="ZEST_SENDER_DOMAINS" />}
      </div>
      <div className="mt-3">
        <SelectField
          label="Courses may be made by"
          value={settings.coursesBy}
          onChange={(e) => change({ coursesBy: e.target.value as InstallationAnswer['coursesBy'] })}
        >
          {Object.entries(MAKERS_WORDS).map(([value, words]) => (
            <option key={value} value={value}>
              {words}
            </option>
          ))}
        </SelectField>
        <p className="mt-1 text-[14px] text-ink-2">
          An instructor whom a learning platform launches into a new course always gets that course.
        </p>
      </div>
      {settings.coursesBy === 'named' && (
        <NamedPeople
          legend="Who may make courses"
          named={settings.courseMakers}
          onChange={(courseMakers) => change({ courseMakers })}
        />
      )}
      <p className="mt-3">
        <Button
          look="main"
          disabled={JSON.stringify({ ...settings, senderDomains }) === JSON.stringify(saved)}
          onClick={() => save()}
        >
          Save
        </Button>
      </p>
      {dialog}
    </section>
  );
}

const Fixed = ({ by }: { readonly by: string }) => (
  <p className="mt-1 text-[14px] text-ink-2">This is set on the server ({by}) and cannot be changed here.</p>
);

/** Who may make courses, by name: everybody with an account is offered. */
interface NamedPeopleProps {
  readonly legend: string;
  readonly named: readonly number[];
  readonly onChange: (named: number[]) => void;
}

/** People whom an administrator names; administrators always may. */
export function NamedPeople(props: NamedPeopleProps) {
  const people = useQuery({
    queryKey: ['admin', 'makers'],
    queryFn: () => ask(contract.admin.people, {}, { query: { limit: 200 } }),
  });
  if (people.isError) return <Failed error={people.error} retry={() => void people.refetch()} />;
  return (
    <fieldset className="mt-2 max-h-56 overflow-auto rounded-[11px] border border-line px-3 py-2">
      <legend className="px-1 text-[13px] font-semibold text-ink-2">{props.legend}</legend>
      {(people.data?.people ?? []).map((p) => (
        <label key={p.account} className="flex items-center gap-2 py-0.5">
          <input
            type="checkbox"
            className="size-4"
            checked={p.isAdministrator || props.named.includes(p.account)}
            disabled={p.isAdministrator}
            onChange={(e) =>
              props.onChange(
                e.target.checked ? [...props.named, p.account] : props.named.filter((id) => id !== p.account),
              )
            }
          />
          {p.name} <span className="text-[14px] text-ink-2">{p.email}</span>
        </label>
      ))}
    </fieldset>
  );
}

/** Senders from before addresses had to be proven. They keep working; here an administrator sees them and may answer for them. */
export function UnprovenSenders({ className }: { readonly className: string }) {
  const senders = useQuery({ queryKey: ['admin', 'senders'], queryFn: () => ask(contract.admin.senders) });
  const own = useSession().data?.account?.id;
  const { confirmed, dialog } = useConfirmed();
  const [proving, setProving] = useState<string | null>(null);
  if (senders.isError) return <Failed error={senders.error} retry={() => void senders.refetch()} />;
  if (!senders.data || senders.data.length === 0) return null;
  const accept = (account: number, address: string) =>
    confirmed(async () => {
      await ask(contract.admin.acceptAddress, {}, { body: { account, address } });
      toast(`${address} counts as proven.`);
      await senders.refetch();
    });
  const actions = ({ account }: UnprovenSender, address: string) => (
    <span key="actions" className="flex flex-wrap items-center gap-x-3">
      {account.id === own && (
        <Button look="quiet" onClick={() => setProving(address)}>
          Mail a code
        </Button>
      )}
      <Button look="quiet" onClick={() => accept(account.id, address)}>
        Accept this address
      </Button>
    </span>
  );
  return (
    <section aria-label="Not proven" className={className}>
      <h2 className="text-[18px] font-bold">Not proven</h2>
      <p className="max-w-[75ch] text-[14px] text-ink-2">
        Messages come from these addresses, or replies go to them, but nobody has proven them. They keep working until
        somebody changes them. Their owners can have a code mailed in Course, under Sender.
      </p>
      <PlainTable
        label="Senders that are not proven"
        columns={[
          { name: 'Address' },
          { name: 'Course' },
          { name: 'Signs as' },
          { name: 'Account' },
          { name: 'Change' },
        ]}
        rows={senders.data.flatMap((line) =>
          line.addresses.map((address) => ({
            key: `${line.course.id} ${line.account.id} ${address}`,
            head: address,
            cells: [line.course.code, line.name, line.account.name, actions(line, address)],
          })),
        )}
      />
      {proving !== null && (
        <ProveAddress
          address={proving}
          onProven={() => {
            setProving(null);
            void senders.refetch();
          }}
        />
      )}
      {dialog}
    </section>
  );
}
