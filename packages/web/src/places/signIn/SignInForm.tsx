/** Signing in: password, and the second factor where there is one; the way for anyone who forgot their password. */
import { useState } from 'react';
import type { PublicKeyCredentialRequestOptionsJSON } from '@simplewebauthn/browser';
import { contract } from '@zest-bell/core/contract';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { ask, ApiProblem } from '../../lib/api.ts';
import { queryClient } from '../../lib/queries.ts';
import { signOut } from '../../lib/signOut.ts';
import { FormAlert, FormField, useSentForm } from '../../parts/common/SentForm.tsx';
import { DirectoryButton } from '../../parts/common/DirectoryButton.tsx';
import { Button } from '../../ui/Button.tsx';

/** What it answers is who is signed in from then on. */
const enter = async (work: Promise<SessionAnswer>) => void queryClient.setQueryData(['session'], await work);

export function SignInForm({ session, email }: { readonly session: SessionAnswer; readonly email?: string }) {
  const [forgotten, setForgotten] = useState(false);
  const { directory, toProve } = session;
  if (session.needs) return <FactorForm session={session} />;
  if (toProve !== undefined && !forgotten)
    return <ProveForm session={session} email={toProve} onForgotten={() => setForgotten(true)} />;
  if (forgotten) return <ForgottenForm email={email ?? ''} onBack={() => setForgotten(false)} />;
  const passwords = <PasswordForm session={session} email={email} onForgotten={() => setForgotten(true)} />;
  if (!directory || session.needsFirstAccount) return passwords;
  const here = window.location;
  return (
    <>
      <div className="mt-5 grid gap-4">
        <DirectoryButton
          look={session.demo ? 'plain' : 'main'}
          directory={directory}
          then={here.pathname + here.search + here.hash}
        />
      </div>
      {directory.passwordsOff ? (
        <details className="mt-5">
          <summary className="cursor-pointer text-[14px] text-ink-2">
            Administrators can sign in with a password
          </summary>
          {passwords}
        </details>
      ) : (
        <>
          <Or />
          {passwords}
        </>
      )}
    </>
  );
}

export const Or = () => (
  <p className="mt-5 flex items-center gap-3 text-[13px] text-ink-3">
    <span className="h-px flex-1 bg-line" /> or with a password <span className="h-px flex-1 bg-line" />
  </p>
);

/** For somebody whom the institution has signed in, while an older account has the same address. */
function ProveForm(props: {
  readonly session: SessionAnswer;
  readonly email: string;
  readonly onForgotten: () => void;
}) {
  const { email } = props;
  const form = useSentForm((typed) =>
    enter(ask(contract.access.proveOlder, {}, { body: { password: typed('password') } })),
  );
  return (
    <form onSubmit={form.onSubmit} noValidate className="mt-5 grid gap-4">
      <p>
        {props.session.directory?.name ?? 'Your institution'} signed you in. There is already an account for {email}{' '}
        here. Type its password once to show that it is yours; after that, you will not need it again.
      </p>
      <FormField form={form} name="password" kind="password" label={`Password of ${email}`} autoFocus />
      <FormAlert form={form} />
      <Button type="submit" look="main" busy={form.busy}>
        Continue
      </Button>
      <Button look="quiet" onClick={props.onForgotten}>
        I forgot my password
      </Button>
      <Button look="quiet" onClick={() => void signOut()}>
        That is not me
      </Button>
    </form>
  );
}

function PasswordForm(props: {
  readonly session: SessionAnswer;
  readonly email: string | undefined;
  readonly onForgotten: () => void;
}) {
  const { session } = props;
  const first = session.needsFirstAccount;
  const form = useSentForm((typed) => {
    const body = { email: typed('email'), password: typed('password') };
    const { firstAccount, signIn } = contract.access;
    const more = { name: typed('name'), code: typed('code') };
    return enter(first ? ask(firstAccount, {}, { body: { ...body, ...more } }) : ask(signIn, {}, { body }));
  });
  return (
    <form onSubmit={form.onSubmit} noValidate className="mt-5 grid gap-4">
      {first && <FormField form={form} name="name" kind="name" label="Your name" />}
      <FormField form={form} name="email" kind="email" label="Email address" value={props.email} />
      <FormField
        form={form}
        name="password"
        kind={first ? 'newPassword' : 'password'}
        label={first ? 'Password, at least 12 characters' : 'Password'}
      />
      {first && session.needsFirstCode && (
        <FormField form={form} name="code" kind="words" label="The code that the server printed when it started" />
      )}
      <FormAlert form={form} />
      <Button type="submit" look={session.demo ? 'plain' : 'main'} busy={form.busy}>
        {first ? 'Create account' : 'Sign in'}
      </Button>
      {!first && (
        <Button look="quiet" onClick={props.onForgotten}>
          I forgot my password
        </Button>
      )}
    </form>
  );
}

function ForgottenForm({ email, onBack }: { readonly email: string; readonly onBack: () => void }) {
  const [sent, setSent] = useState<string | null>(null);
  const form = useSentForm(async (typed) => {
    await ask(contract.access.forgotten, {}, { body: { email: typed('email') } });
    setSent(typed('email'));
  });
  return (
    <form onSubmit={form.onSubmit} noValidate className="mt-5 grid gap-4">
      {sent === null ? (
        <>
          <FormField form={form} name="email" kind="email" label="Email address" value={email} />
          <FormAlert form={form} />
          <Button type="submit" look="main" busy={form.busy}>
            Send me a link
          </Button>
        </>
      ) : (
        <p role="status">
          If {sent} has an account, a link for a new password is on its way there. It works once, within an hour.
        </p>
      )}
      <Button look="quiet" onClick={onBack}>
        Back to signing in
      </Button>
    </form>
  );
}

function FactorForm({ session }: { readonly session: SessionAnswer }) {
  const [lost, setLost] = useState(false);
  const needs = session.needs ?? [];
  const form = useSentForm((typed) =>
    enter(ask(contract.access.factor, {}, { body: lost ? { recoveryCode: typed('code') } : { code: typed('code') } })),
  );
  const passkey = async () => {
    const options = await ask(contract.access.factorChallenge);
    const { startAuthentication } = await import('@simplewebauthn/browser');
    const said = await startAuthentication({
      optionsJSON: options as unknown as PublicKeyCredentialRequestOptionsJSON,
    });
    await enter(ask(contract.access.factor, {}, { body: { passkey: { ...said } } }));
  };
  const hasCode = lost || needs.includes('totp');
  // After five wrong codes, or five minutes, it begins again with the password.
  const isOver = form.error instanceof ApiProblem && form.error.code === 'signInNeeded';
  return (
    <div className="mt-5 grid gap-4">
      <p>One more step. Show your second factor now.</p>
      {needs.includes('passkey') && (
        <Button look="main" busy={form.busy} onClick={() => form.run(passkey)}>
          Use a passkey
        </Button>
      )}
      {hasCode && (
        <form className="grid gap-4" noValidate onSubmit={form.onSubmit}>
          <FormField
            form={form}
            key={String(lost)}
            name="code"
            kind={lost ? 'words' : 'code'}
            label={lost ? 'One of your recovery codes' : 'Code of your authenticator app'}
            autoFocus
          />
          <Button type="submit" busy={form.busy}>
            Continue
          </Button>
        </form>
      )}
      <FormAlert form={form} />
      {isOver ? (
        <Button onClick={() => queryClient.invalidateQueries({ queryKey: ['session'] })}>Begin again</Button>
      ) : (
        <Button look="quiet" onClick={() => setLost(!lost)}>
          {lost ? 'I have my second factor' : 'I lost my second factor'}
        </Button>
      )}
    </div>
  );
}
