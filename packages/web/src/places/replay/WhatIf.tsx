/** A rule's numbers, rhythm, limits and weight, and the message budget, to be tried out. The rule stays as it is. */
import { Fragment } from 'react';
import { useNavigate } from 'react-router';
import { dayWords, durationWords, plural, weekdayDateWords } from '@zest-bell/core/time';
import type { MessageBudget } from '@zest-bell/core/course';
import { groupOf, isLeaf, JOINER, leafClause, type Condition } from '@zest-bell/core/conditions';
import { BUDGET_RANGE } from '@zest-bell/core/rounds';
import { asIfSince, numbersOf, ruleParts, withNumbers, type Rule, type RulePart } from '@zest-bell/core/rules';
import type { CourseHere } from '../../lib/here.ts';
import { draftKey, useDrafts } from '../../parts/rule/draft.ts';
import { Part } from '../../ui/Part.tsx';
import { RepeatPart } from '../../parts/rule/RepeatPart.tsx';
import { RhythmPart } from '../../parts/rule/RhythmPart.tsx';
import { Button } from '../../ui/Button.tsx';
import { Check, DateField, NumberField, SelectField } from '../../ui/fields.tsx';
import { DRAFT, SAVED, type TriedState } from './tried.ts';

export function WhatIf({ here, tried }: { readonly here: CourseHere; readonly tried: TriedState }) {
  const { card, shown } = tried;
  const take = useTakeIntoComposer(here);
  return (
    <section aria-label="What if" className="rounded-[16px] border border-line bg-sheet px-5 py-3.5">
      <div className="flex flex-wrap items-start gap-x-6 gap-y-2">
        <div className="min-w-0 flex-1 basis-64">
          <h2 className="text-[16px] font-bold">What if</h2>
          <p className="text-[14px] text-ink-2">
            {card
              ? 'Try other numbers. The rule stays as it is.'
              : 'Try another message budget. The course keeps its own.'}
          </p>
        </div>
        {card && (tried.draft !== null || tried.versions.length > 0) && (
          <SelectField label="Begin with" value={tried.from} onChange={(e) => tried.begin(e.target.value)}>
            <option value={SAVED}>the saved rule</option>
            {tried.draft && <option value={DRAFT}>your draft in the composer</option>}
            {tried.versions.map((v) => (
              <option key={v.version} value={String(v.version)}>
                version {v.version}, {dayWords(v.savedAt, here.course.timeZone)}
              </option>
            ))}
          </SelectField>
        )}
      </div>
      {shown && <RuleFields here={here} tried={tried} rule={shown} onChange={tried.edit} />}
      <BudgetFields here={here} tried={tried} />
      {tried.isOther && (
        <div className="mt-3 flex flex-wrap gap-2.5">
          {tried.changed && card && (
            <Button look="main" onClick={() => take(card, tried.changed!)}>
              Open this version in the composer
            </Button>
          )}
          <Button look="quiet" onClick={tried.reset}>
            {card ? 'Back to the rule’s own numbers' : 'Back to the course’s budget'}
          </Button>
        </div>
      )}
    </section>
  );
}

/** Puts a version into the composer as a draft and goes there. */
export function useTakeIntoComposer(here: CourseHere): (card: NonNullable<TriedState['card']>, rule: Rule) => void {
  const navigate = useNavigate();
  return (card, rule) => {
    useDrafts.getState().edit(draftKey(here.id, card.rule.id), card, { ...rule, status: card.rule.status });
    void navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
}

/** The rule as one sentence with numbers that open in place, as in the composer. */
function RuleFields(props: {
  readonly here: CourseHere;
  readonly tried: TriedState;
  readonly rule: Rule;
  readonly onChange: (change: Partial<Rule>) => void;
}) {
  const { here, tried, rule, onChange } = props;
  const { course } = here;
  // What is said of its run is what is replayed.
  const parts = ruleParts(tried.since === null ? rule : asIfSince(rule, tried.since, course), course);
  const partOf = ({ about, words }: RulePart, i: number) => {
    switch (about) {
      case 'rhythm':
        return (
          <RhythmPart rhythm={rule.rhythm} course={course} now={here.now} onChange={(rhythm) => onChange({ rhythm })} />
        );
      case 'when':
        // The condition is one part here, with the numbers in it.
        return (
          parts[i - 1]!.about !== 'when' && (
            <Tree here={here} rule={rule} node={rule.when} path="when" onChange={onChange} />
          )
        );
      case 'repeat':
      case 'weight':
        return <RepeatPart words={words} course={here.course} rule={rule} onChange={(change) => onChange(change)} />;
      case 'steps':
        return (
          <>
            <StepDelays here={here} rule={rule} onChange={onChange} />.
          </>
        );
      default:
        return i === 0 && tried.since !== null ? words.toLowerCase() : words;
    }
  };
  return (
    <p className="mt-2 text-[17px] leading-[1.75]" data-testid="what-if">
      {tried.since !== null && (
        <>
          As if on since{' '}
          <Part words={weekdayDateWords(tried.since)} label="As if on since">
            <DateField
              label="As if the rule had been on since"
              value={tried.since}
              min={course.start}
              max={rule.rhythm.start.slice(0, 10)}
              onChange={tried.setSince}
            />
            <p className="text-[13px] text-ink-2">
              The rule begins {weekdayDateWords(rule.rhythm.start.slice(0, 10))}. Nothing was sent before that.
            </p>
          </Part>
          :{' '}
        </>
      )}
      {parts.map((part, i) => (
        <Fragment key={i}>{partOf(part, i)}</Fragment>
      ))}
    </p>
  );
}

/** A condition in words, each part with the numbers in it. */
function Tree(props: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly node: Condition;
  readonly path: string;
  readonly nested?: boolean;
  readonly onChange: (change: Partial<Rule>) => void;
}) {
  const { here, rule, node, path, onChange } = props;
  if (isLeaf(node)) {
    const { lead, marked } = leafClause(node, here.course);
    return (
      <>
        {lead} <Numbers here={here} rule={rule} words={marked} under={path} onChange={onChange} />
      </>
    );
  }
  const { kind, children } = groupOf(node);
  const brackets = kind === 'none' || (props.nested === true && children.length > 1);
  return (
    <>
      {kind === 'none' && 'do not match '}
      {brackets && '('}
      {children.map((child, i) => (
        <span key={i}>
          {i > 0 && ` ${JOINER[kind]} `}
          <Tree {...props} node={child} path={`${path}.${kind}[${i}]`} nested />
        </span>
      ))}
      {brackets && ')'}
    </>
  );
}

/** A part of the sentence, opened to the numbers in it; plain words where there are none. */
function Numbers(props: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly words: string;
  /** The beginning of the paths of its numbers. */
  readonly under: string;
  readonly onChange: (change: Partial<Rule>) => void;
}) {
  const { here, rule, words, under, onChange } = props;
  const numbers = numbersOf(rule, here.course).filter((n) => n.path.startsWith(`${under}.`));
  if (numbers.length === 0) return <>{words}</>;
  return (
    <Part words={words} label="Other numbers">
      {numbers.map((n) => (
        <NumberField
          key={n.path}
          label={n.label}
          value={n.value}
          {...n.range}
          onChange={(value) => value !== null && onChange(withNumbers(rule, here.course, new Map([[n.path, value]])))}
        />
      ))}
    </Part>
  );
}

function StepDelays(props: {
  readonly here: CourseHere;
  readonly rule: Rule;
  readonly onChange: (change: Partial<Rule>) => void;
}) {
  const { rule } = props;
  return rule.steps.map((step, i) =>
    i === 0 && step.after.days === 0 ? null : (
      <span key={i}>
        ; step {i + 1} <Numbers {...props} words={`after ${durationWords(step.after)}`} under={`steps[${i}]`} />
      </span>
    ),
  );
}

function BudgetFields({ here, tried }: { readonly here: CourseHere; readonly tried: TriedState }) {
  const { card } = tried;
  const own = here.course.settings.budget;
  const budget = tried.budget === undefined ? own : tried.budget;
  const set = (next: MessageBudget | null) =>
    tried.setBudget(JSON.stringify(next) === JSON.stringify(own) ? undefined : next);
  const words =
    budget === null
      ? 'no limit'
      : `${plural(budget.count, 'nudge')} a student in ${plural(budget.days, 'day')}${budget.strict ? ', with no exceptions' : ''}`;
  return (
    <div className="mt-3 flex flex-wrap items-center gap-x-6 gap-y-2 border-t border-line pt-3">
      {card && (
        <Check
          label="Replay it together with the other rules that are on"
          checked={tried.together}
          onChange={tried.setTogether}
        />
      )}
      {(card === null || tried.together) && (
        <p className="text-[16px]">
          Message budget:{' '}
          <Part words={words} label="Message budget">
            <NumberField
              label="Nudges a student, at most"
              {...BUDGET_RANGE.count}
              min={1}
              empty="no limit"
              value={budget?.count ?? null}
              onChange={(count) =>
                set(count === null ? null : { days: budget?.days ?? 7, strict: budget?.strict ?? false, count })
              }
            />
            {budget && (
              <>
                <NumberField
                  label="in so many days"
                  {...BUDGET_RANGE.days}
                  value={budget.days}
                  onChange={(days) => days !== null && set({ ...budget, days })}
                />
                <Check
                  label="Allow no exceptions but essential rules"
                  checked={budget.strict === true}
                  onChange={(strict) => set({ ...budget, strict })}
                />
              </>
            )}
          </Part>
        </p>
      )}
    </div>
  );
}
