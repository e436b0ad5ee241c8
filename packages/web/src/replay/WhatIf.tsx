/** A rule's numbers, rhythm, limits and weight, and the message budget, to be tried out. The rule stays as it is. */
import { useNavigate } from 'react-router';
import { dayWords, numbersOf, withNumbers, type Rule } from '@zest-bell/core';
import type { Here } from '../app/here.ts';
import { draftKey, useDrafts } from '../rules/draft.ts';
import { RepeatPart } from '../rules/parts/RepeatPart.tsx';
import { RhythmPart } from '../rules/parts/RhythmPart.tsx';
import { Button } from '../ui/Button.tsx';
import { Check, NumberField, SelectField } from '../ui/fields.tsx';
import { DRAFT, SAVED, type Tried } from './tried.ts';

export function WhatIf({ here, tried }: { readonly here: Here; readonly tried: Tried }) {
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
      {shown && <RuleFields here={here} rule={shown} onChange={tried.edit} />}
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
export function useTakeIntoComposer(here: Here): (card: NonNullable<Tried['card']>, rule: Rule) => void {
  const navigate = useNavigate();
  return (card, rule) => {
    useDrafts.getState().edit(draftKey(here.id, card.rule.id), card, { ...rule, status: card.rule.status });
    void navigate(`/c/${here.id}/rules/${card.rule.id}`);
  };
}

function RuleFields(props: {
  readonly here: Here;
  readonly rule: Rule;
  readonly onChange: (change: Partial<Rule>) => void;
}) {
  const { here, rule, onChange } = props;
  return (
    <>
      <div className="mt-2 flex flex-wrap items-end gap-x-6 gap-y-3">
        {numbersOf(rule, here.course)
          .filter((n) => !n.path.startsWith('repeat'))
          .map((n) => (
            <div key={n.path} className="min-w-44">
              <p className="mb-0.5 max-w-72 truncate text-[13.5px] text-ink-2" title={n.of}>
                {n.of}
              </p>
              <NumberField
                label={n.label}
                value={n.value}
                whole={n.whole}
                {...(n.min !== null && { min: n.min })}
                {...(n.max !== null && { max: n.max })}
                onChange={(value) =>
                  value !== null && onChange(withNumbers(rule, here.course, new Map([[n.path, value]])))
                }
              />
            </div>
          ))}
      </div>
      <p className="mt-3 text-[16px] leading-[1.7]">
        Look{' '}
        <RhythmPart
          rhythm={rule.rhythm}
          course={here.course}
          now={here.now}
          onChange={(rhythm) => onChange({ rhythm })}
        />
        , and nudge each student <RepeatPart rule={rule} onChange={(change) => onChange(change)} />.
      </p>
    </>
  );
}

function BudgetFields({ here, tried }: { readonly here: Here; readonly tried: Tried }) {
  const { card } = tried;
  const own = here.course.settings.budget;
  const budget = tried.budget === undefined ? own : tried.budget;
  const set = (count: number | null, days: number) => {
    const next = count === null ? null : { count, days };
    tried.setBudget(JSON.stringify(next) === JSON.stringify(own) ? undefined : next);
  };
  return (
    <div className="mt-3 flex flex-wrap items-end gap-x-6 gap-y-3 border-t border-line pt-3">
      {card && (
        <Check
          label="Replay it together with the other rules that are on"
          checked={tried.together}
          onChange={tried.setTogether}
        />
      )}
      {(card === null || tried.together) && (
        <>
          <NumberField
            label="Message budget: nudges a student"
            whole
            min={1}
            max={1000}
            empty="no limit"
            value={budget?.count ?? null}
            onChange={(count) => set(count, budget?.days ?? 7)}
          />
          {budget && (
            <NumberField
              label="in so many days"
              whole
              min={1}
              max={366}
              value={budget.days}
              onChange={(days) => days !== null && set(budget.count, days)}
            />
          )}
        </>
      )}
    </div>
  );
}
