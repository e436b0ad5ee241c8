/** Signing with one's own name in a course of several people: what one writes, and rules that are one's own. */
import { useState } from 'react';
import { toast } from 'sonner';
import type { OwnSender } from '@zest-bell/core/course';
import type { MailTestAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { useAsking } from '../../lib/useAsking.ts';
import type { CourseHere } from '../../lib/here.ts';
import { refreshAll, useSession } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { useKept } from '../../lib/useKept.ts';
import { SenderFields, TestSaid } from '../../parts/setUp/SenderFields.tsx';

export function OwnSenderCard({ here }: { readonly here: CourseHere }) {
  const { sender: of, own: saved } = here.answer;
  const account = useSession().data?.account;
  const start: OwnSender = {
    name: account?.name ?? '',
    address: account?.email ?? '',
    replyTo: account?.email ?? '',
    signature: account?.name ?? '',
    officeHours: '',
    bookingUrl: '',
  };
  const { value: sender, set, drop } = useKept<OwnSender | null>(`own sender ${here.id}`, saved);
  const { busy, problemAt, clear, run } = useAsking();
  const [tested, setTested] = useState<MailTestAnswer | null>(null);
  const dirty = JSON.stringify(sender) !== JSON.stringify(saved);
  const save = () =>
    run(async () => {
      await ask(contract.course.ownSender, { course: here.id }, { body: { sender } });
      drop();
      toast(
        sender === null
          ? `Saved. Your next message here comes from ${of.name}.`
          : `Saved. Your next message here comes from ${sender.name}.`,
      );
      await refreshAll();
    });
  const test = () => run(async () => setTested(await ask(contract.course.testOwnMail, { course: here.id })));
  return (
    <section aria-label="Your own sender" className="mt-4 rounded-[16px] border border-line bg-sheet px-5 py-4">
      <h2 className="text-[18px] font-bold">Your own sender</h2>
      <p className="mt-1 max-w-[75ch] text-[14.5px] text-ink-2">
        For courses with several instructors. Messages that you write, and rules that write as you, come from you.
        Replies to them go to you.
      </p>
      <label className="mt-2 flex items-center gap-2 text-[15px]">
        <input
          type="checkbox"
          className="size-4 accent-(--pine)"
          checked={sender !== null}
          onChange={(e) => {
            clear();
            set(e.target.checked ? (saved ?? start) : null);
          }}
        />
        Sign with my own name in this course
      </label>
      {sender !== null && (
        <div className="mt-3 grid gap-3 min-[760px]:grid-cols-2">
          <SenderFields
            sender={sender}
            problemOf={(key) => problemAt(`sender.${key}`)}
            onChange={(part) => {
              clear();
              set({ ...sender, ...part });
            }}
          />
        </div>
      )}
      {(dirty || saved !== null) && (
        <div className="mt-4 flex flex-wrap items-center gap-3">
          <Button look="main" busy={busy} disabled={!dirty} onClick={() => save()}>
            {dirty ? 'Save your sender' : 'Saved'}
          </Button>
          {dirty && <Button onClick={drop}>Discard changes</Button>}
          {saved !== null && (
            <Button busy={busy} disabled={dirty} onClick={() => test()}>
              Send a test from me to me
            </Button>
          )}
          {tested && <TestSaid answer={tested} />}
        </div>
      )}
    </section>
  );
}
