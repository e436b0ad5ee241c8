/** Students who were erased on request. */
import { useQuery } from '@tanstack/react-query';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../../lib/api.ts';
import { attempt } from '../../../lib/attempt.ts';
import type { CourseHere } from '../../../lib/here.ts';
import { Button } from '../../../ui/Button.tsx';
import { PlainTable } from '../../../ui/PlainTable.tsx';
import { When } from '../../../ui/When.tsx';

const inHandWords = (messages: number): string =>
  `${messages === 1 ? 'One message is' : `${messages} messages are`} with the mail server. The rest follows when it answers.`;

export function ErasedCard({ here }: { readonly here: CourseHere }) {
  const erased = useQuery({
    queryKey: ['erased', here.id],
    queryFn: () => ask(contract.erasure.erased, { course: here.id }),
  });
  if (!erased.data || erased.data.length === 0) return null;
  const allow = async (id: number) => {
    await attempt(() => ask(contract.erasure.allow, { course: here.id, erased: id }));
    await erased.refetch();
  };
  return (
    <section aria-label="Erased students" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Erased students</h2>
      <p className="text-[14px] text-ink-2">
        Zest Bell no longer knows who they were. It ignores files and platforms that name them again.
      </p>
      <PlainTable
        label="Erased students"
        columns={[
          { name: 'Erased' },
          { name: 'By' },
          { name: 'State' },
          { name: 'Backups that still hold them' },
          { name: 'Change' },
        ]}
        rows={erased.data.map((e) => ({
          key: String(e.id),
          head: <When at={e.at} zone={here.course.timeZone} />,
          cells: [
            e.by,
            e.done ? 'erased' : e.inHand === 0 ? 'is being erased' : inHandWords(e.inHand),
            e.backups.length === 0 ? 'none known' : e.backups.join(', '),
            e.allowed ? (
              'may be imported again'
            ) : (
              <Button key="allow" look="quiet" onClick={() => allow(e.id)}>
                Allow importing them again
              </Button>
            ),
          ],
        }))}
      />
    </section>
  );
}
