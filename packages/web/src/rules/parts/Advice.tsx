/** What the rule's own numbers do to each other, below the sentence: it advises, and never forbids. */
import { useMemo } from 'react';
import { adviceOn, noticeWords, type Rule } from '@zest-bell/core';
import type { Here } from '../../app/here.ts';
import { limitsWords } from '../limits.ts';
import { Link } from 'react-router';

export function AdviceLines({ here, rule }: { readonly here: Here; readonly rule: Rule }) {
  const { course, now } = here;
  const advice = useMemo(() => adviceOn(rule, course, now), [rule, course, now]);
  const notice = useMemo(() => noticeWords(rule, course), [rule, course]);
  return (
    <div className="mt-3.5 text-[14px] text-ink-2" data-testid="advice">
      <p>
        <strong className="text-ink">{notice}</strong> {limitsWords(course.settings)}{' '}
        <Link className="font-semibold text-pine underline-offset-4 hover:underline" to={`/c/${here.id}/course`}>
          Course limits
        </Link>
      </p>
      {advice.length > 0 && (
        <ul className="mt-1.5 grid gap-1">
          {advice.map((a) => (
            <li key={a.code} className="flex gap-2 text-tangerine-text">
              <span aria-hidden>▲</span>
              <span>{a.message}</span>
            </li>
          ))}
        </ul>
      )}
    </div>
  );
}
