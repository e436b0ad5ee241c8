/** One nudge whole: why it was decided, each message, each attempt, the exact text and what the mail server answered. */
import { useState, type ReactNode } from 'react';
import { Link } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { listWords, plural } from '@zest-bell/core/time';
import { evidenceWords } from '@zest-bell/core/conditions';
import type { HeldReason, ReplyKind } from '@zest-bell/core/nudges';
import { WITHHELD_WORDS, type WithheldReason } from '@zest-bell/core/rounds';
import type { AttemptAnswer, LogDetail, LogMessage, ReplyAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import { refreshAll } from '../../lib/queries.ts';
import { studentPath, type CourseHere } from '../../lib/here.ts';
import { Button } from '../../ui/Button.tsx';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { When } from '../../ui/When.tsx';
import { attempt } from '../../lib/attempt.ts';
import { MessageView } from '../../parts/messages/Message.tsx';
import { addressWords, withdrawnWords } from '../../lib/decisionWords.ts';
import { StateChip } from '../../parts/messages/StateChip.tsx';
import { Explained } from '../../ui/Explained.tsx';

const OUTCOMES: Readonly<Record<AttemptAnswer['outcome'], string>> = {
  handing: 'being handed to the mail server',
  sent: 'accepted by the mail server',
  transient: 'deferred by the mail server; Zest Bell tries again later',
  permanent: 'rejected by the mail server',
  unknown: 'the mail server did not say whether it arrived',
};

export function LogDetailView({ here, nudge }: { readonly here: CourseHere; readonly nudge: number }) {
  const detail = useQuery({
    queryKey: ['log', here.id, 'nudge', nudge],
    queryFn: () => ask(contract.mail.logged, { course: here.id, nudge }),
  });
  if (detail.isError) return <Failed error={detail.error} retry={() => void detail.refetch()} />;
  if (!detail.data) return <Loading what="the message" />;
  const d = detail.data;
  const zone = here.course.timeZone;
  return (
    <section
      aria-label="The nudge"
      tabIndex={0}
      className="px-6 py-5 min-[900px]:min-h-0 min-[900px]:flex-1 min-[900px]:overflow-auto"
    >
      <div className="flex flex-wrap items-center gap-3">
        <h2 className="text-[21px] font-bold">
          <Link className="underline-offset-4 hover:underline" to={studentPath(here, d.student)}>
            {d.studentName}
          </Link>
        </h2>
        <StateChip state={d.state} />
      </div>
      {d.rule === null ? (
        <p className="mt-1 text-[14.5px] text-ink-2">
          Written by hand{d.writtenBy && ` by ${d.writtenBy}`}, <When at={d.roundAt} zone={zone} />.
        </p>
      ) : (
        <>
          <p className="mt-1 text-[14.5px] text-ink-2">
            <Link
              className="font-semibold text-pine underline-offset-4 hover:underline"
              to={`/c/${here.id}/rules/${d.rule}`}
            >
              {d.ruleName}
            </Link>{' '}
            (
            <Link className="underline-offset-4 hover:underline" to={`/c/${here.id}/rules/${d.rule}/history`}>
              version {d.ruleVersion}
            </Link>
            ), check of <When at={d.roundAt} zone={zone} />. The student had{' '}
            <Explained word="eachTime">matched</Explained> since <When at={d.spellStart} zone={zone} />.
          </p>
          <p className="mt-2 text-[14.5px]">
            <strong>Why:</strong> {evidenceWords(d.evidence, zone)}
          </p>
        </>
      )}
      {d.reason && (
        <p className="mt-2 text-[14.5px]">
          <strong>Canceled:</strong> {withdrawnWords(d.reason, d.evidence)}.
        </p>
      )}
      {d.dismissed && (
        <p className="mt-2 text-[14.5px]">
          <strong>Dismissed by {d.dismissed.by}:</strong> {d.dismissed.reason}
        </p>
      )}
      {d.corrections.length > 0 && (
        <div className="mt-3 rounded-xl bg-brass-soft px-4 py-2.5 text-[14px]">
          <strong>Corrected since:</strong> what this nudge may have been about was taken back.
          <ul className="list-disc pl-5">
            {d.corrections.map((c, i) => (
              <li key={i}>
                {c.what}: {c.reason} ({c.by}, <When at={c.at} zone={zone} />)
              </li>
            ))}
          </ul>
        </div>
      )}
      {d.passed && (
        <p className="mt-2 text-[14.5px]">
          {' '}
          <strong>Sent by {d.passed.by}</strong>
          {pastLimits(d.passed.limits)}.
        </p>
      )}{' '}
      <Waiting here={here} detail={d} />
      {d.replies.map((r) => (
        <Reply key={r.id} here={here} reply={r} />
      ))}
      {d.to.map((m) => (
        <MessageBlock key={m.id} here={here} message={m} many={d.to.length > 1} byHand={d.writtenBy !== null} />
      ))}
    </section>
  );
}

function MessageBlock({
  here,
  message: m,
  many,
  byHand,
}: {
  readonly here: CourseHere;
  readonly message: LogMessage;
  readonly many: boolean;
  readonly byHand: boolean;
}) {
  const last = m.attempts.at(-1);
  const zone = here.course.timeZone;
  return (
    <div className="mt-5">
      {many && (
        <p className="mb-2 flex items-center gap-2 text-[14px]">
          To {addressWords([m])} <StateChip state={m.state} />
        </p>
      )}
      {m.state === 'uncertain' && <Uncertain here={here} message={m} />}
      {m.state === 'failed' && <FailedMessage here={here} message={m} />}
      {last ? (
        <MessageView
          message={last}
          from={`${last.from.name || here.answer.sender.name} · ${last.from.address}`}
          to={addressWords([m])}
          files={last.files}
        />
      ) : (
        <p className="text-ink-2">
          {m.state === 'queued' ? (
            <>
              {byHand && m.sendAt <= here.now ? (
                'Leaves as it was written, once it can no longer be taken back.'
              ) : (
                <>
                  Leaves <When at={m.sendAt} zone={zone} />,{' '}
                  {byHand
                    ? 'as it was written.'
                    : 'if the student still matches. Its text is made then, with the data of that time.'}
                </>
              )}
            </>
          ) : m.state === 'held' ? (
            'The text is made when it is sent, with the data of that time.'
          ) : (
            'No message was handed to the mail server.'
          )}
        </p>
      )}
      {m.attempts.length > 0 && (
        <details className="mt-3 text-[14px]" open={m.state !== 'sent'}>
          <summary className="font-semibold text-ink-2">
            {plural(m.attempts.length, 'attempt')}: {OUTCOMES[last!.outcome]}
          </summary>
          <ol className="mt-2 grid gap-3">
            {m.attempts.map((a) => (
              <li key={a.id}>
                <dl className="grid grid-cols-[110px_1fr] gap-x-3 gap-y-1 rounded-xl border border-line bg-sheet p-4 break-words">
                  <Row name="When">
                    <When at={a.at} zone={zone} />, {OUTCOMES[a.outcome]}
                  </Row>
                  <Row name="Mail server said">
                    <span className="font-num text-[13px]">{a.response || 'nothing yet'}</span>
                  </Row>
                  <Row name="To">{addressWords([m])}</Row>
                  <Row name="Reply to">{a.replyTo}</Row>
                  <Row name="Message-ID">
                    <span className="font-num text-[13px] break-all">{a.messageId}</span>
                  </Row>
                  <Row name="Evidence">{evidenceWords(a.evidence, zone)}</Row>
                </dl>
              </li>
            ))}
          </ol>
        </details>
      )}
    </div>
  );
}

function Row({ name, children }: { readonly name: string; readonly children: ReactNode }) {
  return (
    <>
      <dt className="text-ink-3">{name}</dt>
      <dd className="min-w-0">{children}</dd>
    </>
  );
}

const REPLY_WORDS: Readonly<Record<ReplyKind, string>> = {
  reply: 'Reply',
  autoReply: 'Automatic reply',
  bounce: '▲ Came back',
};

/** What came back after the nudge. */
function Reply({ here, reply: r }: { readonly here: CourseHere; readonly reply: ReplyAnswer }) {
  const passedOn = {
    queued: 'waiting to be forwarded to you',
    handing: 'being forwarded to you',
    sent: 'forwarded to you',
    failed: '▲ could not be forwarded to you',
    uncertain: '▲ unclear whether it was forwarded to you',
  };
  return (
    <article
      className="mt-4 rounded-xl border border-line bg-iris-soft p-4 text-[14.5px]"
      aria-label={REPLY_WORDS[r.kind]}
    >
      <p className="flex flex-wrap items-baseline gap-x-3">
        <strong>{REPLY_WORDS[r.kind]}</strong>
        <span className="text-ink-2">
          {r.from} · <When at={r.at} zone={here.course.timeZone} />
          {r.forward !== null && ` · ${passedOn[r.forward]}`}
        </span>
      </p>
      <p className="mt-1.5 max-h-60 overflow-auto break-words whitespace-pre-line">{r.text || r.subject}</p>
    </article>
  );
}

const HELD_WORDS: Readonly<Record<HeldReason, string>> = {
  step: 'You asked to decide on this step yourself.',
  replied: 'The student replied, so this later step is waiting for your decision.',
  outside:
    'This address is outside your institution, and you have not allowed it for this rule. Sending the message allows it.',
};

/** The messages that wait, each with its reason and its own decision: a button does what it says and no more. */
function Waiting({ here, detail }: { readonly here: CourseHere; readonly detail: LogDetail }) {
  const [busy, setBusy] = useState(false);
  const held = detail.to.filter((m) => m.state === 'held');
  if (held.length === 0) return null;
  const decide = async (as: 'send' | 'dismiss', messages: readonly LogMessage[]) => {
    setBusy(true);
    await attempt(async () => {
      await ask(
        contract.mail.decide,
        { course: here.id, nudge: detail.nudge },
        { body: { as, messages: messages.map((m) => m.id) } },
      );
      await refreshAll();
    });
    setBusy(false);
  };
  const who = (m: LogMessage) => (m.kind === 'student' ? detail.studentName : m.name || m.address);
  return (
    <section aria-label="Waiting for you" className="my-3 rounded-xl border border-line bg-iris-soft p-4 text-[14.5px]">
      <p>
        <strong>Waiting for you.</strong> Zest Bell checks each message again before it leaves: if the reason is gone,
        it is canceled. A dismissed message still counts toward the rule’s repeat limit.
      </p>
      <ul>
        {held.map((m) => (
          <li key={m.id} className="mt-3 flex flex-wrap items-center gap-2">
            <span className="min-w-0 flex-1 basis-64">
              <strong className="break-words">{addressWords([m])}</strong>
              <span className="block text-ink-2">{HELD_WORDS[m.heldFor ?? 'step']}</span>
            </span>
            <Button
              needs="nudges.decide"
              look={held.length === 1 ? 'main' : 'plain'}
              busy={busy}
              onClick={() => decide('send', [m])}
            >
              {`Send to ${who(m)}`}
            </Button>
            <Button
              needs="nudges.decide"
              busy={busy}
              onClick={() => decide('dismiss', [m])}
              aria-label={`Dismiss the message to ${who(m)}`}
            >
              Dismiss
            </Button>
          </li>
        ))}
      </ul>
      {held.length > 1 && (
        <Button needs="nudges.decide" className="mt-3" look="main" busy={busy} onClick={() => decide('send', held)}>
          {`Send all ${held.length} messages`}
        </Button>
      )}
    </section>
  );
}

/** It could not be made or delivered: why, and the way to try it again. */
function FailedMessage({ here, message: m }: { readonly here: CourseHere; readonly message: LogMessage }) {
  const [busy, setBusy] = useState(false);
  const again = async () => {
    setBusy(true);
    await attempt(async () => {
      await ask(contract.mail.settle, { course: here.id, message: m.id }, { body: { as: 'sendAgain' } });
      await refreshAll();
    });
    setBusy(false);
  };
  return (
    <div role="alert" className="mb-3 rounded-xl border border-line bg-tangerine-soft p-4 text-[14.5px]">
      <p>
        <strong>▲ This message was not delivered.</strong>{' '}
        {m.trouble ??
          'The mail server refused it; its answer is below. Check the address, then send the message again.'}
      </p>
      <Button needs="nudges.decide" className="mt-3" busy={busy} onClick={() => again()}>
        Send it again
      </Button>
    </div>
  );
}

/** Nobody can know whether it left: the instructor finds out, and says so. It is never sent again on its own. */
function Uncertain({ here, message }: { readonly here: CourseHere; readonly message: LogMessage }) {
  const [busy, setBusy] = useState(false);
  const settle = async (as: 'arrived' | 'sendAgain') => {
    setBusy(true);
    await attempt(async () => {
      await ask(contract.mail.settle, { course: here.id, message: message.id }, { body: { as } });
      await refreshAll();
    });
    setBusy(false);
  };
  return (
    <div role="alert" className="mb-3 rounded-xl border border-line bg-tangerine-soft p-4 text-[14.5px]">
      <p>
        <strong>▲ Unclear: the mail server did not say whether it arrived.</strong> The connection broke while it was
        sent, so Zest Bell does not resend it automatically. Ask {message.name || 'the recipient'}, or look in your mail
        program’s sent folder.
      </p>
      <div className="mt-3 flex flex-wrap gap-2">
        <Button needs="nudges.decide" busy={busy} onClick={() => settle('arrived')}>
          It arrived
        </Button>
        <Button needs="nudges.decide" busy={busy} onClick={() => settle('sendAgain')}>
          Send it again
        </Button>
      </div>
    </div>
  );
}

const pastLimits = (limits: readonly WithheldReason[]): string =>
  limits.length === 0 ? '' : `, past these limits: ${listWords(limits.map((limit) => WITHHELD_WORDS[limit]))}`;
