/** A course in counts, for those who see no person in it. */
import { useQuery } from '@tanstack/react-query';
import { Link } from 'react-router';
import type { SafeShare } from '@zest-bell/core/access';
import { contract } from '@zest-bell/core/contract';
import type { CountsAnswer } from '@zest-bell/core/exchange';
import { dateWords, instantWords } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import { useSession } from '../../lib/queries.ts';
import { OwnPage } from '../../parts/common/OwnPage.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';

const CARD = 'mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4';
const FEW = 'fewer than 5';

export function CountsPage({ course }: { readonly course: number }) {
  const counts = useQuery({ queryKey: ['counts', course], queryFn: () => ask(contract.desk.counts, { course }) });
  const session = useSession();
  if (counts.isError) return <Failed error={counts.error} retry={() => void counts.refetch()} />;
  if (counts.isPending) return <Loading what="the counts" />;
  const { data } = counts;
  const others = session.data?.courses.filter((c) => c.id !== course) ?? [];
  return (
    <OwnPage title={`${data.code} ${data.title}`}>
      <p className="text-ink-2">
        {dateWords(data.start)} to {dateWords(data.end)}, as of {instantWords(data.now, data.timeZone)}. You see counts,
        but no names. Zero to four appears as “{FEW}”.
      </p>
      <p className="mt-2">
        <strong className="text-2xl">{data.students ?? FEW}</strong> students
      </p>
      <Weeks data={data} />
      <Rules data={data} />
      {data.sections.length > 1 && (
        <section aria-label="Sections" className={CARD}>
          <h2 className="text-[18px] font-bold">Sections</h2>
          <PlainTable
            label="Sections"
            columns={[{ name: 'Section' }, { name: 'Students', right: true }]}
            rows={data.sections.map((s) => ({
              key: s.names.join(' '),
              head: s.names.join(', '),
              cells: [s.students ?? FEW],
            }))}
          />
        </section>
      )}
      {others.length > 0 && (
        <p className="mt-5">
          Your other courses:{' '}
          {others.map((c) => (
            <Link key={c.id} className="mr-3 font-semibold text-pine underline" to={`/c/${c.id}`}>
              {c.code}
            </Link>
          ))}
        </p>
      )}
    </OwnPage>
  );
}

const SHARE_WORDS = { few: FEW, allButFew: 'all but fewer than 5', tooFew: 'too few to say' } as const;
const shareWords = (share: SafeShare): string =>
  share.kind === 'exact' ? `${share.n} of ${share.of}` : SHARE_WORDS[share.kind];

function Share({ share }: { readonly share: SafeShare }) {
  const part = share.kind === 'exact' ? share.n / share.of : share.kind === 'allButFew' ? 1 : 0;
  return (
    <span className="flex items-center gap-2">
      <span aria-hidden className="relative h-2 w-24 shrink-0 overflow-hidden rounded-full bg-fog">
        <span className="absolute inset-y-0 left-0 bg-pine" style={{ width: `${part * 100}%` }} />
      </span>
      <span className="font-num">{shareWords(share)}</span>
    </span>
  );
}

function Weeks({ data }: { readonly data: CountsAnswer }) {
  return (
    <section aria-label="Week by week" className={CARD}>
      <h2 className="text-[18px] font-bold">Week by week</h2>
      <PlainTable
        label="Week by week"
        columns={[{ name: 'Week of' }, { name: 'Were active in the course' }, { name: 'Got a nudge' }]}
        rows={data.weeks.map((w) => ({
          key: w.from,
          head: dateWords(w.from),
          cells: [<Share key="active" share={w.active} />, <Share key="nudged" share={w.nudged} />],
        }))}
      />
    </section>
  );
}

function Rules({ data }: { readonly data: CountsAnswer }) {
  return (
    <section aria-label="Rules" className={CARD}>
      <h2 className="text-[18px] font-bold">Rules</h2>
      {data.rules.length === 0 ? (
        <p>This course has no rules yet.</p>
      ) : (
        <PlainTable
          label="Rules"
          columns={[
            { name: 'Rule' },
            { name: 'State' },
            { name: 'Students reached' },
            { name: 'Came back within two weeks' },
          ]}
          rows={data.rules.map((r) => ({
            key: r.name,
            head: r.name,
            cells: [
              r.isOn ? 'on' : 'off',
              <Share key="reached" share={r.reached} />,
              <Share key="back" share={r.cameBack} />,
            ],
          }))}
        />
      )}
    </section>
  );
}
