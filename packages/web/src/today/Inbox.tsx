/** What waits over all courses, a line each, and how often it comes by email. */
import { Link } from 'react-router';
import { toast } from 'sonner';
import {
  DIGESTS,
  inboxLine,
  INBOX_KINDS,
  isClear,
  type Digest,
  type InboxAnswer,
  type InboxKind,
} from '@zest-bell/core';
import { api } from '../app/api.ts';
import { attempt } from '../app/attempt.ts';
import { queryClient } from '../app/queries.ts';
import { Card } from './Card.tsx';

/** Where each kind is dealt with. */
const PLACES: Readonly<Record<InboxKind, string>> = {
  troubles: 'today',
  waiting: 'tray',
  replies: 'today#replies',
  bounced: 'today',
  unclear: 'today',
  falling: 'today#falling',
  setUpLeft: 'setup',
};

const DIGEST_WORDS: Readonly<Record<Digest, string>> = { off: 'never', daily: 'every day', weekly: 'every Monday' };

export function Inbox({ inbox }: { readonly inbox: InboxAnswer }) {
  const open = inbox.courses.filter((c) => !isClear(c));
  const choose = (digest: Digest) =>
    attempt(async () => {
      await api.put('/inbox/digest', { digest });
      await queryClient.invalidateQueries({ queryKey: ['inbox'] });
      toast(
        digest === 'off'
          ? 'Zest Bell sends you no summary.'
          : `Zest Bell sends you a summary at 7 AM ${DIGEST_WORDS[digest]}, if something is waiting.`,
      );
    });
  return (
    <Card title={open.length === 0 ? 'Nothing is left to do' : 'All your courses'}>
      {open.length === 0 ? (
        <p className="text-ink-2">
          {inbox.courses.length === 1 ? 'Your course needs' : `Your ${inbox.courses.length} courses need`} nothing from
          you now.
        </p>
      ) : (
        <ul className="mt-1">
          {open.map((c) => (
            <li
              key={c.course}
              className="grid gap-x-4 gap-y-1 border-b border-line py-2 last:border-b-0 min-[560px]:grid-cols-[150px_minmax(0,1fr)]"
            >
              <Link
                to={`/c/${c.course}/today`}
                title={c.title}
                className="truncate font-bold underline-offset-4 hover:underline"
              >
                {c.code}
              </Link>
              <span className="flex flex-wrap gap-x-4 gap-y-0.5">
                {INBOX_KINDS.filter((kind) => c[kind] > 0).map((kind) => (
                  <Link
                    key={kind}
                    to={`/c/${c.course}/${PLACES[kind]}`}
                    className="text-[14.5px] underline decoration-line-strong underline-offset-4 hover:decoration-ink"
                  >
                    {inboxLine(kind, c[kind])}
                  </Link>
                ))}
              </span>
            </li>
          ))}
        </ul>
      )}
      <label className="mt-2 flex flex-wrap items-center gap-2 text-[14px] text-ink-2">
        Email me what is waiting
        <select
          className="field min-h-8 py-0.5 text-[14px]"
          value={inbox.digest}
          onChange={(e) => void choose(e.target.value as Digest)}
        >
          {DIGESTS.map((d) => (
            <option key={d} value={d}>
              {DIGEST_WORDS[d]}
            </option>
          ))}
        </select>
      </label>
    </Card>
  );
}
