/** Whether everybody is treated alike: whom the rule finds in each group, and who of each was sent what. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import type { GroupMessages } from '@zest-bell/core/exchange';
import {
  rangedShareWords,
  type ByGroup,
  type Difference,
  type GroupBy,
  type GroupHindsight,
  type Proportion,
} from '@zest-bell/core/outcomes';
import { numberWords, percentWords } from '@zest-bell/core/time';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { Failed } from '../../parts/common/States.tsx';
import { PlainTable } from '../../ui/PlainTable.tsx';

type NamedGroup = Pick<GroupHindsight, 'group' | 'isSmaller'>;

/** A group as a table names it: its text, or what it is made of. */
const groupWords = ({ group, isSmaller }: NamedGroup, by: GroupBy): string =>
  isSmaller ? 'smaller groups' : (group ?? (by.of === 'section' ? 'no section' : `no ${by.name}`));

const shareOr = (share: Proportion | null): string => (share === null ? 'nobody' : rangedShareWords(share));

/** In a plain sentence which of two has more of what, by more than chance would make. */
function differenceWords({ between, share }: Difference, groups: readonly GroupHindsight[], by: GroupBy): string {
  const of = (g: GroupHindsight) => {
    const p = share === 'found' ? g.shareFound! : g.shareNeedless!;
    return { words: groupWords(g, by), share: p.count / p.of };
  };
  const [a, b] = between.map((n) => of(groups[n]!)) as [ReturnType<typeof of>, ReturnType<typeof of>];
  const [more, less] = a.share >= b.share ? [a, b] : [b, a];
  const what = share === 'found' ? 'more of those you worry about are found' : 'more of those who did fine are found';
  return `In ${more.words}, ${what} than in ${less.words}: ${percentWords(100 * more.share)} against ${percentWords(100 * less.share)}. Chance alone is unlikely to make a difference this large.`;
}

export function TreatedAlike(props: { readonly here: CourseHere; readonly by: GroupBy; readonly told: ByGroup }) {
  const { here, by, told } = props;
  const messages = useQuery({
    queryKey: ['group messages', here.id, here.answer.version, JSON.stringify(by), here.now],
    queryFn: ({ signal }) => ask(contract.rounds.groupMessages, { course: here.id }, { body: { by }, signal }),
  });
  return (
    <section aria-label="Treated alike" className="rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[17px] font-bold">Treated alike?</h2>
      {told.groups.length < 2 ? (
        <p className="text-[14.5px] text-ink-2">There is only one group to look at.</p>
      ) : (
        <>
          {told.differ.length > 0 && (
            <ul className="mt-1 grid gap-1 text-[15px] font-semibold">
              {told.differ.map((d) => (
                <li key={JSON.stringify(d)}>▲ {differenceWords(d, told.groups, by)}</li>
              ))}
            </ul>
          )}
          <PlainTable
            label="Whom the rule finds in each group"
            columns={[
              { name: 'Group' },
              { name: 'Found, of those you worry about' },
              { name: 'Found, of those who did fine' },
            ]}
            rows={told.groups.map((g, i) => ({
              key: String(i),
              head: groupWords(g, by),
              cells: [shareOr(g.shareFound), shareOr(g.shareNeedless)],
            }))}
          />
          <p className="mt-1 text-[13.5px] text-ink-2">
            A range is a 95% confidence interval. Groups of fewer than five are counted together.
          </p>
        </>
      )}
      {messages.isError && <Failed error={messages.error} retry={() => void messages.refetch()} />}
      {messages.data && <Messages groups={messages.data} by={by} />}
    </section>
  );
}

/** Students of each group who were sent something of a kind, whatever rule sent it. */
function Messages({ groups, by }: { readonly groups: readonly GroupMessages[]; readonly by: GroupBy }) {
  const of = (part: number, whole: number) => `${numberWords(part)} of ${numberWords(whole)}`;
  return (
    <>
      <h3 className="mt-4 text-[15px] font-semibold">Who was sent what so far</h3>
      <PlainTable
        label="Who of each group was sent what"
        columns={[
          { name: 'Group' },
          { name: 'Praise', right: true },
          { name: 'Support', right: true },
          { name: 'Reminder', right: true },
          { name: 'Warning', right: true },
        ]}
        rows={groups.map((g, i) => ({
          key: String(i),
          head: groupWords(g, by),
          cells: (['praise', 'support', 'reminder', 'firm'] as const).map((purpose) => of(g.got[purpose], g.students)),
        }))}
      />
    </>
  );
}
