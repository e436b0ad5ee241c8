/** What is tried out on Replay: a version of a rule beside the saved one, and another message budget. Nothing of it is saved. */
import { useState } from 'react';
import { useQuery } from '@tanstack/react-query';
import { useSearchParams } from 'react-router';
import type { MessageBudget } from '@zest-bell/core/course';
import { beginsLate, ruleDocument, type Rule } from '@zest-bell/core/rules';
import type { RuleCard, RuleVersionAnswer } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from '../../lib/api.ts';
import type { CourseHere } from '../../lib/here.ts';
import { useLongWork } from '../../lib/useLongWork.ts';
import { draftKey, sameRule, useDrafts } from '../../parts/rule/draft.ts';

export const SAVED = 'saved';
export const DRAFT = 'draft';

export interface TriedState {
  readonly card: RuleCard | null;
  /** From what one begins: the saved rule, the draft in the composer, or an earlier version by its number. */
  readonly from: string;
  readonly draft: Rule | null;
  readonly versions: readonly RuleVersionAnswer[];
  /** What is tried; null where it says what is saved. */
  readonly changed: Rule | null;
  /** The rule that the fields show. */
  readonly shown: Rule | null;
  /** With the other rules that are on. */
  readonly together: boolean;
  /** Undefined: the course's own. */
  readonly budget: MessageBudget | null | undefined;
  /** As if the rule had been on since that day; null where it begins with the course anyway. */
  readonly since: string | null;
  readonly setSince: (day: string) => void;
  readonly isOther: boolean;
  readonly begin: (from: string) => void;
  readonly edit: (change: Partial<Rule>) => void;
  readonly setTogether: (together: boolean) => void;
  readonly setBudget: (budget: MessageBudget | null | undefined) => void;
  readonly reset: () => void;
}

export function useTried(here: CourseHere, card: RuleCard | null): TriedState {
  const [params, setParams] = useSearchParams();
  const from = params.get('with') ?? SAVED;
  const [edited, setEdited] = useState<Rule | null>(null);
  const [together, setTogether] = useState(false);
  const [chosenSince, setSince] = useState<string | null>(null);
  const [budget, setBudget] = useState<MessageBudget | null | undefined>(undefined);
  const kept = useDrafts((s) => (card ? s.drafts[draftKey(here.id, card.rule.id)] : undefined));
  const rule = card?.rule.id ?? null;
  const versions = useQuery({
    queryKey: ['versions', here.id, rule],
    queryFn: () => ask(contract.rules.versions, { course: here.id, rule: rule! }),
    enabled: rule !== null,
  });
  const saved = card?.rule ?? null;
  const draft = saved && kept && !sameRule(kept.rule, saved) ? { ...saved, ...kept.rule, status: saved.status } : null;
  const version = versions.data?.find((v) => String(v.version) === from);
  const begun = from === DRAFT && draft ? draft : version && saved ? { ...version.rule, status: saved.status } : saved;
  const shown = edited ?? begun;
  const changed = shown && saved && !sameRule(shown, saved) ? shown : null;
  const begin = (next: string) => {
    setEdited(null);
    setParams(
      (old) => {
        if (next === SAVED) old.delete('with');
        else old.set('with', next);
        return old;
      },
      { replace: true },
    );
  };
  return {
    card,
    from: begun === saved ? SAVED : from,
    draft,
    // The newest is what is saved.
    versions: (versions.data ?? []).slice(1),
    changed,
    shown,
    together,
    since: shown && beginsLate(shown, here.course) ? (chosenSince ?? here.course.start) : null,
    setSince,
    budget,
    isOther: changed !== null || budget !== undefined,
    begin,
    edit: (change) => shown && setEdited({ ...shown, ...change }),
    setTogether,
    setBudget,
    reset: () => {
      setBudget(undefined);
      begin(SAVED);
    },
  };
}

/** The order by which the server replays: `rule` null is all rules that are on. */
export const orderOf = (here: CourseHere, tried: TriedState, other: boolean) => ({
  rule: tried.card?.rule.id ?? null,
  ...(other && tried.changed && { changed: ruleDocument(tried.changed, here.course.timeZone) }),
  ...(tried.card && { together: tried.together }),
  ...(tried.card && tried.since !== null && { since: tried.since }),
  ...(other && tried.budget !== undefined && { budget: tried.budget }),
});

export const useReplay = (here: CourseHere, order: object | null) =>
  useLongWork(['replay', here.id, here.answer.version, here.now], contract.rounds.replay, { course: here.id }, order);
