import { Navigate, Outlet, useLocation } from 'react-router';
import { SignInPage } from '../places/signIn/SignInPage.tsx';
import { Failed, Loading } from '../parts/common/States.tsx';
import { Dock } from './Dock.tsx';
import { OnItsWay } from './OnItsWay.tsx';
import { useSession } from '../lib/queries.ts';

/** Everything lies behind a signed-in person. */
export function Gate() {
  const { pathname } = useLocation();
  const session = useSession();
  if (session.isPending) return <Loading what="your sign-in" />;
  if (session.isError) return <Failed error={session.error} retry={() => void session.refetch()} />;
  if (!session.data.account) return <SignInPage session={session.data} />;
  if (session.data.mustSetFactor && pathname !== '/account') return <Navigate to="/account" replace />;
  return (
    <>
      {/* First in the order of Tab: who leaves a notice by Tab is put back to where they came from, which at the end would be a ring. */}
      <Dock />
      <Outlet />
      <OnItsWay />
    </>
  );
}
