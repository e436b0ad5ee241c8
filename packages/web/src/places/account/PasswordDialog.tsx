/** A new password for the signed-in account. It signs out every other browser. */
import { contract } from '@zest-bell/core/contract';
import { toast } from 'sonner';
import { ask } from '../../lib/api.ts';
import { FormAlert, FormField, useSentForm } from '../../parts/common/SentForm.tsx';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

export function PasswordDialog({ onClose }: { readonly onClose: () => void }) {
  const form = useSentForm(async (typed) => {
    await ask(contract.access.password, {}, { body: { old: typed('old'), password: typed('password') } });
    toast('Your password is changed. Every other browser is signed out.');
    onClose();
  });
  return (
    <Dialog
      open
      title="Change your password"
      onClose={onClose}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" busy={form.busy} type="submit" form="password-form">
            Change password
          </Button>
        </>
      }
    >
      <form id="password-form" className="grid gap-3 p-6" noValidate onSubmit={form.onSubmit}>
        <FormAlert form={form} />
        <FormField form={form} name="old" kind="password" label="Current password" />
        <FormField form={form} name="password" kind="newPassword" label="New password, at least 12 characters" />
      </form>
    </Dialog>
  );
}
