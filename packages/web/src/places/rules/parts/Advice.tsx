/** What the rule's own numbers do to each other: how soon it hears of somebody, and where they work against each other. */
import { useMemo } from 'react';
import { Link } from 'react-router';
import type { Rule } from '@zest-bell/core/rules';
import { adviceOn, noticeWords, STOPS } from '@zest-bell/core/rounds';
import type { CourseHere } from '../../../lib/here.ts';
import { useRules } from '../../../lib/queries.ts';
import { limitsWords } from '../../../lib/limits.ts';

interface AdviceProps {
  readonly here: CourseHere;
  readonly rule: Rule;
}

/** Below the sentence: it advises, and never forbids. */
export function AdviceLines({ here, rule }: AdviceProps) {
  const { course, now } = here;
  const cards = useRules(here.id).data;
  const advice = useMemo(
    () =>
      adviceOn(
        rule,
        course,
        now,
        (cards ?? []).map((c) => c.rule),
      ).filter((a) => !STOPS.includes(a.code)),
    [rule, course, now, cards],
  );
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
  const cards = useRules(here.id).data;
  const stops = useMemo(
    () =>
      adviceOn(
        rule,
        here.course,
        here.now,
        (cards ?? []).map((c) => c.rule),
      ).filter((a) => STOPS.includes(a.code)),
    [rule, here.course, here.now, cards],
  );
  return (
    <>
      {stops.map((a) => (
        <p key={a.code} className="mt-3.5 text-[14px] font-semibold text-tangerine-text" data-testid="stops">
          ▲ {a.message}
        </p>
      ))}
      <p className="mt-3.5 text-[14px] text-ink-2" data-testid="notice">
        <strong className="text-ink">{notice}</strong> {limitsWords(here.course.settings)}{' '}
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={`/c/${here.id}/course`}>
          Course limits
        </Link>
      </p>
    </>
  );
}
