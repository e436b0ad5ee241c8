/** Acts that want the password again: they are tried, and once it was typed they are tried once more. */
import { useState, type FormEvent, type ReactNode } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';

type ConfirmedWork = () => Promise<unknown>;

/** `confirmed` runs an act; `dialog` is to be shown by the code that uses it. */
export function useConfirmed(): {
  readonly confirmed: (work: ConfirmedWork) => Promise<void>;
  readonly dialog: ReactNode;
} {
  const [waiting, setWaiting] = useState<ConfirmedWork | null>(null);
  const confirmed = async (work: ConfirmedWork) => {
    try {
      await work();
    } catch (error) {
      if (error instanceof ApiProblem && error.code === 'confirmYourself') setWaiting(() => work);
      else toast.error(errorWords(error));
    }
  };
  const dialog = waiting && (
    <ConfirmDialog
      onClose={() => setWaiting(null)}
      onShown={() => {
        setWaiting(null);
        void confirmed(waiting);
      }}
    />
  );
  return { confirmed, dialog };
}

function ConfirmDialog({ onClose, onShown }: { readonly onClose: () => void; readonly onShown: () => void }) {
  const [password, setPassword] = useState('');
  const [refused, setRefused] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const show = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      await ask(contract.access.confirm, {}, { body: { password } });
      onShown();
    } catch (error) {
      setRefused(error);
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title="Type your password again"
      onClose={onClose}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" busy={busy} type="submit" form="confirm-form">
            Continue
          </Button>
        </>
      }
    >
      <form id="confirm-form" className="grid gap-3 p-6" noValidate onSubmit={(e) => void show(e)}>
        <Labelled label="Your password" problem={refused === null ? undefined : errorWords(refused)}>
          {(id) => (
            <input
              id={id}
              type="password"
              autoComplete="current-password"
              className="field"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          )}
        </Labelled>
      </form>
    </Dialog>
  );
}
