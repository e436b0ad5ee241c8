import { Outlet } from 'react-router';
import { SignInPage } from '../places/signIn/SignInPage.tsx';
import { Failed, Loading } from '../parts/common/States.tsx';
import { Dock } from './Dock.tsx';
import { useSession } from '../lib/queries.ts';

/** Everything lies behind a signed-in person. */
export function Gate() {
  const session = useSession();
  if (session.isPending) return <Loading what="your sign-in" />;
  if (session.isError) return <Failed error={session.error} retry={() => void session.refetch()} />;
  if (!session.data.account) return <SignInPage session={session.data} />;
  return (
    <>
      <Outlet />
      <Dock />
    </>
  );
}
