/** What somebody sees who was invited: for what, by whom, and what is left to do. */
import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { InvitationView, SessionAnswer } from '@zest-bell/core/exchange';
import { ask, ApiProblem, errorWords } from '../../lib/api.ts';
import { ROLE_WORDS } from '../../lib/mayWords.ts';
import { queryClient, useSession } from '../../lib/queries.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled } from '../../ui/fields.tsx';
import { Frame } from './Frame.tsx';
import { SignInForm } from './SignInForm.tsx';

/** The secret is behind the `#`: no server and no log sees the address. */
const secretHere = () => window.location.hash.slice(1);

export function InvitationPage() {
  const secret = secretHere();
  const session = useSession();
  const invitation = useQuery({
    queryKey: ['invitation', secret],
    queryFn: () => ask(contract.people.lookAtInvitation, {}, { body: { secret } }),
    retry: false,
  });
  if (invitation.isPending || session.isPending) return <Loading what="the invitation" />;
  if (session.isError) return <Failed error={session.error} retry={() => void session.refetch()} />;
  if (invitation.isError)
    return (
      <Frame title="This invitation does not work">
        <p className="mt-2">{errorWords(invitation.error)}</p>
        <p className="mt-4">
          <a className="font-semibold text-pine underline" href="/">
            To Zest Bell
          </a>
        </p>
      </Frame>
    );
  return <Invited secret={secret} invitation={invitation.data} session={session.data} />;
}

function Invited(props: {
  readonly secret: string;
  readonly invitation: InvitationView;
  readonly session: SessionAnswer;
}) {
  const { secret, invitation, session } = props;
  const { course, email, role, by, hasAccount } = invitation;
  const here = session.account;
  const title = `${course.code} ${course.title}`;
  return (
    <Frame title={`Join ${course.code}`}>
      <p className="mt-2">
        {by} invites {email} to {title}, as {ROLE_WORDS[role].name.toLowerCase()}. {ROLE_WORDS[role].about}
      </p>
      {here && here.email !== email ? (
        <Other email={here.email} />
      ) : here ? (
        <Join secret={secret} course={course.id} />
      ) : hasAccount ? (
        <>
          <p className="mt-4 font-semibold">You have an account. Sign in with it to join.</p>
          <SignInForm session={session} email={email} />
        </>
      ) : (
        <NewAccount secret={secret} course={course.id} />
      )}
    </Frame>
  );
}

function Other({ email }: { readonly email: string }) {
  const leave = async () => {
    await ask(contract.access.signOut);
    queryClient.removeQueries({ queryKey: ['session'] });
    window.location.reload();
  };
  return (
    <>
      <p role="alert" className="mt-4 font-semibold">
        You are signed in as {email}. Sign out to accept this invitation.
      </p>
      <Button look="main" className="mt-4" onClick={() => leave()}>
        Sign out
      </Button>
    </>
  );
}

function useAccept(secret: string, course: number) {
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const accept = async (account?: { readonly name: string; readonly password: string }) => {
    setBusy(true);
    setRefused(null);
    try {
      await ask(contract.people.accept, {}, { body: { secret, ...(account ? { account } : {}) } });
      // The page begins anew, with what the new access shows.
      window.location.replace(`/c/${course}`);
    } catch (error) {
      setRefused(error);
      setBusy(false);
    }
  };
  return { busy, refused, accept };
}

function Join({ secret, course }: { readonly secret: string; readonly course: number }) {
  const { busy, refused, accept } = useAccept(secret, course);
  return (
    <>
      {refused !== null && <p role="alert">▲ {errorWords(refused)}</p>}
      <Button look="main" className="mt-5 w-full" busy={busy} onClick={() => accept()}>
        Join the course
      </Button>
    </>
  );
}

function NewAccount({ secret, course }: { readonly secret: string; readonly course: number }) {
  const { busy, refused, accept } = useAccept(secret, course);
  const [name, setName] = useState('');
  const [password, setPassword] = useState('');
  const problems = refused instanceof ApiProblem ? refused.problems : [];
  const problemOf = (field: string) => problems.find((p) => p.path === `account.${field}`)?.message;
  const submit = (e: FormEvent) => {
    e.preventDefault();
    void accept({ name, password });
  };
  return (
    <form className="mt-5 grid gap-4" noValidate onSubmit={submit}>
      <Labelled label="Your name" problem={problemOf('name')}>
        {(id) => (
          <input id={id} autoComplete="name" className="field" value={name} onChange={(e) => setName(e.target.value)} />
        )}
      </Labelled>
      <Labelled label="A new password, at least 12 characters" problem={problemOf('password')}>
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
        Create account and join
      </Button>
    </form>
  );
}
