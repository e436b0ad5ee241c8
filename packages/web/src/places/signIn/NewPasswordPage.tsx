/** Behind the link of anyone who forgot their password. */
import { useState, type FormEvent } from 'react';
import { Link } from 'react-router';
import { contract } from '@zest-bell/core/contract';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { Frame } from './Frame.tsx';

export function NewPasswordPage() {
  const [password, setPassword] = useState('');
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const [done, setDone] = useState(false);
  const problems = refused instanceof ApiProblem ? refused.problems : [];
  const save = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    setRefused(null);
    try {
      await ask(contract.access.newPassword, {}, { body: { secret: window.location.hash.slice(1), password } });
      setDone(true);
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };
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
      <form className="mt-5 grid gap-4" noValidate onSubmit={(e) => void save(e)}>
        <Labelled
          label="New password, at least 12 characters"
          problem={problems.find((p) => p.path === 'password')?.message}
        >
          {(id) => (
            <input
              id={id}
              type="password"
              autoComplete="new-password"
              className="field"
              value={password}
              onChange={(e) => setPassword(e.target.value)}
            />
          )}
        </Labelled>
        {refused !== null && problems.length === 0 && <p role="alert">▲ {errorWords(refused)}</p>}
        <Button type="submit" look="main" busy={busy}>
          Set the password
        </Button>
      </form>
    </Frame>
  );
}
