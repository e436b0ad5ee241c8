/** Learning platforms that may launch (LTI 1.3): what is registered of them, and what they are told of this tool. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { PlatformCard, RegistrationAddress } from '@zest-bell/core/connections';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { attempt } from '../../lib/attempt.ts';
import { Failed } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { useKept } from '../../lib/useKept.ts';
import { When } from '../../ui/When.tsx';

const FIELDS = [
  { key: 'issuer', label: 'Issuer' },
  { key: 'clientId', label: 'Client id' },
  { key: 'deployments', label: 'Deployment ids, separated by commas' },
  { key: 'authEndpoint', label: 'Sign-in address' },
  { key: 'tokenEndpoint', label: 'Token address' },
  { key: 'jwksUrl', label: 'Address of its public keys' },
] as const;
const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const EMPTY = { issuer: '', clientId: '', deployments: '', authEndpoint: '', tokenEndpoint: '', jwksUrl: '' };

export function Platforms({ className }: { readonly className: string }) {
  const known = useQuery({ queryKey: ['admin', 'platforms'], queryFn: () => ask(contract.connections.platforms) });
  const { value: typed, set: setTyped, drop } = useKept('platform', EMPTY);
  const { busy, problemAt, run } = useAsking();
  const add = () =>
    run(async () => {
      const deployments = typed.deployments
        .split(',')
        .map((d) => d.trim())
        .filter((d) => d !== '');
      await ask(contract.connections.addPlatform, {}, { body: { ...typed, deployments } });
      drop();
      toast('Registered. The platform may launch Zest Bell now.');
      await known.refetch();
    });
  const { confirmed, dialog } = useConfirmed();
  const trust = (platform: number, trusts: boolean) =>
    confirmed(async () => {
      await ask(contract.connections.trustPlatform, { platform }, { body: { trusts } });
      await known.refetch();
    });
  const remove = (platform: number) =>
    attempt(async () => {
      await ask(contract.connections.removePlatform, { platform });
      await known.refetch();
    });
  const own = [
    { name: 'Where logins begin', of: '/lti/login' },
    { name: 'Where launches arrive', of: '/lti/launch' },
    { name: 'Public keys', of: '/lti/keys' },
    { name: 'All of it as a file', of: '/lti/config.json' },
  ];
  return (
    <section aria-label="Learning platforms" className={className}>
      <h2 className="text-[18px] font-bold">Learning platforms</h2>
      <p className="mt-1 max-w-[75ch] text-[14px] text-ink-2">
        A registered platform opens Zest Bell inside its courses (LTI 1.3). It tells Zest Bell who is in the course, and
        their results. Zest Bell writes nothing back. Register the tool there with these addresses:
      </p>
      <dl className="mt-1 grid gap-x-4 text-[14px] min-[640px]:grid-cols-[auto_1fr]">
        {own.map(({ name, of }) => (
          <div key={of} className="contents">
            <dt className="font-semibold">{name}</dt>
            <dd className="font-num break-all">{`${location.origin}${of}`}</dd>
          </div>
        ))}
      </dl>
      {known.isError && <Failed error={known.error} retry={() => void known.refetch()} />}
      {known.data && known.data.length > 0 && (
        <PlainTable
          label="Learning platforms"
          columns={[{ name: 'Issuer' }, { name: 'Client id' }, { name: 'Deployments' }, { name: 'Change' }]}
          rows={known.data.map((p) => ({
            key: String(p.id),
            head: p.issuer,
            cells: [
              p.clientId,
              p.deployments.join(', ') || 'none named',
              <span key="change" className="flex flex-wrap items-center gap-x-3">
                <label className="flex items-center gap-2 text-[14px]">
                  <input
                    type="checkbox"
                    className="size-4"
                    checked={p.trustsAddresses}
                    onChange={(e) => void trust(p.id, e.target.checked)}
                  />
                  Trust its addresses
                </label>
                {p.approvedAt === null && <Waiting platform={p} again={() => void known.refetch()} />}
                <Button look="quiet" aria-label={`Remove ${p.issuer}`} onClick={() => remove(p.id)}>
                  Remove
                </Button>
              </span>,
            ],
          }))}
        />
      )}
      {dialog}
      <SelfRegistration />
      <h3 className="mt-4 text-[15px] font-semibold">Register it by hand</h3>
      <div className="mt-1 grid gap-3 min-[640px]:grid-cols-2">
        {FIELDS.map(({ key, label }) => (
          <Labelled key={key} label={label} problem={problemAt(key)}>
            {(id) => (
              <input
                id={id}
                className="field w-full"
                autoComplete="off"
                value={typed[key]}
                onChange={(e) => setTyped({ ...typed, [key]: e.target.value })}
              />
            )}
          </Labelled>
        ))}
      </div>
      <p className="mt-3">
        <Button busy={busy} onClick={() => add()}>
          Register the platform
        </Button>
      </p>
    </section>
  );
}

/** Makes an address for one platform, with which it registers itself. */
function SelfRegistration() {
  const [origin, setOrigin] = useState('');
  const [made, setMade] = useState<RegistrationAddress | null>(null);
  const { busy, problemAt, run } = useAsking();
  const make = () =>
    run(async () => setMade(await ask(contract.connections.registerPlatform, {}, { body: { origin: origin.trim() } })));
  return (
    <>
      <h3 className="mt-4 text-[15px] font-semibold">Let it register itself</h3>
      <div className="mt-1 flex flex-wrap items-end gap-3">
        <div className="min-w-[18rem] flex-1">
          <Labelled label="Origin of the platform, such as https://platform.example.edu" problem={problemAt('origin')}>
            {(id) => (
              <input
                id={id}
                type="url"
                className="field w-full"
                autoComplete="off"
                value={origin}
                onChange={(e) => setOrigin(e.target.value)}
              />
            )}
          </Labelled>
        </div>
        <Button busy={busy} onClick={() => make()}>
          Make an address
        </Button>
      </div>
      {made && (
        <p role="status" className="mt-2 text-[14px]">
          Give this address to the platform. It works once, until <When at={made.endsAt} zone={ZONE} />. You approve the
          platform here before it can open Zest Bell.
          <span className="block font-num break-all">{made.address}</span>
        </p>
      )}
    </>
  );
}

/** A platform that registered itself and waits for a yes; one that named no deployment gets it typed here. */
function Waiting({ platform, again }: { readonly platform: PlatformCard; readonly again: () => void }) {
  const [deployment, setDeployment] = useState('');
  const { busy, problemAt, run } = useAsking();
  const yes = () =>
    run(async () => {
      const deployments = deployment.trim() === '' ? [] : [deployment.trim()];
      await ask(contract.connections.approvePlatform, { platform: platform.id }, { body: { deployments } });
      toast('The platform may launch Zest Bell now.');
      again();
    });
  return (
    <>
      {platform.deployments.length === 0 && (
        <Labelled label="Its deployment id" problem={problemAt('deployments')}>
          {(id) => (
            <input id={id} className="field" value={deployment} onChange={(e) => setDeployment(e.target.value)} />
          )}
        </Labelled>
      )}
      <Button busy={busy} aria-label={`Let ${platform.issuer} open Zest Bell`} onClick={() => yes()}>
        Let it open Zest Bell
      </Button>
    </>
  );
}
