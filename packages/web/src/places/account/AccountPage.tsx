/** One's own account: name, password, where one is signed in, and second factors. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { queryClient, useSession } from '../../lib/queries.ts';
import { ProveAddress } from '../../parts/common/ProveAddress.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { OwnPage } from '../../parts/common/OwnPage.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { When } from '../../ui/When.tsx';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { Factors } from './Factors.tsx';
import { JoinAccounts } from './JoinAccounts.tsx';
import { SummaryMail } from './SummaryMail.tsx';
import { PasswordDialog } from './PasswordDialog.tsx';

const CARD = 'mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4';
const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;

export function AccountPage() {
  const session = useSession();
  const account = session.data?.account;
  if (!session.data || !account) return <Loading what="your account" />;
  return (
    <OwnPage title="Your account">
      {session.data.mustSetFactor && (
        <p role="alert" className="mt-3 font-semibold text-tangerine-text">
          ▲ This installation requires a second factor. Set one up to continue.
        </p>
      )}
      <Name account={account} directory={session.data.directory} />
      {account.mayJoin && <JoinAccounts directory={session.data.directory} className={CARD} />}
      <Addresses own={account.email} />
      <SummaryMail />
      <Factors zone={ZONE} />
      <Sessions />
    </OwnPage>
  );
}

/** Addresses that are proven, and another one. */
function Addresses({ own }: { readonly own: string }) {
  const proven = useQuery({ queryKey: ['account', 'addresses'], queryFn: () => ask(contract.access.addresses) });
  const [typed, setTyped] = useState<string | null>(null);
  if (proven.isError) return <Failed error={proven.error} retry={() => void proven.refetch()} />;
  if (!proven.data) return null;
  const isOwnProven = proven.data.some((p) => p.address === own);
  const address = typed ?? (isOwnProven ? '' : own);
  return (
    <section aria-label="Your addresses" className={CARD}>
      <h2 className="text-[18px] font-bold">Your addresses</h2>
      <p className="max-w-[75ch] text-[14px] text-ink-2">
        Your messages can come only from an address that you have proven. Zest Bell mails a code to it, and you type the
        code here.
      </p>
      {proven.data.length > 0 && (
        <ul className="mt-2 list-disc pl-5">
          {proven.data.map((p) => (
            <li key={p.address}>
              {p.address}{' '}
              <span className="text-[14px] text-ink-2">
                proven <When at={p.at} zone={ZONE} />
              </span>
            </li>
          ))}
        </ul>
      )}
      <div className="mt-3 grid max-w-[560px] gap-1">
        <Labelled label="Prove an address">
          {(id) => (
            <input
              id={id}
              type="email"
              className="field w-full"
              value={address}
              onChange={(e) => setTyped(e.target.value)}
            />
          )}
        </Labelled>
        {/\S@\S/.test(address) && (
          <ProveAddress
            address={address}
            onProven={() => {
              setTyped(null);
              void proven.refetch();
            }}
          />
        )}
      </div>
    </section>
  );
}

function Name(props: {
  readonly account: NonNullable<SessionAnswer['account']>;
  readonly directory: SessionAnswer['directory'];
}) {
  const { name: saved, email, hasPassword, cameBy } = props.account;
  const ways = {
    password: '.',
    directory: ` with ${props.directory?.name ?? 'your institution'}.`,
    launch: ' from your learning platform.',
  };
  const [name, setName] = useState(saved);
  const [password, setPassword] = useState(false);
  const save = async () => {
    const session = await attempt(() => ask(contract.access.rename, {}, { body: { name } }));
    if (!session) return;
    queryClient.setQueryData(['session'], session);
    toast('Saved. Your name now appears this way everywhere.');
  };
  return (
    <section aria-label="Name and password" className={CARD}>
      <div className="flex flex-wrap items-end gap-3">
        <Labelled label="Name, as others see it">
          {(id) => <input id={id} className="field w-72" value={name} onChange={(e) => setName(e.target.value)} />}
        </Labelled>
        <Button disabled={name.trim() === saved || name.trim() === ''} onClick={() => save()}>
          Save name
        </Button>
        {hasPassword && <Button onClick={() => setPassword(true)}>Change your password</Button>}
      </div>
      <p className="mt-2 text-[14px] text-ink-2">
        {email === '' ? 'You signed in' : `You are signed in as ${email}`}
        {ways[cameBy]}
      </p>
      {password && <PasswordDialog onClose={() => setPassword(false)} />}
    </section>
  );
}

function Sessions() {
  const sessions = useQuery({ queryKey: ['sessions'], queryFn: () => ask(contract.access.sessions) });
  const end = async (session: string) => {
    await attempt(() => ask(contract.access.endSession, { session }));
    await sessions.refetch();
  };
  if (sessions.isError) return <Failed error={sessions.error} retry={() => void sessions.refetch()} />;
  return (
    <section aria-label="Where you are signed in" className={CARD}>
      <h2 className="text-[18px] font-bold">Where you are signed in</h2>
      {sessions.isPending ? (
        <Loading what="where you are signed in" />
      ) : (
        <PlainTable
          label="Where you are signed in"
          columns={[
            { name: 'Browser' },
            { name: 'From' },
            { name: 'Since' },
            { name: 'Last seen' },
            { name: 'Change' },
          ]}
          rows={sessions.data.map((s) => ({
            key: s.id,
            head: s.isThis ? 'This browser' : browserWords(s.browser),
            cells: [
              s.from,
              <When key="since" at={s.since} zone={ZONE} />,
              <When key="seen" at={s.seenAt} zone={ZONE} />,
              s.isThis ? (
                ''
              ) : (
                <Button key="end" look="quiet" onClick={() => end(s.id)}>
                  Sign out
                </Button>
              ),
            ],
          }))}
        />
      )}
    </section>
  );
}

/** What a browser says of itself, in two words. */
function browserWords(agent: string): string {
  const name = /(Firefox|Edg|OPR|Chrome|Safari)/.exec(agent)?.[1];
  const system = /(Windows|Android|iPhone|iPad|Mac OS|Linux)/.exec(agent)?.[1];
  const known = { Edg: 'Edge', OPR: 'Opera' }[name ?? ''] ?? name;
  return [known, system].filter(Boolean).join(' on ') || 'Another browser';
}
