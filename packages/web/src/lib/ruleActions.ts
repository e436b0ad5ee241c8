/** What can be done with a rule, each with its toast and, where it can be undone, its undo. */
import { toast } from 'sonner';
import { instantWords, plural } from '@zest-bell/core/time';
import { ruleDocument, type Rule, type RuleStatus } from '@zest-bell/core/rules';
import type { PastAnswer, RehearsalAnswer, RingAnswer, RuleCard, RuleChange } from '@zest-bell/core/exchange';
import { contract } from '@zest-bell/core/contract';
import { ask } from './api.ts';
import { track } from './sendings.ts';
import { attempt } from './attempt.ts';
import { refreshAll, type CourseView } from './queries.ts';

/** What the instructor said yes to. */
export interface Confirmation {
  /** Writing to more of the class than passes without a question. */
  readonly confirmed?: boolean;
  /** Writing to these addresses outside the institution. */
  readonly outside?: readonly string[];
  /** Why it is changed; empty for nothing said. */
  readonly why?: string;
}

/** As it is sent. */
const given = ({ outside, ...more }: Confirmation & { readonly newSpellsOnly?: boolean }) => ({
  ...more,
  ...(outside === undefined ? {} : { outside: [...outside] }),
});

/** Saves a rule. One that is on may need a yes. */
export async function saveRule(
  view: CourseView,
  rule: Rule,
  version: number,
  yes: Confirmation = {},
): Promise<RuleCard> {
  const document = ruleDocument(rule, view.course.timeZone);
  const answer = await ask(
    contract.rules.change,
    { course: view.id, rule: rule.id },
    { body: { rule: document, version, ...given(yes) } },
  );
  await refreshAll();
  return answer.rule;
}

/** Keeps changes of a rule that is on beside it, for somebody who may run rules to publish. */
export async function keepBeside(view: CourseView, rule: Rule, version: number): Promise<RuleCard> {
  const card = await saveRule(view, rule, version);
  toast(`Saved as a draft of “${rule.name}”. An owner or co-instructor reviews and confirms it.`);
  return card;
}

export async function dropBeside(view: CourseView, rule: string): Promise<void> {
  await ask(contract.rules.dropDraft, { course: view.id, rule });
  await refreshAll();
}

/** Saves and offers to take the saved version back. */
export async function saveWithUndo(
  view: CourseView,
  rule: Rule,
  saved: RuleCard,
  yes: Confirmation = {},
): Promise<RuleCard> {
  const card = await saveRule(view, rule, saved.version, yes);
  toast(`Saved “${rule.name}”.`, {
    description:
      card.nextRoundAt === null ? undefined : `Next check ${instantWords(card.nextRoundAt, view.course.timeZone)}.`,
    action: {
      label: 'Undo',
      // Taking a change back reaches whom the rule reached before: that was said yes to.
      onClick: () => void attempt(() => saveRule(view, saved.rule, card.version, { confirmed: true })),
    },
  });
  return card;
}

/** The name on its next messages. */
export async function writeAs(view: CourseView, { rule }: RuleCard, as: 'me' | 'course'): Promise<void> {
  await ask(contract.rules.sender, { course: view.id, rule: rule.id }, { body: { as } });
  toast(`The next messages of “${rule.name}” come from ${as === 'me' ? 'you' : view.answer.sender.name}.`);
  await refreshAll();
}

export interface SwitchOptions extends Confirmation {
  /** For spells that start from now on alone, or for all; left out, as it was. */
  readonly newSpellsOnly?: boolean;
}

/** Turns rules on or off: all of them, or none. */
async function setStatus(
  view: CourseView,
  cards: readonly RuleCard[],
  status: RuleStatus,
  options: SwitchOptions = {},
): Promise<RuleChange[]> {
  const rules = cards.map((c) => ({ rule: c.rule.id, version: c.version }));
  const answer = await ask(contract.rules.status, { course: view.id }, { body: { status, rules, ...given(options) } });
  await refreshAll();
  return answer;
}

const STATUS_WORDS: Readonly<Record<RuleStatus, string>> = {
  on: 'is on',
  paused: 'is paused',
  draft: 'is a draft again',
};

export async function setStatusWithUndo(
  view: CourseView,
  cards: readonly RuleCard[],
  status: RuleStatus,
  options: SwitchOptions = {},
): Promise<RuleChange[]> {
  const changes = await setStatus(view, cards, status, options);
  const [first] = changes;
  const next = first!.rule.nextRoundAt;
  const title =
    changes.length === 1
      ? `“${first!.rule.rule.name}” ${STATUS_WORDS[status]}.`
      : `${plural(changes.length, 'rule')}: each ${STATUS_WORDS[status]}.`;
  toast(title, {
    description:
      status !== 'on'
        ? 'It sends nothing until you turn it on.'
        : changes.length > 1
          ? undefined
          : next === null
            ? 'It has no checks left.'
            : `Next check ${instantWords(next, view.course.timeZone)}.`,
    action: { label: 'Undo', onClick: () => void attempt(() => switchBack(view, changes)) },
  });
  return changes;
}

/** Each rule gets the status back that it had; what it was turned on for was said yes to before. */
async function switchBack(view: CourseView, changes: readonly RuleChange[]): Promise<void> {
  for (const status of new Set(changes.map((c) => c.before))) {
    const cards = changes.filter((c) => c.before === status).map((c) => c.rule);
    await setStatus(view, cards, status, { confirmed: true });
  }
}

export async function createRule(view: CourseView, rule: Rule, starter?: string): Promise<RuleCard> {
  const card = await ask(
    contract.rules.make,
    { course: view.id },
    { body: { rule: ruleDocument(rule, view.course.timeZone), ...(starter === undefined ? {} : { starter }) } },
  );
  await refreshAll();
  return card;
}

export const rehearse = (view: CourseView, rule: Rule, at?: number, signal?: AbortSignal): Promise<RehearsalAnswer> =>
  ask(
    contract.rules.rehearse,
    { course: view.id },
    { body: { rule: ruleDocument(rule, view.course.timeZone), ...(at ? { at } : {}) }, signal },
  );

export async function checkNow(view: CourseView, card: RuleCard, confirmed = false): Promise<RingAnswer> {
  const answer = await ask(contract.rules.ring, { course: view.id, rule: card.rule.id }, { body: { confirmed } });
  await refreshAll();
  if (track(answer.sending)) return answer;
  const { heard, withheld } = answer.round;
  toast(heard === 0 ? 'The rule ran and nudged nobody.' : `The rule ran: ${plural(heard, 'message')} on the way.`, {
    description: withheld > 0 ? `${withheld} held back by limits.` : undefined,
    action: { label: 'Send log', onClick: () => window.location.assign(`/c/${view.id}/log?rule=${card.rule.id}`) },
  });
  return answer;
}

/** Puts a rule away, or takes it out again with the status it had. */
export async function archiveWithUndo(view: CourseView, card: RuleCard): Promise<void> {
  const path = { course: view.id, rule: card.rule.id };
  const change = await ask(contract.rules.archive, path, { body: { version: card.version } });
  await refreshAll();
  toast(`“${card.rule.name}” is in the archive.`, {
    description: change.before === 'on' ? 'It was on and is now paused.' : undefined,
    action: { label: 'Undo', onClick: () => void attempt(() => restoreRule(view, change.rule, change.before)) },
  });
}

/** A rule that was on before it was put away, moments ago, was agreed to then. */
export async function restoreRule(view: CourseView, card: RuleCard, status: RuleStatus = 'paused'): Promise<void> {
  const path = { course: view.id, rule: card.rule.id };
  await ask(contract.rules.unarchive, path, { body: { version: card.version, status, confirmed: status === 'on' } });
  await refreshAll();
}

/** The order in which rules decide. */
export async function reorder(view: CourseView, ids: readonly string[]): Promise<void> {
  await ask(contract.rules.order, { course: view.id }, { body: { rules: [...ids] } });
  await refreshAll();
}

export const pastOf = (view: CourseView, rule: Rule, signal?: AbortSignal): Promise<PastAnswer> =>
  ask(contract.rules.past, { course: view.id }, { body: { rule: ruleDocument(rule, view.course.timeZone) }, signal });
