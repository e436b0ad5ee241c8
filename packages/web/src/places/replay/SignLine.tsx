/** One sign, as a row of a table: whom it found early of those one worries about, and of those who did fine. */
import { useState } from 'react';
import { Link, useNavigate } from 'react-router';
import { useQuery } from '@tanstack/react-query';
import { conditionSentence, leavesOf, valueWords, type Condition } from '@zest-bell/core/conditions';
import { contract } from '@zest-bell/core/contract';
import { CATALOGUE } from '@zest-bell/core/measures';
import {
  partOfOutcome,
  rangeWords,
  wilson,
  type HindsightCell,
  type SignCounts,
  type SignStudent,
} from '@zest-bell/core/outcomes';
import { STARTERS, starterFor } from '@zest-bell/core/starters';
import { numberWords, plural } from '@zest-bell/core/time';
import type { SignsAnswer } from '@zest-bell/core/exchange';
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { nameOf, studentPath, type CourseHere } from '../../lib/here.ts';
import { createRule } from '../../lib/ruleActions.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { newRule } from '../../lib/ruleDefaults.ts';
import { nameFrom } from '../../parts/editing/ruleFrom.ts';
import { Button } from '../../ui/Button.tsx';

/** What was asked: an outcome, when it is read, and when signs of it are. */
export interface SignsAsked {
  readonly outcome: Condition;
  readonly at: number;
  readonly by: number;
}

export interface SignLineProps {
  readonly here: CourseHere;
  readonly asked: SignsAsked;
  readonly condition: Condition;
  readonly counts: SignCounts;
  readonly honest: SignCounts;
  /** After which week it was read. */
  readonly week: number;
  /** Undefined where that is not told. */
  readonly firstWeek?: number | null;
  readonly alike?: readonly Condition[];
  /** Counted over several courses, without a list of their students. */
  readonly isTogether: boolean;
}

export function SignLine(props: SignLineProps) {
  const { here, asked, condition, counts, honest, week, firstWeek, alike = [], isTogether } = props;
  const [open, setOpen] = useState(false);
  const [busy, setBusy] = useState(false);
  const navigate = useNavigate();
  const sentence = conditionSentence(condition, here.course);
  const part = partOfOutcome(condition, asked.outcome);
  const draft = async () => {
    setBusy(true);
    const card = await attempt(() => draftOf(here, condition));
    setBusy(false);
    if (card) void navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
  return (
    <li className="border-t border-line py-2">
      <div className={SIGN_ROW}>
        <div className="min-w-0">
          <p className="text-[15px] leading-[20px] font-semibold break-words first-letter:uppercase">{sentence}</p>
          {part !== null && (
            <p className="text-[13px] text-brass-text">
              {part === 'measure'
                ? 'Part of the outcome itself'
                : 'Part of the outcome itself: made of the same grades'}
            </p>
          )}
          {alike.length > 0 && (
            <details className="text-[13px]">
              <summary className="text-ink-2">{plural(alike.length, 'sign')} with the same students</summary>
              <ul className="mt-1 list-disc pl-5">
                {alike.map((c) => (
                  <li key={JSON.stringify(c)}>{conditionSentence(c, here.course)}</li>
                ))}
              </ul>
            </details>
          )}
        </div>
        <SignShare of="found" filled={honest.found} other={honest.missed} fitted={counts.found} />
        <SignShare of="needless" filled={honest.needless} other={honest.leftAlone} fitted={counts.needless} />
        <span className="text-[13.5px] text-ink-2">
          <span className="sr-only">clear from </span>
          {weekWords(firstWeek, week)}
        </span>
        <span className="flex flex-wrap items-center gap-x-4">
          {!isTogether && (
            <Button
              look="quiet"
              aria-expanded={open}
              aria-label={`Students: ${sentence}`}
              onClick={() => setOpen(!open)}
            >
              {open ? 'Hide students' : 'Students'}
            </Button>
          )}
          <Button
            look="quiet"
            needs="drafts.write"
            busy={busy}
            aria-label={`Open as a draft: ${sentence}`}
            onClick={() => draft()}
          >
            Open as a draft
          </Button>
        </span>
      </div>
      {open && <Students here={here} asked={asked} condition={condition} />}
    </li>
  );
}

const SIGN_ROW = 'grid items-center gap-x-5 gap-y-1 min-[980px]:grid-cols-[minmax(0,1fr)_176px_176px_96px_196px]';

/** The heads of the columns, with the one axis that both bars have. */
export function SignHeads({ answer }: { readonly answer: Pick<SignsAnswer, 'worried' | 'well'> }) {
  const axis = (
    <span className="relative block h-3 text-[11px] font-normal text-ink-3">
      {[0, 50, 100].map((percent) => (
        <span
          key={percent}
          className={`absolute ${percent === 0 ? '' : percent === 100 ? '-translate-x-full' : '-translate-x-1/2'}`}
          style={{ left: `${percent}%` }}
        >
          {percent}%
        </span>
      ))}
    </span>
  );
  return (
    <div
      aria-hidden
      className={`${SIGN_ROW} mt-2 items-end pb-1 text-[13px] font-semibold text-ink-2 max-[979px]:hidden`}
    >
      <span>Sign</span>
      <span>
        Found, of {numberWords(answer.worried)} you worry about
        {axis}
      </span>
      <span>
        Found, of {numberWords(answer.well)} who did fine
        {axis}
      </span>
      <span>Clear from</span>
      <span />
    </div>
  );
}

function weekWords(first: number | null | undefined, read: number): string {
  if (first === undefined) return 'two together';
  return first === null || first >= read ? `week ${read}` : `week ${first}`;
}

/** A draft that looks for it, with words that fit what it is about. */
function draftOf(here: CourseHere, when: Condition) {
  const starter = STARTERS.find((s) => s.id === starterFor(leavesOf(when)[0]!))!;
  const rule = { ...newRule(here.course, here.now, starter.wordings[0]!.id), name: nameFrom(when, here.course), when };
  return createRule(here, rule, starter.id);
}

/** One of two shares on one axis: filled as it was judged honestly, outlined as it fits these students. */
function SignShare(props: {
  readonly of: 'found' | 'needless';
  readonly filled: number;
  /** The rest of those it is a share of. */
  readonly other: number;
  readonly fitted: number;
}) {
  const { of, filled, other, fitted } = props;
  const all = filled + other;
  const percent = (n: number) => `${all === 0 ? 0 : (100 * n) / all}%`;
  const isFound = of === 'found';
  return (
    <span>
      <span aria-hidden className="relative block h-4 border-l-2 border-ink bg-fog">
        <span
          className={`absolute inset-y-0 left-0 ${isFound ? 'bg-pine' : 'bg-[repeating-linear-gradient(45deg,#e8702a_0_4px,#b9531a_4px_6px)]'}`}
          style={{ width: percent(filled) }}
        />
        <span
          className="absolute inset-y-0 left-0 border-2 border-l-0 border-ink/70"
          style={{ width: percent(fitted) }}
        />
      </span>
      <span className="block text-[13px] tabular-nums">
        <strong className="font-semibold">
          {numberWords(filled)} of {numberWords(all)} found{isFound ? '' : ', but did fine'}
        </strong>
        {fitted !== filled && <span className="text-ink-2"> (fitted: {fitted})</span>}
        {/* What the share may be in students like these, as “Who it found” says it. */}
        <span className="block text-ink-2">could be {rangeWords(wilson(filled, all))}</span>
      </span>
    </span>
  );
}

const LISTED: readonly (readonly [HindsightCell, string])[] = [
  ['found', 'Found'],
  ['missed', 'Missed'],
  ['needless', 'Found, but did fine'],
];

function Students(props: Pick<SignLineProps, 'here' | 'asked' | 'condition'>) {
  const { here, asked, condition } = props;
  const students = useQuery({
    queryKey: ['sign students', here.id, here.answer.version, JSON.stringify([asked, condition])],
    queryFn: ({ signal }) =>
      ask(contract.rounds.signStudents, { course: here.id }, { body: { ...asked, when: condition }, signal }),
  });
  if (students.isError) return <Failed error={students.error} retry={() => void students.refetch()} />;
  if (!students.data) return <Loading what="the students" />;
  return (
    <div className="mt-2 grid gap-4 rounded-xl bg-fog px-4 py-3 min-[860px]:grid-cols-3">
      {LISTED.map(([cell, words]) => {
        const those = students.data.filter((s) => s.cell === cell);
        return (
          <section key={cell} aria-label={words}>
            <h4 className="text-[14px] font-semibold">
              {words} <span className="font-num text-ink-2">{those.length}</span>
            </h4>
            <ul className="max-h-56 overflow-auto text-[14.5px]">
              {those.map((s) => (
                <li key={s.student} className="flex flex-wrap gap-x-2">
                  <Link to={studentPath(here, s.student)} className="font-semibold underline-offset-4 hover:underline">
                    {nameOf(here, s.student)}
                  </Link>
                  <span className="text-ink-2">{valuesOf(s, condition)}</span>
                </li>
              ))}
            </ul>
          </section>
        );
      })}
    </div>
  );
}

const valuesOf = ({ values }: SignStudent, condition: Condition): string =>
  leavesOf(condition)
    .map((leaf, i) => {
      const value = values[i];
      if (value == null) return 'not known';
      if (typeof value === 'boolean') return value ? 'yes' : 'no';
      return typeof value === 'number' ? valueWords(value, CATALOGUE[leaf.measure].unit) : value;
    })
    .join(', ');
