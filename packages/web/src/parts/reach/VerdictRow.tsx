/** A student, what a check would do about them, and why: one row wherever a check is looked at before it runs. */
import type { ReactNode } from 'react';
import { evidenceFacts, type LeafEvidence } from '@zest-bell/core/conditions';
import type { Decision, Explained, WithheldReason } from '@zest-bell/core/rounds';
import { withdrawnWords, withheldWords } from '../../lib/decisionWords.ts';
import { Chip, type Tone } from '../../ui/Chip.tsx';

/** A few words, and more where they do not say it all. */
export interface Verdict {
  readonly tone: Tone;
  readonly words: string;
  readonly reason: string | null;
}

const SHORT: Readonly<Record<WithheldReason, string>> = {
  pending: 'one is waiting',
  perSpell: 'already nudged',
  perTerm: 'limit reached',
  gap: 'nudged too recently',
  replied: 'replied',
  paused: 'paused',
  budget: 'limit reached',
  noAddress: 'no email address',
};

/** Whether only others are written to, about the student (engine R11b). */
export const isAbout = (d: Pick<Decision, 'to'>): boolean => d.to.every((r) => r.kind !== 'student');

/** The limit that refuses, and in words what used it up. */
export const heldBackWords = (reason: WithheldReason, taken: string | null): string =>
  `${withheldWords(reason)}${taken === null ? '' : ` by ${taken}`}`;

/** `taken` is what used up the message budget, in words; `step` is named where a rule has several. */
export function verdictOf(d: Explained, taken: string | null, step: number | null = null): Verdict {
  switch (d.outcome) {
    case 'sent': {
      const words = isAbout(d) ? 'alert to others' : step === null ? 'would be nudged' : `step ${step} would be sent`;
      return { tone: 'zest', words, reason: null };
    }
    case 'held':
      return { tone: 'iris', words: 'waits for you', reason: null };
    case 'withdrawn':
      return { tone: 'quiet', words: 'canceled', reason: withdrawnWords(d.reason, d.evidence) };
    case 'withheld': {
      const reason = d.reason === 'noAddress' ? null : heldBackWords(d.reason, taken);
      return { tone: 'quiet', words: SHORT[d.reason], reason };
    }
  }
}

export const NOT_DUE: Verdict = { tone: 'quiet', words: 'not due yet', reason: null };

export function VerdictRow(props: {
  readonly name: ReactNode;
  readonly verdict: Verdict;
  readonly evidence: readonly LeafEvidence[];
  readonly zone: string;
  /** Said before the evidence. */
  readonly before?: string;
}) {
  const { verdict } = props;
  return (
    <span className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-2 text-left">
      <strong className="truncate text-[14.5px] leading-[22px] font-semibold">{props.name}</strong>
      <Chip tone={verdict.tone}>{verdict.words}</Chip>
      <EvidenceLine evidence={props.evidence} zone={props.zone} before={props.before ?? ''} />
      {verdict.reason !== null && <span className="col-span-2 text-[13px] leading-[17px]">{verdict.reason}</span>}
    </span>
  );
}

/** The facts behind a verdict, each whole on its line; when each was, to the minute, on hover. */
function EvidenceLine(props: {
  readonly evidence: readonly LeafEvidence[];
  readonly zone: string;
  readonly before: string;
}) {
  const facts = evidenceFacts(props.evidence, props.zone);
  return (
    <span className="col-span-2 text-[13px] leading-[17px] text-ink-2" title={facts.map((f) => f.exact).join(' · ')}>
      {props.before}
      {facts.map(({ words }, i) => (
        <span key={words}>
          {i > 0 && ' · '}
          <span className="inline-block max-w-full">{words}</span>
        </span>
      ))}
    </span>
  );
}
