/** What can be done with a rule, each with its toast and, where it can be undone, its undo. */
import { toast } from 'sonner';
import {
  instantWords,
  plural,
  ruleDocument,
  type RehearsalAnswer,
  type RingAnswer,
  type Rule,
  type RuleCard,
  type RuleChange,
  type RuleStatus,
} from '@zest-bell/core';
import { api, errorWords } from '../app/api.ts';
import { refreshAll, type CourseView } from '../app/queries.ts';

const base = (course: number) => `/courses/${course}/rules`;

/** Runs an action; a refusal becomes a toast and undefined. */
export async function attempt<T>(work: () => Promise<T>): Promise<T | undefined> {
  try {
    return await work();
  } catch (error) {
    toast.error(errorWords(error));
    return undefined;
  }
}

export async function saveRule(view: CourseView, rule: Rule, version: number): Promise<RuleCard> {
  const document = ruleDocument(rule, view.course.timeZone);
  const answer = await api.put<RuleChange>(`${base(view.id)}/${rule.id}`, { rule: document, version });
  await refreshAll();
  return answer.rule;
}

/** Saves and offers to take the saved version back. */
export async function saveWithUndo(view: CourseView, rule: Rule, saved: RuleCard): Promise<RuleCard> {
  const card = await saveRule(view, rule, saved.version);
  toast(`Saved “${rule.name}”.`, {
    description:
      card.nextRoundAt === null ? undefined : `It rings next ${instantWords(card.nextRoundAt, view.course.timeZone)}.`,
    action: {
      label: 'Undo',
      onClick: () => void attempt(() => saveRule(view, saved.rule, card.version)),
    },
  });
  return card;
}

export async function setStatus(view: CourseView, card: RuleCard, status: RuleStatus): Promise<RuleCard> {
  const answer = await api.post<RuleChange>(`${base(view.id)}/${card.rule.id}/status`, {
    status,
    version: card.version,
  });
  await refreshAll();
  return answer.rule;
}

const STATUS_WORDS: Readonly<Record<RuleStatus, string>> = {
  on: 'is on',
  paused: 'is paused',
  draft: 'is a draft again',
};

export async function setStatusWithUndo(view: CourseView, card: RuleCard, status: RuleStatus): Promise<RuleCard> {
  const changed = await setStatus(view, card, status);
  const next = changed.nextRoundAt;
  toast(`“${card.rule.name}” ${STATUS_WORDS[status]}.`, {
    description:
      status !== 'on'
        ? 'It sends nothing until it is turned on.'
        : next === null
          ? 'It has no round left in its run.'
          : `It rings next ${instantWords(next, view.course.timeZone)}.`,
    action: {
      label: 'Undo',
      onClick: () => void attempt(() => setStatus(view, changed, card.rule.status)),
    },
  });
  return changed;
}

export async function createRule(view: CourseView, rule: Rule): Promise<RuleCard> {
  const card = await api.post<RuleCard>(base(view.id), { rule: ruleDocument(rule, view.course.timeZone) });
  await refreshAll();
  return card;
}

export const rehearse = (view: CourseView, rule: Rule, at?: number): Promise<RehearsalAnswer> =>
  api.post(`${base(view.id)}/rehearse`, { rule: ruleDocument(rule, view.course.timeZone), ...(at ? { at } : {}) });

export async function ringNow(view: CourseView, card: RuleCard): Promise<RingAnswer> {
  const answer = await api.post<RingAnswer>(`${base(view.id)}/${card.rule.id}/ring`);
  await refreshAll();
  const { heard, withheld } = answer.round;
  toast(heard === 0 ? 'It rang, and nobody was written to.' : `It rang: ${plural(heard, 'message')} on the way.`, {
    description: withheld > 0 ? `${withheld} withheld by its limits.` : undefined,
    action: { label: 'Send log', onClick: () => window.location.assign(`/c/${view.id}/log?rule=${card.rule.id}`) },
  });
  return answer;
}
