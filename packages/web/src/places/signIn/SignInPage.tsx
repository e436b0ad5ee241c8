import { contract } from '@zest-bell/core/contract';
import { useState, type FormEvent } from 'react';
import type { Problem } from '@zest-bell/core/problem';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { Brand } from '../../ui/Brand.tsx';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';

/** Signing in; in the demo one button does it; a new installation asks for its first account here. */
export function SignInPage({ session }: { readonly session: SessionAnswer }) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const first = session.needsFirstAccount;
  const problems: readonly Problem[] = error instanceof ApiProblem ? error.problems : [];
  const problemOf = (field: string) => problems.find((p) => p.path === field)?.message;

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
  const submit = (e: FormEvent<HTMLFormElement>) => {
    e.preventDefault();
    const typed = new FormData(e.currentTarget);
    const text = (field: string) => {
      const said = typed.get(field);
      return typeof said === 'string' ? said : '';
    };
    const body = { email: text('email'), password: text('password') };
    const { firstAccount, signIn } = contract.access;
    void enter(() =>
      first ? ask(firstAccount, {}, { body: { ...body, name: text('name') } }) : ask(signIn, {}, { body }),
    );
  };

  return (
    <main className="grid min-h-full place-items-center px-5 py-10">
      <div className="w-full max-w-[420px]">
        <div className="mb-6 flex justify-center">
          <Brand />
        </div>
        <div className="rounded-[18px] border border-line bg-sheet p-8">
          <h1 className="text-2xl font-bold">{first ? 'Create the first account' : 'Sign in'}</h1>
          <p className="mt-1 text-ink-2">
            {first
              ? 'There is no account here yet. Create yours; it stays on this server.'
              : 'Your courses, your rules, and everything that was sent.'}
          </p>
          {session.demo && (
            <>
              <Button
                look="main"
                busy={busy}
                className="mt-6 w-full"
                onClick={() => void enter(() => ask(contract.access.signInToDemo))}
              >
                Open the demo as Dr. Ostrander
              </Button>
              <p className="mt-5 flex items-center gap-3 text-[13px] text-ink-3">
                <span className="h-px flex-1 bg-line" /> or with a password <span className="h-px flex-1 bg-line" />
              </p>
            </>
          )}
          <form onSubmit={submit} noValidate className="mt-5 grid gap-4">
            {first && (
              <Labelled label="Your name" problem={problemOf('name')}>
                {(id) => <input id={id} name="name" autoComplete="name" className="field" />}
              </Labelled>
            )}
            <Labelled label="Email address" problem={problemOf('email')}>
              {(id) => <input id={id} name="email" type="email" autoComplete="username" className="field" />}
            </Labelled>
            <Labelled label="Password" problem={problemOf('password')}>
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
            {error !== null && problems.length === 0 && (
              <p role="alert" className="font-semibold text-tangerine-text">
                <span aria-hidden>▲ </span>
                {errorWords(error)}
              </p>
            )}
            <Button type="submit" look={session.demo ? 'plain' : 'main'} busy={busy}>
              {first ? 'Create account' : 'Sign in'}
            </Button>
          </form>
        </div>
      </div>
    </main>
  );
}
