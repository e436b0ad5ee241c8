/** A plain answer to a reply: it continues the thread, from the instructor's address. */
import { longest } from '@zest-bell/core/problem';
import { useState } from 'react';
import { toast } from 'sonner';
import { answerText, contract } from '@zest-bell/core/contract';
import type { InboxReply } from '@zest-bell/core/exchange';
import { track } from '../../lib/sendings.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { refreshAll } from '../../lib/queries.ts';
import { useKept } from '../../lib/useKept.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

type Pause = 'no' | 'term' | 'resumed';

export function AnswerDialog({ reply: r, onClose }: { readonly reply: InboxReply; readonly onClose: () => void }) {
  const key = `answer ${r.course} ${r.id}`;
  const { value: text, set: setText, drop } = useKept(key, '');
  const [busy, setBusy] = useState(false);
  const [pause, setPause] = useState<Pause>('no');
  const send = async () => {
    setBusy(true);
    await attempt(async () => {
      const { sending } = await ask(contract.mail.answerReply, { course: r.course, reply: r.id }, { body: { text } });
      drop();
      // Only once the answer is on its way; one that cannot be paused is told, and the answer goes all the same.
      if (pause !== 'no') {
        const people = [{ id: r.student!, set: { paused: true } }];
        const pausedUntil = pause === 'term' ? ('term' as const) : undefined;
        await attempt(() => ask(contract.intake.edit, { course: r.course }, { body: { people, pausedUntil } }));
      }
      await refreshAll();
      const restore = { path: `/c/${r.course}/today#replies`, drafts: { [key]: text } };
      if (!track(sending, restore)) toast(`Your answer to ${r.name} is on its way.`);
      onClose();
    });
    setBusy(false);
  };
  return (
    <Dialog
      open
      onClose={onClose}
      title={`Answer ${r.name}`}
      note={`To ${r.fromAddress}, as an answer to “${r.subject || 'no subject'}”`}
      foot={
        <Button look="main" busy={busy} disabled={text.trim() === ''} onClick={() => send()}>
          Send answer
        </Button>
      }
    >
      <div className="grid gap-3 px-6 py-4">
        <blockquote className="max-h-40 overflow-auto rounded-xl bg-iris-soft px-3.5 py-2 text-[14.5px] break-words whitespace-pre-line">
          {r.text || '(no text)'}
        </blockquote>
        <label className="grid gap-1 text-[13px] font-semibold text-ink-2">
          Your answer
          <textarea
            className="field min-h-36 w-full text-[15px] font-normal text-ink"
            autoFocus
            maxLength={longest(answerText)}
            value={text}
            onChange={(e) => setText(e.target.value)}
          />
        </label>
        {r.student !== null && <Rules reply={r} pause={pause} onPause={setPause} />}
      </div>
    </Dialog>
  );
}

/** Whether rules go on for who replied, and a pause. */
function Rules(props: { readonly reply: InboxReply; readonly pause: Pause; readonly onPause: (pause: Pause) => void }) {
  const { name, rule, isPaused, mayPause } = props.reply;
  if (isPaused)
    return <p className="text-[14px] text-ink-2">Nudges for {name} are paused. Only essential rules go on.</p>;
  return (
    <div className="grid gap-1.5 text-[14px]">
      <p className="text-ink-2">
        {rule === null
          ? `Rules go on for ${name}.`
          : rule.stops
            ? `“${rule.name}” stops at this reply, until ${name} comes back and matches anew. Other rules go on.`
            : `“${rule.name}” and all other rules go on for ${name}.${rule.steps > 1 ? ' Its later steps wait for you in the Tray.' : ''}`}
      </p>
      {mayPause && (
        <label className="flex flex-wrap items-center gap-2 font-semibold">
          When I send the answer
          <select
            className="field min-h-8 py-0.5 text-[14px] font-normal"
            value={props.pause}
            onChange={(e) => props.onPause(e.target.value as Pause)}
          >
            <option value="no">let the rules go on</option>
            <option value="term">pause nudges until the end of the term</option>
            <option value="resumed">pause nudges until I resume them</option>
          </select>
        </label>
      )}
    </div>
  );
}
