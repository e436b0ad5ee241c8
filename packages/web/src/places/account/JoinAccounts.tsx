/** For somebody whom a learning platform launched: joining that account to the one that they sign in to themselves. */
import { useState } from 'react';
import { contract } from '@zest-bell/core/contract';
import type { DirectoryView } from '@zest-bell/core/exchange';
import { ApiProblem, ask } from '../../lib/api.ts';
import { DirectoryButton } from '../../parts/common/DirectoryButton.tsx';
import { FormAlert, FormField, useSentForm } from '../../parts/common/SentForm.tsx';
import { Button } from '../../ui/Button.tsx';

interface JoinAccountsProps {
  readonly directory: DirectoryView | null;
  readonly className: string;
}

export function JoinAccounts({ directory, className }: JoinAccountsProps) {
  const [open, setOpen] = useState(false);
  const form = useSentForm(async (typed) => {
    const body = { email: typed('email'), password: typed('password'), code: typed('code') };
    await ask(contract.access.join, {}, { body });
    window.location.assign('/account');
    await new Promise(() => undefined);
  });
  const needsCode = form.error instanceof ApiProblem && ['codeNeeded', 'wrongCode'].includes(form.error.code);
  return (
    <section aria-label="Join your accounts" className={className}>
      <h2 className="text-[18px] font-bold">Join your accounts</h2>
      <p className="max-w-[75ch] text-[14px] text-ink-2">
        You came from a learning platform. If you also have an account of your own here, join the two: your courses then
        stand in one list, and the platform opens that account. In a course that both can open, the higher role stays.
        Only an administrator can separate them again.
      </p>
      {open ? (
        <form className="mt-3 grid max-w-[420px] gap-3" noValidate onSubmit={form.onSubmit}>
          <FormField form={form} name="email" kind="email" label="Email address of your own account" autoFocus />
          <FormField form={form} name="password" kind="password" label="Its password" />
          {needsCode && (
            <FormField form={form} name="code" kind="code" label="Code of your app, or a recovery code" autoFocus />
          )}
          <FormAlert form={form} />
          <p className="flex flex-wrap gap-3">
            <Button type="submit" look="main" busy={form.busy}>
              Join them
            </Button>
            <Button onClick={() => setOpen(false)}>Cancel</Button>
          </p>
        </form>
      ) : (
        <p className="mt-3 flex flex-wrap gap-3">
          {directory && (
            <DirectoryButton
              directory={directory}
              purpose="join"
              then="/account"
              words={`Join with ${directory.name}`}
            />
          )}
          {!directory?.passwordsOff && <Button onClick={() => setOpen(true)}>Join with a password …</Button>}
        </p>
      )}
    </section>
  );
}
