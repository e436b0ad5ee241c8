/** After signing out, for somebody who came by the institution's own sign-in: they are still signed in there. */
import { Failed, Loading } from '../../parts/common/States.tsx';
import { useSession } from '../../lib/queries.ts';
import { Frame } from './Frame.tsx';

const LINK = 'font-semibold text-pine underline';

export function SignedOutPage() {
  const session = useSession();
  if (session.isPending) return <Loading what="your sign-in" />;
  if (session.isError) return <Failed error={session.error} retry={() => void session.refetch()} />;
  const { directory } = session.data;
  return (
    <Frame title="You are signed out">
      {directory && (
        <p className="mt-2">
          You are signed out of Zest Bell. You may still be signed in at {directory.name}; on a shared computer, sign
          out there too.
        </p>
      )}
      <p className="mt-5 flex flex-wrap gap-x-6 gap-y-2">
        {directory && (
          <a className={LINK} href="/oidc/sign-out">
            Sign out of {directory.name}
          </a>
        )}
        <a className={LINK} href="/">
          Sign in again
        </a>
      </p>
    </Frame>
  );
}
