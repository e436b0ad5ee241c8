/** Proving that an address is one's own, where it is needed: a code is mailed to it, and typed here. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';

export function ProveAddress({ address, onProven }: { readonly address: string; readonly onProven: () => void }) {
  const [mailedTo, setMailedTo] = useState<string | null>(null);
  const [code, setCode] = useState('');
  const { busy, problemAt, clear, run } = useAsking();
  const isMailed = mailedTo === address;
  const mail = () =>
    run(async () => {
      await ask(contract.access.mailCode, {}, { body: { address } });
      setMailedTo(address);
      setCode('');
    });
  const prove = () =>
    run(async () => {
      await ask(contract.access.proveAddress, {}, { body: { address, code } });
      setMailedTo(null);
      toast(`${address} is proven to be yours.`);
      onProven();
    });
  return (
    <div className="mt-1 grid gap-2 rounded-[11px] border border-line bg-fog px-3 py-2 text-[14px]">
      {!isMailed ? (
        <p className="flex flex-wrap items-center gap-x-3 gap-y-1">
          <span className="min-w-0 flex-1 basis-56 break-words">
            Zest Bell mails a code of eight digits to {address}. Typing it here proves that the address is yours.
          </span>
          <Button type="button" busy={busy} onClick={() => mail()}>
            Mail a code
          </Button>
        </p>
      ) : (
        <>
          <p role="status">A code is on its way to {address}. It works for 30 minutes.</p>
          <div className="flex flex-wrap items-end gap-3">
            <Labelled label="Code" problem={problemAt('code')}>
              {(id) => (
                <input
                  id={id}
                  className="field w-36"
                  inputMode="numeric"
                  autoComplete="one-time-code"
                  value={code}
                  onChange={(e) => {
                    clear();
                    setCode(e.target.value);
                  }}
                  onKeyDown={(e) => {
                    // It may stand within a form of something else.
                    if (e.key !== 'Enter') return;
                    e.preventDefault();
                    void prove();
                  }}
                />
              )}
            </Labelled>
            <Button type="button" look="main" busy={busy} disabled={code.trim() === ''} onClick={() => prove()}>
              Prove this address
            </Button>
            <Button type="button" look="quiet" busy={busy} onClick={() => mail()}>
              Mail another code
            </Button>
          </div>
        </>
      )}
    </div>
  );
}
