/** How often what waits in all of one's courses comes by email. */
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import { DIGESTS, type Digest } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { queryClient } from '../../lib/queries.ts';
import { useInbox } from '../../lib/useInbox.ts';
import { Failed } from '../../parts/common/States.tsx';

const DIGEST_WORDS: Readonly<Record<Digest, string>> = { off: 'never', daily: 'every day', weekly: 'every Monday' };

export function SummaryMail() {
  const inbox = useInbox();
  const choose = (next: Digest) =>
    attempt(async () => {
      await ask(contract.access.digest, {}, { body: { digest: next } });
      await queryClient.invalidateQueries({ queryKey: ['inbox'] });
      toast(
        next === 'off'
          ? 'Zest Bell sends you no summary.'
          : `Zest Bell sends you a summary at 7 AM ${DIGEST_WORDS[next]}, if something is waiting.`,
      );
    });
  if (inbox.isError) return <Failed error={inbox.error} retry={() => void inbox.refetch()} />;
  if (!inbox.data) return null;
  return (
    <section aria-label="Summary mail" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Summary mail</h2>
      <label className="mt-1 flex flex-wrap items-center gap-2">
        Email me what is waiting in my courses
        <select className="field" value={inbox.data.digest} onChange={(e) => void choose(e.target.value as Digest)}>
          {DIGESTS.map((d) => (
            <option key={d} value={d}>
              {DIGEST_WORDS[d]}
            </option>
          ))}
        </select>
      </label>
    </section>
  );
}
