/** Acts that want the password again: they are tried, and once it was typed they are tried once more. */
import { useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { useSession } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormAlert, FormField, useSentForm } from './SentForm.tsx';

type ConfirmedWork = () => Promise<unknown>;

const inToast = async (work: () => Promise<void>): Promise<void> => {
  try {
    await work();
  } catch (error) {
    toast.error(errorWords(error));
  }
};

/**
 * `confirmed` runs an act; `dialog` is to be shown by the code that uses it. `run` says what else goes wrong: that of a form, at its
 * fields; unless told otherwise, a toast.
 */
export function useConfirmed(run: (work: () => Promise<void>) => Promise<unknown> = inToast): {
  readonly confirmed: (work: ConfirmedWork) => Promise<void>;
  readonly dialog: ReactNode;
} {
  const [waiting, setWaiting] = useState<ConfirmedWork | null>(null);
  const confirmed = async (work: ConfirmedWork) => {
    await run(async () => {
      try {
        await work();
      } catch (error) {
        if (!(error instanceof ApiProblem && error.code === 'confirmYourself')) throw error;
        setWaiting(() => work);
      }
    });
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

/** Opened before the address is known: a browser lets a press open a window, and nothing that comes later. */
async function confirmElsewhere(): Promise<void> {
  const opened = window.open('', '_blank');
  if (opened) opened.opener = null;
  try {
    const { to } = await ask(contract.access.beginDirectory, {}, { body: { purpose: 'confirm' } });
    if (opened) opened.location.href = to;
  } catch (error) {
    opened?.close();
    throw error;
  }
}

function ConfirmDialog({ onClose, onShown }: { readonly onClose: () => void; readonly onShown: () => void }) {
  const { data } = useSession();
  const hasPassword = data?.account?.hasPassword ?? true;
  const directory = data?.account?.cameBy === 'directory' ? data.directory : null;
  const form = useSentForm(async (typed) => {
    if (typed('password') !== '' || !directory)
      await ask(contract.access.confirm, {}, { body: { password: typed('password') } });
    onShown();
  });
  return (
    <Dialog
      open
      title={hasPassword ? 'Type your password again' : 'Sign in again'}
      onClose={onClose}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" busy={form.busy} type="submit" form="confirm-form">
            Continue
          </Button>
        </>
      }
    >
      <form id="confirm-form" className="grid gap-3 p-6" noValidate onSubmit={form.onSubmit}>
        {directory && (
          <>
            <p>
              This needs a fresh sign-in. Sign in with {directory.name} in a new window, then press Continue here.
              {hasPassword && ' Or type your password.'}
            </p>
            <Button busy={form.busy} onClick={() => form.run(confirmElsewhere)}>
              Sign in with {directory.name}
            </Button>
          </>
        )}
        {hasPassword && <FormField form={form} name="password" kind="password" label="Your password" />}
        <FormAlert form={form} />
      </form>
    </Dialog>
  );
}
