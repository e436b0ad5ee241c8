/** What can come back from a mailbox: an answer, a vacation notice, a bounce; and whether it takes mail at all. */
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { Letter, Mailbox } from '@zest-bell/core/exchange';
import { ask, errorWords } from '../../lib/api.ts';
import { refreshAll } from '../../lib/queries.ts';
import { useKept } from '../../lib/useKept.ts';

const button =
  'rounded-md border border-black/30 px-3 py-1.5 text-[13.5px] font-semibold hover:border-black disabled:opacity-50';

export function AnswerDesk({ box, letter }: { readonly box: Mailbox; readonly letter: Letter }) {
  const { value: text, set: setText, drop } = useKept(`letter ${letter.id}`, '');
  const [busy, setBusy] = useState(false);
  const act = async (work: () => Promise<unknown>, done: string) => {
    setBusy(true);
    try {
      await work();
      await refreshAll();
      drop();
      toast(done);
    } catch (error) {
      toast.error(errorWords(error));
    } finally {
      setBusy(false);
    }
  };
  const send = (kind: 'answer' | 'outOfOffice' | 'bounce', said: string) =>
    ask(contract.demo.answerLetter, { address: box.address, letter: letter.id }, { body: { kind, text: said } });
  return (
    <section aria-label="Answer" className="mt-6 border-t border-black/15 pt-4">
      <label className="block text-[13.5px] font-semibold" htmlFor="answer">
        Reply as {box.name}
      </label>
      <textarea
        id="answer"
        rows={3}
        value={text}
        onChange={(e) => setText(e.target.value)}
        className="mt-1 w-full rounded-md border border-black/30 bg-white p-2.5"
      />
      <div className="mt-2 flex flex-wrap gap-2">
        <button
          className={`${button} bg-[#26231c] text-white`}
          disabled={busy || text.trim() === ''}
          onClick={() => void act(() => send('answer', text), 'The reply is on its way.')}
        >
          Send reply
        </button>
        <button
          className={button}
          disabled={busy}
          onClick={() =>
            void act(() => send('outOfOffice', 'I am away until Monday.'), 'An out-of-office reply was sent.')
          }
        >
          Reply out of office
        </button>
        <button
          className={button}
          disabled={busy}
          onClick={() => void act(() => send('bounce', ''), 'The message bounced.')}
        >
          Bounce this message
        </button>
        <button
          className={button}
          disabled={busy}
          onClick={() =>
            void act(
              () => ask(contract.demo.refuse, { address: box.address }, { body: { refusing: !box.refusing } }),
              box.refusing ? 'The mailbox accepts mail again.' : 'The mailbox rejects mail from now on.',
            )
          }
        >
          {box.refusing ? 'Accept mail again' : 'Reject new mail'}
        </button>
      </div>
    </section>
  );
}
