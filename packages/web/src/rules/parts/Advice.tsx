/** What the rule's own numbers do to each other: how soon it hears of somebody, and where they work against each other. */
import { useMemo } from 'react';
import { Link } from 'react-router';
import { adviceOn, noticeWords, type Rule } from '@zest-bell/core';
import type { Here } from '../../app/here.ts';
import { limitsWords } from '../limits.ts';

interface AdviceProps {
  readonly here: Here;
  readonly rule: Rule;
}

/** Below the sentence: it advises, and never forbids. */
export function AdviceLines({ here, rule }: AdviceProps) {
  const { course, now } = here;
  const advice = useMemo(() => adviceOn(rule, course, now), [rule, course, now]);
  if (advice.length === 0) return null;
  return (
    <ul className="grid gap-1 pb-3 text-[14px] leading-snug" data-testid="advice">
      {advice.map((a) => (
        <li key={a.code} className="flex gap-2 text-tangerine-text">
          <span aria-hidden>▲</span>
          <span>{a.message}</span>
        </li>
      ))}
    </ul>
  );
}

/** Below the rule: the notice span, and what the course allows. */
export function NoticeLine({ here, rule }: AdviceProps) {
  const notice = useMemo(() => noticeWords(rule, here.course), [rule, here.course]);
  return (
    <p className="mt-3.5 text-[14px] text-ink-2" data-testid="notice">
      <strong className="text-ink">{notice}</strong> {limitsWords(here.course.settings)}{' '}
      <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={`/c/${here.id}/course`}>
        Course limits
      </Link>
    </p>
  );
}
