/** Acts that want the password again: they are tried, and once it was typed they are tried once more. */
import { useState, type ReactNode } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { FormAlert, FormField, useSentForm } from './SentForm.tsx';

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
  const form = useSentForm(async (typed) => {
    await ask(contract.access.confirm, {}, { body: { password: typed('password') } });
    onShown();
  });
  return (
    <Dialog
      open
      title="Type your password again"
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
        <FormField form={form} name="password" kind="password" label="Your password" />
        <FormAlert form={form} />
      </form>
    </Dialog>
  );
}
