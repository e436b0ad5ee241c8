import { contract } from '@zest-bell/core/contract';
import { useState } from 'react';
import type { SessionAnswer } from '@zest-bell/core/exchange';
import { ask, errorWords } from '../../lib/api.ts';
import { queryClient } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Frame } from './Frame.tsx';
import { Or, SignInForm } from './SignInForm.tsx';

/** Signing in; in the demo one button does it; a new installation asks for its first account here. */
export function SignInPage({ session }: { readonly session: SessionAnswer }) {
  const [busy, setBusy] = useState(false);
  const [error, setError] = useState<unknown>(null);
  const first = session.needsFirstAccount;
  const openDemo = async () => {
    setBusy(true);
    setError(null);
    try {
      queryClient.setQueryData(['session'], await ask(contract.access.signInToDemo));
    } catch (e) {
      setError(e);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Frame title={first ? 'Create the first account' : 'Sign in'}>
      <p className="mt-1 text-ink-2">
        {first
          ? 'There is no account here yet. Create yours; it stays on this server.'
          : 'Your courses, your rules, and everything that was sent.'}
      </p>
      {session.demo && !session.needs && session.toProve === undefined && (
        <>
          <Button look="main" busy={busy} className="mt-6 w-full" onClick={() => openDemo()}>
            Open the demo as Dr. Ostrander
          </Button>
          {error !== null && <p role="alert">▲ {errorWords(error)}</p>}
          {!session.directory && <Or />}
        </>
      )}
      <SignInForm session={session} />
    </Frame>
  );
}
