/** Signing in: password, and the second factor where there is one; the way for anyone who forgot their password. */
import { useState, type FormEvent } from 'react';
import type { PublicKeyCredentialRequestOptionsJSON } from '@simplewebauthn/browser';
import { contract } from '@zest-bell/core/contract';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';

const textOf = (typed: FormData, field: string): string => {
  const said = typed.get(field);
  return typeof said === 'string' ? said : '';
};

/** Tries something that signs in; what it answers is who is signed in from then on. */
function useEntering() {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const enter = async (work: () => Promise<SessionAnswer>) => {
    setBusy(true);
    setError(null);
    try {
      queryClient.setQueryData(['session'], await work());
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  return { busy, error, enter };
}

export function SignInForm({ session, email }: { readonly session: SessionAnswer; readonly email?: string }) {
  const [forgotten, setForgotten] = useState(false);
  if (session.needs) return <FactorForm session={session} />;
  if (forgotten) return <ForgottenForm email={email ?? ''} onBack={() => setForgotten(false)} />;
  return <PasswordForm session={session} email={email} onForgotten={() => setForgotten(true)} />;
}

function PasswordForm(props: {
  readonly session: SessionAnswer;
  readonly email: string | undefined;
  readonly onForgotten: () => void;
}) {
  const { session } = props;
  const { busy, error, enter } = useEntering();
  const first = session.needsFirstAccount;
  const problems = error instanceof ApiProblem ? error.problems : [];
  const problemOf = (field: string) => problems.find((p) => p.path === field)?.message;
  const submit = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const typed = new FormData(e.currentTarget);
    const body = { email: textOf(typed, 'email'), password: textOf(typed, 'password') };
    const { firstAccount, signIn } = contract.access;
    const more = { name: textOf(typed, 'name'), code: textOf(typed, 'code') };
    void enter(() => (first ? ask(firstAccount, {}, { body: { ...body, ...more } }) : ask(signIn, {}, { body })));
  };
  return (
    <form onSubmit={submit} noValidate className="mt-5 grid gap-4">
      {first && (
        <Labelled label="Your name" problem={problemOf('name')}>
          {(id) => <input id={id} name="name" autoComplete="name" className="field" />}
        </Labelled>
      )}
      <Labelled label="Email address" problem={problemOf('email')}>
        {(id) => (
          <input
            id={id}
            name="email"
            type="email"
            autoComplete="username"
            className="field"
            defaultValue={props.email ?? ''}
          />
        )}
      </Labelled>
      <Labelled label={first ? 'Password, at least 12 characters' : 'Password'} problem={problemOf('password')}>
        {(id) => (
          <input
            id={id}
            name="password"
            type="password"
            autoComplete={first ? 'new-password' : 'current-password'}
            className="field"
          />
        )}
      </Labelled>
      {first && session.needsFirstCode && (
        <Labelled label="The code that the server printed when it started" problem={problemOf('code')}>
          {(id) => <input id={id} name="code" autoComplete="off" className="field font-num" />}
        </Labelled>
      )}
      {error !== null && problems.length === 0 && <Alert error={error} />}
      <Button type="submit" look={session.demo ? 'plain' : 'main'} busy={busy}>
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

const Alert = ({ error }: { readonly error: unknown }) => (
  <p role="alert" className="font-semibold text-tangerine-text">
    <span aria-hidden>▲ </span>
    {errorWords(error)}
  </p>
);

function ForgottenForm({ email, onBack }: { readonly email: string; readonly onBack: () => void }) {
  const [sent, setSent] = useState<string | null>(null);
  const [error, setError] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const submit = async (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const typed = textOf(new FormData(e.currentTarget), 'email');
    setBusy(true);
    setError(null);
    try {
      await ask(contract.access.forgotten, {}, { body: { email: typed } });
      setSent(typed);
    } catch (refused) {
      setError(refused);
    } finally {
      setBusy(false);
    }
  };
  const problems = error instanceof ApiProblem ? error.problems : [];
  return (
    <form onSubmit={(e) => void submit(e)} noValidate className="mt-5 grid gap-4">
      {sent === null ? (
        <>
          <Labelled label="Email address" problem={problems[0]?.message}>
            {(id) => (
              <input id={id} name="email" type="email" autoComplete="username" className="field" defaultValue={email} />
            )}
          </Labelled>
          {error !== null && problems.length === 0 && <Alert error={error} />}
          <Button type="submit" look="main" busy={busy}>
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
  const { busy, error, enter } = useEntering();
  const [lost, setLost] = useState(false);
  const needs = session.needs ?? [];
  const show = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const code = textOf(new FormData(e.currentTarget), 'code');
    void enter(() => ask(contract.access.factor, {}, { body: lost ? { recoveryCode: code } : { code } }));
  };
  const passkey = () =>
    enter(async () => {
      const options = await ask(contract.access.factorChallenge);
      const { startAuthentication } = await import('@simplewebauthn/browser');
      const said = await startAuthentication({
        optionsJSON: options as unknown as PublicKeyCredentialRequestOptionsJSON,
      });
      return ask(contract.access.factor, {}, { body: { passkey: { ...said } } });
    });
  const hasCode = lost || needs.includes('totp');
  // After five wrong codes, or five minutes, it begins again with the password.
  const isOver = error instanceof ApiProblem && error.code === 'signInNeeded';
  return (
    <div className="mt-5 grid gap-4">
      <p>Your password is right. Show your second factor now.</p>
      {needs.includes('passkey') && (
        <Button look="main" busy={busy} onClick={() => passkey()}>
          Use a passkey
        </Button>
      )}
      {hasCode && (
        <form className="grid gap-4" noValidate onSubmit={show}>
          <Labelled label={lost ? 'One of your recovery codes' : 'Code of your authenticator app'}>
            {(id) => (
              <input
                id={id}
                key={String(lost)}
                name="code"
                autoFocus
                inputMode={lost ? 'text' : 'numeric'}
                autoComplete="one-time-code"
                className="field font-num"
              />
            )}
          </Labelled>
          <Button type="submit" busy={busy}>
            Continue
          </Button>
        </form>
      )}
      {error !== null && <Alert error={error} />}
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
