/** A new password for the signed-in account. It signs out every other browser. */
import { contract } from '@zest-bell/core/contract';
import { useState, type FormEvent } from 'react';
import { toast } from 'sonner';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';
import { Labelled } from '../../ui/fields.tsx';

export function PasswordDialog({ onClose }: { readonly onClose: () => void }) {
  const [old, setOld] = useState('');
  const [password, setPassword] = useState('');
  const [refused, setRefused] = useState<unknown>(null);
  const [busy, setBusy] = useState(false);
  const problems = refused instanceof ApiProblem ? refused.problems : [];
  const problemOf = (path: string) => problems.find((p) => p.path === path)?.message;
  const save = async (event: FormEvent) => {
    event.preventDefault();
    setBusy(true);
    try {
      await ask(contract.access.password, {}, { body: { old, password } });
      toast('Your password is changed. Every other browser is signed out.');
      onClose();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };
  return (
    <Dialog
      open
      title="Change your password"
      onClose={onClose}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" busy={busy} type="submit" form="password-form">
            Change password
          </Button>
        </>
      }
    >
      <form id="password-form" className="grid gap-3 p-6" onSubmit={(e) => void save(e)}>
        {refused !== null && problems.length === 0 && <p role="alert">▲ {errorWords(refused)}</p>}
        <Labelled label="Current password" problem={problemOf('old')}>
          {(id) => (
            <input
              id={id}
              type="password"
              autoComplete="current-password"
              className="field"
              value={old}
              onChange={(e) => setOld(e.target.value)}
            />
          )}
        </Labelled>
        <Labelled label="New password, at least 12 characters" problem={problemOf('password')}>
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
      </form>
    </Dialog>
  );
}
