/** An installation as its administrators keep it: people, courses without their students, what holds for all, and who did what. */
import { useState } from 'react';
import { useInfiniteQuery, useQuery } from '@tanstack/react-query';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { MACHINE_TROUBLES, type AdminPerson, type InstallationSettings } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { adminTroublesQuery } from '../../lib/queries.ts';
import { ActsTable } from '../../parts/common/ActsTable.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { OwnPage } from '../../parts/common/OwnPage.tsx';
import { useConfirmed } from '../../parts/common/useConfirmed.tsx';
import { Button } from '../../ui/Button.tsx';
import { Labelled, NumberField } from '../../ui/fields.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';
import { When } from '../../ui/When.tsx';
import { Directory } from './Directory.tsx';
import { MailSettings, NamedPeople, UnprovenSenders } from './MailSettings.tsx';
import { OneRosterClasses } from './OneRosterClasses.tsx';
import { Platforms } from './Platforms.tsx';

const CARD = 'mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4';
const ZONE = Intl.DateTimeFormat().resolvedOptions().timeZone;
const FACTOR_WORDS = { totp: 'codes', passkey: 'passkey' } as const;

export function AdminPage() {
  const settings = useQuery({ queryKey: ['admin', 'settings'], queryFn: () => ask(contract.admin.settings) });
  return (
    <OwnPage title="This installation">
      {settings.isError ? (
        <Failed error={settings.error} retry={() => void settings.refetch()} />
      ) : settings.isPending ? (
        <Loading what="this installation" />
      ) : (
        <>
          <Settings key={JSON.stringify(settings.data)} saved={settings.data} again={() => void settings.refetch()} />
          <MailSettings
            key={`mail ${JSON.stringify(settings.data)}`}
            saved={settings.data}
            again={() => void settings.refetch()}
            className={CARD}
          />
          <UnprovenSenders className={CARD} />
          <Directory className={CARD} />
          <People />
          <Courses />
          <Platforms className={CARD} />
          <OneRosterClasses className={CARD} />
          <Troubles />
          <Acts />
        </>
      )}
    </OwnPage>
  );
}

function Settings({ saved, again }: { readonly saved: InstallationSettings; readonly again: () => void }) {
  const [settings, setSettings] = useState(saved);
  const { confirmed, dialog } = useConfirmed();
  const save = () =>
    confirmed(async () => {
      const { factorRequired, keepMonths, name, shelfKeepers } = settings;
      await ask(contract.admin.setSettings, {}, { body: { factorRequired, keepMonths, name, shelfKeepers } });
      toast('Saved. This now applies to everyone.');
      again();
    });
  return (
    <section aria-label="Settings for everyone" className={CARD}>
      <h2 className="text-[18px] font-bold">Settings for everyone</h2>
      <label className="mt-2 flex items-start gap-3">
        <input
          type="checkbox"
          className="mt-1 size-4"
          checked={settings.factorRequired}
          onChange={(e) => setSettings({ ...settings, factorRequired: e.target.checked })}
        />
        <span>
          Require a second factor for everyone
          <span className="block text-[14px] text-ink-2">Anyone without one sets it up at the next sign-in.</span>
        </span>
      </label>
      <div className="mt-3">
        <NumberField
          label="After a course ends, keep student data for"
          unit="months"
          whole
          min={1}
          max={120}
          value={settings.keepMonths}
          onChange={(keepMonths) => keepMonths !== null && setSettings({ ...settings, keepMonths })}
        />
      </div>
      <div className="mt-3">
        <Labelled label="Name of your institution, where its shelf is shown">
          {(id) => (
            <input
              id={id}
              className="field w-full max-w-[420px]"
              maxLength={80}
              placeholder="Saltmarsh College"
              value={settings.name}
              onChange={(e) => setSettings({ ...settings, name: e.target.value })}
            />
          )}
        </Labelled>
      </div>
      <NamedPeople
        legend="Who may put starters and wordings on the shelf"
        named={settings.shelfKeepers}
        onChange={(shelfKeepers) => setSettings({ ...settings, shelfKeepers })}
      />
      <p className="mt-3">
        <Button look="main" disabled={JSON.stringify(settings) === JSON.stringify(saved)} onClick={() => save()}>
          Save
        </Button>
      </p>
      {dialog}
    </section>
  );
}

function People() {
  const people = useInfiniteQuery({
    queryKey: ['admin', 'people'],
    queryFn: ({ pageParam }) => ask(contract.admin.people, {}, { query: { after: pageParam || undefined } }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next ?? undefined,
  });
  const { confirmed, dialog } = useConfirmed();
  if (people.isError) return <Failed error={people.error} retry={() => void people.refetch()} />;
  const rows = people.data?.pages.flatMap((p) => p.people) ?? [];
  const set = (p: AdminPerson, isAdministrator: boolean) =>
    confirmed(async () => {
      await ask(contract.admin.setAdministrator, { account: p.account }, { body: { isAdministrator } });
      await people.refetch();
    });
  const separate = (p: AdminPerson) =>
    confirmed(async () => {
      await ask(contract.admin.separate, { account: p.account });
      toast(`${p.name} has an account of their own again.`);
      await people.refetch();
    });
  const reset = (p: AdminPerson) =>
    confirmed(async () => {
      await ask(contract.admin.resetFactors, { account: p.account });
      toast(`${p.name} signs in with the password alone until they set a second factor up again.`);
      await people.refetch();
    });
  return (
    <section aria-label="People" className={CARD}>
      <h2 className="text-[18px] font-bold">People</h2>
      <PlainTable
        label="People"
        columns={[
          { name: 'Name' },
          { name: 'Address' },
          { name: 'Courses', right: true },
          { name: 'Second factor' },
          { name: 'Last seen' },
          { name: 'Administrator' },
        ]}
        rows={rows.map((p) => ({
          key: String(p.account),
          head: p.isYou ? `${p.name} (you)` : p.name,
          cells: [
            p.joinedTo === null ? (
              p.email
            ) : (
              <>
                joined to {p.joinedTo}{' '}
                <Button look="quiet" onClick={() => separate(p)}>
                  Separate
                </Button>
              </>
            ),
            p.courses,
            p.factors.length === 0 ? (
              'none'
            ) : (
              <>
                {p.factors.map((f) => FACTOR_WORDS[f]).join(', ')}{' '}
                <Button look="quiet" onClick={() => reset(p)}>
                  Reset
                </Button>
              </>
            ),
            p.seenAt === null ? 'never' : <When key="seen" at={p.seenAt} zone={ZONE} />,
            <input
              key="administrator"
              type="checkbox"
              className="size-4"
              aria-label={`${p.name} is an administrator`}
              checked={p.isAdministrator}
              onChange={(e) => void set(p, e.target.checked)}
            />,
          ],
        }))}
      />
      {people.hasNextPage && <Button onClick={() => people.fetchNextPage()}>Show more people</Button>}
      {dialog}
    </section>
  );
}

function Courses() {
  const courses = useInfiniteQuery({
    queryKey: ['admin', 'courses'],
    queryFn: ({ pageParam }) => ask(contract.admin.courses, {}, { query: { after: pageParam || undefined } }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next ?? undefined,
  });
  if (courses.isError) return <Failed error={courses.error} retry={() => void courses.refetch()} />;
  const rows = courses.data?.pages.flatMap((p) => p.courses) ?? [];
  return (
    <section aria-label="Courses" className={CARD}>
      <h2 className="text-[18px] font-bold">Courses</h2>
      <p className="text-[14px] text-ink-2">Administrators see no students of courses in which they have no role.</p>
      <PlainTable
        label="Courses"
        columns={[
          { name: 'Course' },
          { name: 'Owners' },
          { name: 'Students', right: true },
          { name: 'Rules on', right: true },
          { name: 'State' },
        ]}
        rows={rows.map((c) => ({
          key: String(c.id),
          head: `${c.code} ${c.title}`,
          cells: [
            c.owners.join(', '),
            c.students,
            c.rulesOn,
            c.isArchived ? 'archived' : c.isStopped ? 'mail stopped' : 'runs',
          ],
        }))}
      />
      {courses.hasNextPage && <Button onClick={() => courses.fetchNextPage()}>Show more courses</Button>}
    </section>
  );
}

const TROUBLE_WORDS = {
  mail: 'Mail cannot leave',
  round: 'A rule cannot run',
  stopped: 'Its mail was stopped',
  stale: 'Its data is too old',
  disk: 'The disk is nearly full',
  replyPort: 'No replies arrive',
  clock: 'The clock jumped',
} as const;

const OF_MACHINE: ReadonlySet<string> = new Set(MACHINE_TROUBLES);

function Troubles() {
  const troubles = useQuery(adminTroublesQuery);
  if (troubles.isError) return <Failed error={troubles.error} retry={() => void troubles.refetch()} />;
  if (!troubles.data) return null;
  return (
    <section aria-label="Troubles" className={CARD}>
      <h2 className="text-[18px] font-bold">Troubles</h2>
      {troubles.data.length === 0 ? (
        <p className="text-[14px] text-ink-2">
          Rules and mail are running in every course, and no server has reported a problem.
        </p>
      ) : (
        <PlainTable
          label="Troubles"
          columns={[{ name: 'Course' }, { name: 'What' }, { name: 'Since' }, { name: 'In its own words' }]}
          rows={troubles.data.map((t, i) => ({
            key: String(i),
            head: t.course ?? (OF_MACHINE.has(t.kind) ? 'this server' : 'all courses'),
            cells: [
              TROUBLE_WORDS[t.kind],
              t.since === null ? 'always' : <When key="since" at={t.since} zone={ZONE} />,
              t.says,
            ],
          }))}
        />
      )}
    </section>
  );
}

function Acts() {
  const [by, setBy] = useState('');
  const acts = useInfiniteQuery({
    queryKey: ['admin', 'acts', by],
    queryFn: ({ pageParam }) =>
      ask(contract.admin.acts, {}, { query: { after: pageParam || undefined, by: by || undefined } }),
    initialPageParam: 0,
    getNextPageParam: (last) => last.next ?? undefined,
  });
  return <ActsTable acts={acts} by={by} onBy={setBy} zone={ZONE} withCourse />;
}
