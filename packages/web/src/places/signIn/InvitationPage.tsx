/** What somebody sees who was invited: for what, by whom, and what is left to do. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { InvitationView, SessionAnswer } from '@zest-bell/core/exchange';
import { ask, errorWords } from '../../lib/api.ts';
import { ROLE_WORDS } from '../../lib/mayWords.ts';
import { queryClient, useSession } from '../../lib/queries.ts';
import { FormAlert, FormField, useSentForm } from '../../parts/common/SentForm.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { Button } from '../../ui/Button.tsx';
import { Frame } from './Frame.tsx';
import { DirectoryButton } from '../../parts/common/DirectoryButton.tsx';
import { Or, SignInForm } from './SignInForm.tsx';

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
      ) : hasAccount || session.toProve !== undefined || session.needs ? (
        <>
          <p className="mt-4 font-semibold">You have an account. Sign in with it to join.</p>
          <SignInForm session={session} email={email} />
        </>
      ) : (
        <NewAccount secret={secret} course={course.id} directory={session.directory} />
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

async function accept(
  secret: string,
  course: number,
  account?: { readonly name: string; readonly password: string },
): Promise<void> {
  await ask(contract.people.accept, {}, { body: { secret, ...(account ? { account } : {}) } });
  // The page begins anew, with what the new access shows; until it is there, the form stays busy.
  window.location.replace(`/c/${course}`);
  await new Promise(() => undefined);
}

function Join({ secret, course }: { readonly secret: string; readonly course: number }) {
  const form = useSentForm(() => accept(secret, course));
  return (
    <form className="mt-5 grid gap-4" onSubmit={form.onSubmit}>
      <FormAlert form={form} />
      <Button type="submit" look="main" busy={form.busy}>
        Join the course
      </Button>
    </form>
  );
}

function NewAccount(props: {
  readonly secret: string;
  readonly course: number;
  readonly directory: SessionAnswer['directory'];
}) {
  const { secret, course, directory } = props;
  const form = useSentForm(
    (typed) => accept(secret, course, { name: typed('name'), password: typed('password') }),
    'account.',
  );
  const byDirectory = directory && (
    <div className="mt-5 grid gap-4">
      <DirectoryButton
        look="main"
        directory={directory}
        then={`/c/${course}`}
        invitation={secret}
        words={`Join with ${directory.name}`}
      />
    </div>
  );
  if (directory?.passwordsOff) return byDirectory;
  return (
    <>
      {byDirectory && (
        <>
          {byDirectory}
          <Or />
        </>
      )}
      <form className="mt-5 grid gap-4" noValidate onSubmit={form.onSubmit}>
        <FormField form={form} name="name" kind="name" label="Your name" />
        <FormField form={form} name="password" kind="newPassword" label="A new password, at least 12 characters" />
        <FormAlert form={form} />
        <Button type="submit" look={directory ? 'plain' : 'main'} busy={form.busy}>
          Create account and join
        </Button>
      </form>
    </>
  );
}
