/** Second factors: codes of an authenticator app with recovery codes, and passkeys. */
import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { QRCodeSVG } from 'qrcode.react';
import type { PublicKeyCredentialCreationOptionsJSON } from '@simplewebauthn/browser';
import { contract } from '@zest-bell/core/contract';
import { ask, errorWords } from '../../lib/api.ts';
import { queryClient } from '../../lib/queries.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { SecretField } from '../../ui/SecretField.tsx';
import { When } from '../../ui/When.tsx';

const IS_NUMBERS = /^[\d.]+$|:/.test(window.location.hostname);

export function Factors({ zone }: { readonly zone: string }) {
  const factors = useQuery({ queryKey: ['factors'], queryFn: () => ask(contract.access.factors) });
  const { confirmed, dialog } = useConfirmed();
  const [begun, setBegun] = useState<{ readonly secret: string; readonly uri: string } | null>(null);
  const [codes, setCodes] = useState<readonly string[] | null>(null);
  const [name, setName] = useState('');
  if (factors.isError) return <Failed error={factors.error} retry={() => void factors.refetch()} />;
  if (factors.isPending) return <Loading what="your second factors" />;
  const { totp, passkeys, recoveryCodes } = factors.data;
  const again = async () => {
    await factors.refetch();
    await queryClient.invalidateQueries({ queryKey: ['session'] });
  };
  const addPasskey = () =>
    confirmed(async () => {
      const options = await ask(contract.access.beginPasskey);
      const { startRegistration } = await import('@simplewebauthn/browser');
      const said = await startRegistration({
        optionsJSON: options as unknown as PublicKeyCredentialCreationOptionsJSON,
      });
      await ask(contract.access.addPasskey, {}, { body: { name: name.trim() || 'Passkey', passkey: { ...said } } });
      setName('');
      await again();
    });
  return (
    <section aria-label="Second factors" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Second factor</h2>
      <p className="text-[14px] text-ink-2">
        In addition to your password, you sign in with a code from your phone or with a passkey. Someone who learns your
        password cannot sign in with it alone.
      </p>
      <h3 className="mt-4 font-bold">Authenticator app codes</h3>
      {totp ? (
        <div className="mt-1 flex flex-wrap items-center gap-3">
          <span>In use. {recoveryCodes} of 10 recovery codes are left.</span>
          <Button
            onClick={() =>
              confirmed(async () => {
                setCodes((await ask(contract.access.newRecoveryCodes)).recoveryCodes);
                await again();
              })
            }
          >
            New recovery codes
          </Button>
          <Button
            onClick={() =>
              confirmed(async () => {
                await ask(contract.access.endTotp);
                setCodes(null);
                await again();
              })
            }
          >
            Turn off codes
          </Button>
        </div>
      ) : begun ? (
        <Begun
          begun={begun}
          onDone={(made) => {
            setBegun(null);
            setCodes(made);
            void again();
          }}
        />
      ) : (
        <Button className="mt-1" onClick={() => confirmed(async () => setBegun(await ask(contract.access.beginTotp)))}>
          Set up codes
        </Button>
      )}
      {codes && (
        <SecretField
          label="Your recovery codes. Each works once, for when your phone is lost. Keep them now; they are not shown again."
          value={codes.join(' ')}
          named="recovery codes"
        />
      )}
      <h3 className="mt-4 font-bold">Passkeys</h3>
      {passkeys.length > 0 && (
        <PlainTable
          label="Passkeys"
          columns={[{ name: 'Passkey' }, { name: 'Since' }, { name: 'Last used' }, { name: 'Change' }]}
          rows={passkeys.map((p) => ({
            key: String(p.id),
            head: p.name,
            cells: [
              <When key="at" at={p.at} zone={zone} />,
              p.usedAt === null ? 'never' : <When key="used" at={p.usedAt} zone={zone} />,
              <Button
                key="remove"
                look="quiet"
                onClick={() =>
                  confirmed(async () => {
                    await ask(contract.access.removePasskey, { passkey: p.id });
                    await again();
                  })
                }
              >
                Remove
              </Button>,
            ],
          }))}
        />
      )}
      {IS_NUMBERS && (
        <p className="text-[14px] text-ink-2">
          Passkeys do not work at a numeric address such as this one. Open Zest Bell at its host name to add one.
        </p>
      )}
      <div className="mt-1 flex flex-wrap items-end gap-3" hidden={IS_NUMBERS}>
        <Labelled label="Name of a new passkey">
          {(id) => <input id={id} className="field w-64" value={name} onChange={(e) => setName(e.target.value)} />}
        </Labelled>
        <Button onClick={() => addPasskey()}>Add a passkey</Button>
      </div>
      {dialog}
    </section>
  );
}

function Begun(props: {
  readonly begun: { readonly secret: string; readonly uri: string };
  readonly onDone: (codes: readonly string[]) => void;
}) {
  const { begun, onDone } = props;
  const [code, setCode] = useState('');
  const [refused, setRefused] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const confirm = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setRefused(null);
    try {
      onDone((await ask(contract.access.confirmTotp, {}, { body: { code } })).recoveryCodes);
    } catch (error) {
      setRefused(error);
      setBusy(false);
    }
  };
  return (
    <form className="mt-2 flex flex-wrap items-start gap-5" noValidate onSubmit={(e) => void confirm(e)}>
      <div className="rounded-lg bg-white p-3">
        <QRCodeSVG value={begun.uri} size={148} title="Code for your authenticator app" />
      </div>
      <div className="grid min-w-64 flex-1 gap-3">
        <p className="text-[14px]">
          Scan this with your authenticator app, or type this key into it:{' '}
          <span className="font-num break-all">{begun.secret}</span>
        </p>
        <Labelled label="The code that it shows now" problem={refused === null ? undefined : errorWords(refused)}>
          {(id) => (
            <input
              id={id}
              inputMode="numeric"
              autoComplete="one-time-code"
              className="field w-40 font-num"
              value={code}
              onChange={(e) => setCode(e.target.value)}
            />
          )}
        </Labelled>
        <p>
          <Button type="submit" look="main" busy={busy}>
            Turn on codes
          </Button>
        </p>
      </div>
    </form>
  );
}
