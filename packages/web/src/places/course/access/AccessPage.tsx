/** Who has access to the course and what each may do there; owners invite, change and take away. */
import { useState, type FormEvent } from 'react';
import { useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { ACCESS_ROLES, type AccessRole } from '@zest-bell/core/access';
import { contract } from '@zest-bell/core/contract';
import type { AccessAnswer, InvitedAnswer, PersonWithAccess } from '@zest-bell/core/exchange';
import { ask, ApiProblem, errorWords } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import { useHere, type CourseHere } from '../../../lib/here.ts';
import { ROLE_WORDS } from '../../../lib/mayWords.ts';
import { queryClient, refreshAll } from '../../../lib/queries.ts';
import { CourseTabPage } from '../CourseTabPage.tsx';
import { Failed, Loading } from '../../../parts/common/States.tsx';
import { Button } from '../../../ui/Button.tsx';
import { Dialog } from '../../../ui/Dialog.tsx';
import { Labelled } from '../../../ui/fields.tsx';
import { PlainTable } from '../../../ui/PlainTable.tsx';
import { SecretField } from '../../../ui/SecretField.tsx';
import { When } from '../../../ui/When.tsx';
import { ErasedCard } from './ErasedCard.tsx';
import { KeptCard } from './KeptCard.tsx';
import { TokensCard } from './TokensCard.tsx';

const CARD = 'mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4';

export function AccessPage() {
  const here = useHere();
  const access = useQuery({
    queryKey: ['access', here.id],
    queryFn: () => ask(contract.people.access, { course: here.id }),
  });
  return (
    <CourseTabPage here={here} tab="/access">
      {access.isError ? (
        <Failed error={access.error} retry={() => void access.refetch()} />
      ) : access.isPending ? (
        <Loading what="who has access" />
      ) : (
        <div className="grid max-w-[980px] grid-cols-[minmax(0,1fr)] gap-4">
          <People here={here} access={access.data} />
          {here.may('access.write') && <Invite here={here} access={access.data} />}
          {here.may('access.write') && <Assistants here={here} access={access.data} />}
          {here.may('tokens.write') && <TokensCard here={here} />}
          <KeptCard here={here} />
          {here.may('data.erase') && <ErasedCard here={here} />}
        </div>
      )}
    </CourseTabPage>
  );
}

function People({ here, access }: { readonly here: CourseHere; readonly access: AccessAnswer }) {
  const [leaving, setLeaving] = useState<PersonWithAccess | null>(null);
  const mayChange = here.may('access.write');
  const setRole = async (person: PersonWithAccess, role: AccessRole) => {
    const path = { course: here.id, account: person.account };
    await attempt(() => ask(contract.people.setRole, path, { body: { role } }));
    await refreshAll();
    if (person.isYou) await queryClient.invalidateQueries({ queryKey: ['session'] });
  };
  return (
    <section aria-label="People with access" className={CARD}>
      <h2 className="text-[18px] font-bold">People with access</h2>
      <p className="text-[14px] text-ink-2">
        They sign in with their own accounts. Being on the roster gives nobody access.
      </p>
      <PlainTable
        label="People with access"
        columns={[{ name: 'Name' }, { name: 'Address' }, { name: 'Role' }, { name: 'Change' }]}
        rows={access.people.map((p) => ({
          key: String(p.account),
          head: p.isYou ? `${p.name} (you)` : p.name,
          cells: [
            p.email,
            mayChange ? (
              <select
                aria-label={`Role of ${p.name}`}
                className="field"
                value={p.role}
                onChange={(e) => void setRole(p, e.target.value as AccessRole)}
              >
                {ACCESS_ROLES.map((r) => (
                  <option key={r} value={r}>
                    {ROLE_WORDS[r].name}
                  </option>
                ))}
              </select>
            ) : (
              ROLE_WORDS[p.role].name
            ),
            mayChange || p.isYou ? (
              <Button look="quiet" onClick={() => setLeaving(p)}>
                {p.isYou ? 'Leave the course' : 'Take access away'}
              </Button>
            ) : (
              ''
            ),
          ],
        }))}
      />
      <dl className="mt-3 grid gap-x-4 gap-y-1 text-[14px] text-ink-2 min-[700px]:grid-cols-[auto_1fr]">
        {ACCESS_ROLES.map((r) => (
          <div key={r} className="contents">
            <dt className="font-semibold">{ROLE_WORDS[r].name}</dt>
            <dd>{ROLE_WORDS[r].about}</dd>
          </div>
        ))}
      </dl>
      {leaving && <TakeAway here={here} person={leaving} onClose={() => setLeaving(null)} />}
    </section>
  );
}

function TakeAway(props: {
  readonly here: CourseHere;
  readonly person: PersonWithAccess;
  readonly onClose: () => void;
}) {
  const { here, person, onClose } = props;
  const [busy, setBusy] = useState(false);
  const go = async () => {
    setBusy(true);
    const done = await attempt(async () => {
      if (person.isYou) await ask(contract.people.leave, { course: here.id });
      else await ask(contract.people.takeAway, { course: here.id, account: person.account });
      return true;
    });
    setBusy(false);
    onClose();
    if (!done) return;
    if (person.isYou) return window.location.assign('/');
    await refreshAll();
    toast(`${person.name} no longer has access.`);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={person.isYou ? 'Leave this course?' : `Take access away from ${person.name}?`}
      foot={
        <>
          <Button onClick={onClose}>Cancel</Button>
          <Button look="main" busy={busy} onClick={() => go()}>
            {person.isYou ? 'Leave the course' : 'Take access away'}
          </Button>
        </>
      }
    >
      <p className="p-6">
        {person.isYou ? 'You no longer see' : `${person.name} no longer sees`} {here.course.code}. Rules, texts and what
        was sent stay as they are. Tokens that {person.isYou ? 'you' : 'they'} made as an owner no longer work.
      </p>
    </Dialog>
  );
}

function Invite({ here, access }: { readonly here: CourseHere; readonly access: AccessAnswer }) {
  const [email, setEmail] = useState('');
  const [role, setRole] = useState<AccessRole>('co-instructor');
  const [busy, setBusy] = useState(false);
  const [refused, setRefused] = useState<unknown>(null);
  const [made, setMade] = useState<(InvitedAnswer & { readonly email: string }) | null>(null);
  const problems = refused instanceof ApiProblem ? refused.problems : [];
  const send = (event: FormEvent) => {
    event.preventDefault();
    void invite(email);
  };
  const invite = async (to: string) => {
    setBusy(true);
    setRefused(null);
    try {
      const answer = await ask(contract.people.invite, { course: here.id }, { body: { email: to, role } });
      setMade({ ...answer, email: to });
      setEmail('');
      await refreshAll();
    } catch (error) {
      setRefused(error);
    } finally {
      setBusy(false);
    }
  };
  const withdraw = async (invitation: number) => {
    await attempt(() => ask(contract.people.withdraw, { course: here.id, invitation }));
    await refreshAll();
  };
  return (
    <section aria-label="Invite somebody" className={CARD}>
      <h2 className="text-[18px] font-bold">Invite somebody</h2>
      <p className="text-[14px] text-ink-2">
        They get a link by email. It works once, for seven days, for that address.
      </p>
      <form className="mt-3 flex flex-wrap items-end gap-3" noValidate onSubmit={send}>
        <div className="min-w-64 flex-1">
          <Labelled label="Email address" problem={problems.find((p) => p.path === 'email')?.message}>
            {(id) => (
              <input
                id={id}
                type="email"
                list="roster-addresses"
                autoComplete="off"
                className="field"
                value={email}
                onChange={(e) => setEmail(e.target.value)}
              />
            )}
          </Labelled>
          <datalist id="roster-addresses">
            {access.onRoster.map((p) => (
              <option key={p.email} value={p.email}>
                {p.name}
              </option>
            ))}
          </datalist>
        </div>
        <Labelled label="Role">
          {(id) => (
            <select id={id} className="field" value={role} onChange={(e) => setRole(e.target.value as AccessRole)}>
              {ACCESS_ROLES.map((r) => (
                <option key={r} value={r}>
                  {ROLE_WORDS[r].name}
                </option>
              ))}
            </select>
          )}
        </Labelled>
        <Button type="submit" look="main" busy={busy}>
          Send the invitation
        </Button>
      </form>
      {refused !== null && problems.length === 0 && (
        <p role="alert" className="mt-2 font-semibold text-tangerine-text">
          ▲ {errorWords(refused)}
        </p>
      )}
      {made?.mailed && (
        <p role="status" className="mt-2 text-[14.5px]">
          The invitation to {made.email} is on its way.
        </p>
      )}
      {made && !made.mailed && made.link !== null && (
        <SecretField
          label={`The mail server did not take the invitation to ${made.email}. Send them this link yourself; it is not shown again. Their account stays unproven until a mailed link proves their address.`}
          value={made.link}
          named="link"
        />
      )}
      {made && !made.mailed && made.link === null && (
        <p role="alert" className="mt-2 flex flex-wrap items-center gap-3 text-[14.5px]">
          <span>▲ No mail left for {made.email}. An administrator can pass the link on.</span>
          <Button busy={busy} onClick={() => invite(made.email)}>
            Send again
          </Button>
        </p>
      )}
      {access.invitations.length > 0 && (
        <PlainTable
          label="Open invitations"
          columns={[
            { name: 'Not accepted yet' },
            { name: 'Role' },
            { name: 'From' },
            { name: 'Ends' },
            { name: 'Change' },
          ]}
          rows={access.invitations.map((i) => ({
            key: String(i.id),
            head: i.email,
            cells: [
              ROLE_WORDS[i.role].name,
              i.by,
              <When key="ends" at={i.endsAt} zone={here.course.timeZone} />,
              <Button key="back" look="quiet" onClick={() => withdraw(i.id)}>
                Take back
              </Button>,
            ],
          }))}
        />
      )}
    </section>
  );
}

function Assistants({ here, access }: { readonly here: CourseHere; readonly access: AccessAnswer }) {
  const set = async (assistantsDecide: boolean) => {
    await attempt(() => ask(contract.people.terms, { course: here.id }, { body: { assistantsDecide } }));
    await refreshAll();
  };
  return (
    <section aria-label="Assistants" className={CARD}>
      <label className="flex items-start gap-3">
        <input
          type="checkbox"
          className="mt-1 size-4"
          checked={access.assistantsDecide}
          onChange={(e) => void set(e.target.checked)}
        />
        <span>
          <strong>Assistants may decide on nudges</strong>
          <span className="block text-[14px] text-ink-2">
            They send and dismiss in the Tray, write to students by hand, and answer replies.
          </span>
        </span>
      </label>
    </section>
  );
}
