/** Behind the link of anyone who forgot their password. */
import { useState } from 'react';
import { Link } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { FormAlert, FormField, useSentForm } from '../../parts/common/SentForm.tsx';
import { Button } from '../../ui/Button.tsx';
import { Frame } from './Frame.tsx';

export function NewPasswordPage() {
  const [done, setDone] = useState(false);
  const form = useSentForm(async (typed) => {
    const secret = window.location.hash.slice(1);
    await ask(contract.access.newPassword, {}, { body: { secret, password: typed('password') } });
    setDone(true);
  });
  if (done)
    return (
      <Frame title="Your password is new">
        <p className="mt-2">Every browser is signed out. Sign in with the new password.</p>
        <p className="mt-4">
          <Link className="font-semibold text-pine underline" to="/">
            Sign in
          </Link>
        </p>
      </Frame>
    );
  return (
    <Frame title="Set a new password">
      <form className="mt-5 grid gap-4" noValidate onSubmit={form.onSubmit}>
        <FormField form={form} name="password" kind="newPassword" label="New password, at least 12 characters" />
        <FormAlert form={form} />
        <Button type="submit" look="main" busy={form.busy}>
          Set the password
        </Button>
      </form>
    </Frame>
  );
}
