/** The way to the institution's own sign-in, and back to the page that one came from. */
import { contract } from '@zest-bell/core/contract';
import type { DirectoryView } from '@zest-bell/core/exchange';
import { ask, errorWords } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import { Button, type ButtonProps } from '../../ui/Button.tsx';

interface DirectoryButtonProps {
  readonly directory: DirectoryView;
  /** The page to come back to. */
  readonly then: string;
  readonly purpose?: 'signIn' | 'join';
  readonly invitation?: string;
  readonly look?: ButtonProps['look'];
  readonly words?: string;
}

export function DirectoryButton({ directory, then, purpose, invitation, look, words }: DirectoryButtonProps) {
  const { busy, error, run } = useAsking(() => undefined);
  const go = () =>
    run(async () => {
      const { to } = await ask(contract.access.beginDirectory, {}, { body: { purpose, then, invitation } });
      window.location.assign(to);
      // The page is left: until then the button stays busy.
      await new Promise(() => undefined);
    });
  return (
    <>
      <Button look={look} busy={busy} onClick={() => go()}>
        {words ?? `Sign in with ${directory.name}`}
      </Button>
      {error !== null && <p role="alert">▲ {errorWords(error)}</p>}
    </>
  );
}
