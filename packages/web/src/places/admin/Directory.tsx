/** The institution's own sign-in (OpenID Connect): which provider, whom it lets in, and what holds for its people. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { DirectoryAnswer } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { queryClient } from '../../lib/queries.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';

export function Directory({ className }: { readonly className: string }) {
  const saved = useQuery({ queryKey: ['admin', 'directory'], queryFn: () => ask(contract.admin.directory) });
  return (
    <section aria-label="Sign-in of your institution" className={className}>
      <h2 className="text-[18px] font-bold">Sign-in of your institution</h2>
      {saved.isError ? (
        <Failed error={saved.error} retry={() => void saved.refetch()} />
      ) : saved.isPending ? (
        <Loading what="the sign-in of your institution" />
      ) : (
        <Settings key={JSON.stringify(saved.data)} saved={saved.data} again={() => void saved.refetch()} />
      )}
    </section>
  );
}

const listOf = (text: string): string[] => text.split(/[\s,;]+/).filter((entry) => entry !== '');

function Settings({ saved, again }: { readonly saved: DirectoryAnswer; readonly again: () => void }) {
  const [settings, setSettings] = useState(saved);
  const [secret, setSecret] = useState('');
  const [acr, setAcr] = useState(saved.acr.join(' '));
  const [amr, setAmr] = useState(saved.amr.join(' '));
  const { busy, problemAt, clear, run } = useAsking();
  const { confirmed, dialog } = useConfirmed(run);
  const isConnected = saved.issuer !== '';
  const change = (part: Partial<DirectoryAnswer>) => {
    clear();
    setSettings({ ...settings, ...part });
  };
  const told = () => {
    void queryClient.invalidateQueries({ queryKey: ['session'] });
    again();
  };
  const save = () =>
    confirmed(async () => {
      const { name, trustsAddresses, admits, passwordsOff, issuer, clientId } = settings;
      const own = saved.isFixed ? {} : { issuer, clientId, ...(secret === '' ? {} : { secret }) };
      const body = { ...own, name, trustsAddresses, admits, passwordsOff, acr: listOf(acr), amr: listOf(amr) };
      await ask(contract.admin.setDirectory, {}, { body });
      toast(`Saved. People can now sign in with ${name}.`);
      told();
    });
  const disconnect = () =>
    confirmed(async () => {
      await ask(contract.admin.removeDirectory);
      toast('Disconnected. Everybody signs in with a password again.');
      told();
    });
  const textField = (key: 'issuer' | 'clientId' | 'name', label: string, placeholder: string) => (
    <Labelled label={label} problem={problemAt(key)}>
      {(id) => (
        <input
          id={id}
          className="field w-full"
          autoComplete="off"
          placeholder={placeholder}
          disabled={saved.isFixed && key !== 'name'}
          value={settings[key]}
          onChange={(e) => change({ [key]: e.target.value })}
        />
      )}
    </Labelled>
  );
  return (
    <>
      <p className="max-w-[75ch] text-[14px] text-ink-2">
        People can use your institution’s single sign-on (OpenID Connect). The people who run it register Zest Bell, and
        give you an issuer, a client id, and a secret.
      </p>
      <p className="mt-2 text-[14px]">
        {saved.callback === null ? (
          'Set ZEST_PUBLIC_URL first: the provider has to know where to send people back to.'
        ) : (
          <>
            Address to send people back to: <span className="font-num break-all">{saved.callback}</span>
          </>
        )}
      </p>
      <div className="mt-3 grid gap-3 min-[640px]:grid-cols-2">
        {textField('issuer', 'Issuer', 'https://login.uni.example')}
        {textField('name', 'What the button says after “Sign in with”', 'Saltmarsh College')}
        {textField('clientId', 'Client id', 'zest-bell')}
        <Labelled label={saved.hasSecret ? 'Secret (leave empty to keep it)' : 'Secret'} problem={problemAt('secret')}>
          {(id) => (
            <input
              id={id}
              type="password"
              className="field w-full"
              autoComplete="off"
              disabled={saved.isFixed}
              value={secret}
              onChange={(e) => {
                clear();
                setSecret(e.target.value);
              }}
            />
          )}
        </Labelled>
      </div>
      {saved.isFixed && (
        <p className="mt-1 text-[14px] text-ink-2">
          ZEST_OIDC_ISSUER, ZEST_OIDC_CLIENT, and ZEST_OIDC_SECRET name the provider. Change them on the server.
        </p>
      )}
      <fieldset className="mt-4">
        <legend className="text-[15px] font-semibold">Who may come in</legend>
        <p className="text-[14px] text-ink-2">Students sign in at the same place, and have no account here.</p>
        {[false, true].map((byClaim) => (
          <label key={String(byClaim)} className="mt-1 flex items-center gap-2">
            <input
              type="radio"
              name="admits"
              className="size-4"
              checked={(settings.admits !== null) === byClaim}
              onChange={() => change({ admits: byClaim ? { claim: 'affiliation', value: 'faculty' } : null })}
            />
            {byClaim ? 'also everybody with this value of a claim' : 'people with an account or an invitation'}
          </label>
        ))}
        {settings.admits !== null && (
          <div className="mt-2 grid gap-3 min-[640px]:grid-cols-2">
            {(['claim', 'value'] as const).map((part) => (
              <Labelled
                key={part}
                label={part === 'claim' ? 'Claim' : 'Its value'}
                problem={problemAt(`admits.${part}`)}
              >
                {(id) => (
                  <input
                    id={id}
                    className="field w-full"
                    value={settings.admits![part]}
                    onChange={(e) => change({ admits: { ...settings.admits!, [part]: e.target.value } })}
                  />
                )}
              </Labelled>
            ))}
          </div>
        )}
      </fieldset>
      <Check
        checked={settings.trustsAddresses}
        onChange={(trustsAddresses) => change({ trustsAddresses })}
        words="Trust its addresses"
        about="Addresses that it gives count as proven, even where it does not say that it has verified them."
      />
      <Check
        checked={settings.passwordsOff}
        onChange={(passwordsOff) => change({ passwordsOff })}
        words="Turn passwords off for everybody but administrators"
        about="Administrators keep theirs, so that a sign-in that is down locks nobody out for good."
      />
      <details className="mt-3" open={acr !== '' || amr !== ''}>
        <summary className="cursor-pointer text-[14px] font-semibold">Require a stronger way to sign in</summary>
        <div className="mt-2 grid gap-3 min-[640px]:grid-cols-2">
          <Labelled label="One of these context classes (acr)" problem={problemAt('acr')}>
            {(id) => <input id={id} className="field w-full" value={acr} onChange={(e) => setAcr(e.target.value)} />}
          </Labelled>
          <Labelled label="One of these methods (amr)" problem={problemAt('amr')}>
            {(id) => (
              <input
                id={id}
                className="field w-full"
                placeholder="mfa otp"
                value={amr}
                onChange={(e) => setAmr(e.target.value)}
              />
            )}
          </Labelled>
        </div>
      </details>
      <p className="mt-4 flex flex-wrap gap-3">
        <Button look="main" busy={busy} onClick={() => save()}>
          {isConnected ? 'Save' : 'Connect'}
        </Button>
        {isConnected && !saved.isFixed && <Button onClick={() => disconnect()}>Disconnect</Button>}
      </p>
      {dialog}
    </>
  );
}

function Check(props: {
  readonly checked: boolean;
  readonly onChange: (checked: boolean) => void;
  readonly words: string;
  readonly about: string;
}) {
  return (
    <label className="mt-3 flex items-start gap-3">
      <input
        type="checkbox"
        className="mt-1 size-4"
        checked={props.checked}
        onChange={(e) => props.onChange(e.target.checked)}
      />
      <span>
        {props.words}
        <span className="block text-[14px] text-ink-2">{props.about}</span>
      </span>
    </label>
  );
}
