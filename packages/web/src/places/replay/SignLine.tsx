/** One sign as a sentence: whom it found early of those one worries about, and in the other direction whom needlessly. */
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
import { ask } from '../../lib/api.ts';
import { attempt } from '../../lib/attempt.ts';
import { nameOf, studentPath, type CourseHere } from '../../lib/here.ts';
import { createRule } from '../../lib/ruleActions.ts';
import { Failed, Loading } from '../../parts/common/States.tsx';
import { newRule } from '../../parts/conditions/defaults.ts';
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
    <li className="border-b border-line py-2.5 last:border-b-0">
      <div className="grid items-center gap-x-4 gap-y-1.5 min-[860px]:grid-cols-[minmax(0,1fr)_minmax(0,26rem)]">
        <div className="min-w-0">
          <p className="text-[16.5px] font-semibold break-words first-letter:uppercase">{sentence}</p>
          {part !== null && (
            <p className="text-[13.5px] font-semibold text-brass-text">
              {part === 'measure'
                ? 'Part of the outcome itself'
                : 'Part of the outcome itself: made of the same grades'}
            </p>
          )}
          <div className="flex flex-wrap items-center gap-x-3 text-[13.5px] text-ink-2">
            <span>{weekWords(firstWeek, week)}</span>
            {!isTogether && (
              <Button
                look="quiet"
                className="text-[14px]!"
                aria-expanded={open}
                aria-label={`Students: ${sentence}`}
                onClick={() => setOpen(!open)}
              >
                {open ? 'Hide students' : 'Show students'}
              </Button>
            )}
            <Button
              look="quiet"
              className="text-[14px]!"
              needs="drafts.write"
              busy={busy}
              aria-label={`Open as a draft: ${sentence}`}
              onClick={() => draft()}
            >
              Open as a draft
            </Button>
          </div>
          {alike.length > 0 && (
            <details className="text-[14px]">
              <summary className="font-semibold text-ink-2">
                {plural(alike.length, 'sign')} with the same students
              </summary>
              <ul className="mt-1 list-disc pl-5">
                {alike.map((c) => (
                  <li key={JSON.stringify(c)}>{conditionSentence(c, here.course)}</li>
                ))}
              </ul>
            </details>
          )}
        </div>
        <SignBar counts={counts} honest={honest} />
      </div>
      {open && <Students here={here} asked={asked} condition={condition} />}
    </li>
  );
}

function weekWords(first: number | null | undefined, read: number): string {
  if (first === undefined) return 'Two signs together';
  if (first === null || first >= read) return 'No earlier week was nearly as clear';
  return `Nearly as clear from week ${first} on`;
}

/** A draft that looks for it, with words that fit what it is about. */
function draftOf(here: CourseHere, when: Condition) {
  const starter = STARTERS.find((s) => s.id === starterFor(leavesOf(when)[0]!))!;
  const rule = { ...newRule(here.course, here.now, starter.wordings[0]!.id), name: nameFrom(when, here.course), when };
  return createRule(here, rule, starter.id);
}

const share = (part: number, other: number): number => (part + other === 0 ? 0 : (100 * part) / (part + other));

/** To the right who would have been found, to the left who needlessly; filled as it was judged honestly, outlined as it fits these students. */
function SignBar({ counts, honest }: { readonly counts: SignCounts; readonly honest: SignCounts }) {
  const side = (filled: number, outline: number, of: 'found' | 'needless') => (
    <span className={`relative block h-5 ${of === 'found' ? 'border-l-2 border-ink' : ''}`} aria-hidden>
      <span
        className={`absolute inset-y-0 ${of === 'found' ? 'left-0 rounded-r bg-pine' : 'right-0 rounded-l bg-tangerine'}`}
        style={{ width: `${filled}%` }}
      />
      <span
        className={`absolute inset-y-0 border-2 border-ink/70 ${of === 'found' ? 'left-0 rounded-r border-l-0' : 'right-0 rounded-l border-r-0'}`}
        style={{ width: `${outline}%` }}
      />
    </span>
  );
  const worried = honest.found + honest.missed;
  const well = honest.needless + honest.leftAlone;
  return (
    <div>
      <div className="grid grid-cols-2">
        {side(share(honest.needless, honest.leftAlone), share(counts.needless, counts.leftAlone), 'needless')}
        {side(share(honest.found, honest.missed), share(counts.found, counts.missed), 'found')}
      </div>
      <p className="grid grid-cols-2 gap-x-2 text-[13.5px]">
        <span className="pr-2 text-right">
          {numberWords(honest.needless)} of {numberWords(well)} found, but did fine
          {counts.needless !== honest.needless && <span className="text-ink-2"> (fitted: {counts.needless})</span>}
          <Range count={honest.needless} of={well} />
        </span>
        <span className="pl-2 font-semibold">
          {numberWords(honest.found)} of {numberWords(worried)} found
          {counts.found !== honest.found && <span className="font-normal text-ink-2"> (fitted: {counts.found})</span>}
          <Range count={honest.found} of={worried} />
        </span>
      </p>
    </div>
  );
}

/** What the share may be in students like these, as “Who it found” says it. */
function Range({ count, of }: { readonly count: number; readonly of: number }) {
  return <span className="block font-normal text-ink-2">could be {rangeWords(wilson(count, of))}</span>;
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
