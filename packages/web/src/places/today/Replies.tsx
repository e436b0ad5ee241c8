/** Replies that wait, of all courses: read here, answered here, or marked as settled. */
import { useState } from 'react';
import { Link } from 'react-router';
import { toast } from 'sonner';
import { contract } from '@zest-bell/core/contract';
import type { InboxAnswer, InboxReply } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { refreshAll } from '../../lib/queries.ts';
import { Button } from '../../ui/Button.tsx';
import { Chip } from '../../ui/Chip.tsx';
import { When } from '../../ui/When.tsx';
import { AnswerDialog } from './AnswerDialog.tsx';
import { Card } from './Card.tsx';

export function Replies({ inbox }: { readonly inbox: InboxAnswer }) {
  const [answering, setAnswering] = useState<InboxReply | null>(null);
  const [mine, setMine] = useState(false);
  const isTheirs = (r: InboxReply) => r.writer !== null && !r.writer.isYou;
  const shown = mine ? inbox.replies.filter((r) => !isTheirs(r)) : inbox.replies;
  const several = inbox.courses.length > 1;
  if (inbox.replies.length === 0) return null;
  const zoneOf = (r: InboxReply) => inbox.courses.find((c) => c.course === r.course)!.timeZone;
  return (
    <div id="replies">
      <Card
        title="Replies to answer"
        count={shown.length}
        {...(several && { note: 'From all your courses, the oldest first.' })}
      >
        {inbox.replies.some(isTheirs) && (
          <label className="mt-1 flex items-center gap-2 text-[14.5px]">
            <input
              type="checkbox"
              className="size-4 accent-(--pine)"
              checked={mine}
              onChange={(e) => setMine(e.target.checked)}
            />
            Hide replies to messages of your colleagues
          </label>
        )}
        <ul>
          {shown.map((r) => (
            <ReplyLine key={r.id} zone={zoneOf(r)} reply={r} several={several} onAnswer={() => setAnswering(r)} />
          ))}
        </ul>
      </Card>
      {answering && <AnswerDialog reply={answering} onClose={() => setAnswering(null)} />}
    </div>
  );
}

function ReplyLine(props: {
  /** Of the reply’s own course. */
  readonly zone: string;
  readonly reply: InboxReply;
  readonly several: boolean;
  readonly onAnswer: () => void;
}) {
  const { zone, reply: r, several } = props;
  const [busy, setBusy] = useState(false);
  const set = async (settled: boolean) => {
    await ask(contract.mail.settleReply, { course: r.course, reply: r.id }, { body: { settled } });
    await refreshAll();
  };
  const settle = async () => {
    setBusy(true);
    await attempt(async () => {
      await set(true);
      toast(`Marked the reply from ${r.name} as settled.`, {
        action: { label: 'Undo', onClick: () => void attempt(() => set(false)) },
      });
    });
    setBusy(false);
  };
  return (
    <li className="border-b border-line py-2.5 last:border-b-0" data-testid={`reply-${r.id}`}>
      <p className="flex flex-wrap items-baseline gap-x-3 gap-y-1">
        <Link
          className="font-bold underline-offset-4 hover:underline"
          to={
            r.student === null
              ? `/c/${r.course}/log?nudge=${r.nudge}`
              : `/c/${r.course}/students/${encodeURIComponent(r.student)}`
          }
        >
          {r.name}
        </Link>
        {several && <Chip tone="quiet">{r.code}</Chip>}
        {r.writer && !r.writer.isYou && <span className="text-[14px] text-ink-2">answers {r.writer.name}</span>}
        <span className="text-[14px] text-ink-2">
          <When at={r.at} zone={zone} />
        </span>
      </p>
      <p className="mt-0.5 line-clamp-4 text-[14.5px] break-words whitespace-pre-line">{r.text || '(no text)'}</p>
      <p className="mt-1.5 flex flex-wrap gap-2">
        <Button needs="nudges.decide" aria-label={`Answer ${r.name}`} onClick={props.onAnswer}>
          Answer
        </Button>
        <Button
          needs="nudges.decide"
          busy={busy}
          aria-label={`Mark as settled: the reply from ${r.name}`}
          onClick={() => settle()}
        >
          Mark as settled
        </Button>
        <Link
          className="self-center text-[14px] font-semibold text-pine underline-offset-4 hover:underline"
          to={`/c/${r.course}/log?nudge=${r.nudge}`}
        >
          See the nudge
        </Link>
      </p>
    </li>
  );
}
