/** A plain answer to a reply: it continues the thread, from the instructor's address. */
import { longest } from '@zest-bell/core/problem';
import { useState } from 'react';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { InboxReply } from '@zest-bell/core/exchange';
import { track } from '../../lib/sendings.ts';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Dialog } from '../../ui/Dialog.tsx';

export function AnswerDialog({ reply: r, onClose }: { readonly reply: InboxReply; readonly onClose: () => void }) {
  const storeAs = `zest-bell-answer ${r.course} ${r.id}`;
  const [text, setText] = useState(() => localStorage.getItem(storeAs) ?? '');
  const [busy, setBusy] = useState(false);
  const send = async () => {
    setBusy(true);
    await attempt(async () => {
      const { sending } = await ask(contract.mail.answerReply, { course: r.course, reply: r.id }, { body: { text } });
      localStorage.removeItem(storeAs);
      await refreshAll();
      const restore = { path: `/c/${r.course}/today#replies`, drafts: { [storeAs]: text } };
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
        <Button look="main" busy={busy} disabled={text.trim() === ''} onClick={() => void send()}>
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
            maxLength={longest(contract.mail.answerReply.body.shape.text)}
            value={text}
            onChange={(e) => {
              setText(e.target.value);
              localStorage.setItem(storeAs, e.target.value);
            }}
          />
        </label>
      </div>
    </Dialog>
  );
}
