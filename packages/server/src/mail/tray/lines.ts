/** The nudges of a course that wait for a decision, read against what is known now. */
import type { Instant } from '@zest-bell/core/time';
import { nameIn } from '@zest-bell/core/course';
import { evidenceAt, spellAt } from '@zest-bell/core/conditions';
import { byUrgency, mailingOf } from '@zest-bell/core/nudges';
import { aboutOf, ABOUT_NOTHING, nextVariant, textsOf, type Variant } from '@zest-bell/core/wording';
import { secondLook } from '@zest-bell/core/rounds';
import type { TrayAnswer, TrayLine } from '@zest-bell/core/exchange';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { writersOf } from '../byHand/writers.ts';
import { MessageRow, NudgeRow } from '../nudges/entity.ts';
import { openMailings } from '../byHand/open.ts';
import { editedWording } from '../outbox/judge.ts';
import type { Em } from '../../platform/database/orm.ts';
import { RuleRow } from '../../rules/entity.ts';
import { readableRule, ruleNames } from '../../rules/repository.ts';
import { lastKey, lastVariants, loadWordings } from '../../wording/repository.ts';
import { ruleNameIn } from '../log/query.ts';

/** The most that a page shows; the others follow as these are decided. */
const MOST = 300;

export async function trayLines(em: Em, live: LiveCourse, now: Instant): Promise<TrayAnswer> {
  const { id, course } = live;
  const messages = await em.find(
    MessageRow,
    { course: id, state: 'held' },
    { orderBy: { id: 'asc' }, disableIdentityMap: true },
  );
  const nudges = await em.find(
    NudgeRow,
    { id: { $in: [...new Set(messages.flatMap((m) => m.nudge ?? []))] } },
    { disableIdentityMap: true },
  );
  const rules = new Map(
    (
      await em.find(
        RuleRow,
        { course: id, key: { $in: nudges.flatMap((n) => n.rule ?? []) } },
        { disableIdentityMap: true },
      )
    ).map((r) => [r.key, readableRule(r)]),
  );
  const names = await ruleNames(em, id);
  const wordings = await loadWordings(em, id, [...new Set(nudges.map((n) => n.wording))]);
  const last = await lastVariants(em, id, [...new Set(nudges.map((n) => n.student))]);
  const mailings = await openMailings(em, live, nudges);
  const writers = await writersOf(em, nudges);
  const bundleOf = new Map(messages.flatMap((m) => (m.bundle == null ? [] : [[m.nudge, m.bundle] as const])));
  /** Those who wait for one decision together: of one rule, round and step. */
  const groupOf = (n: NudgeRow): string | null => (bundleOf.has(n.id) ? `${n.rule}:${n.roundAt}:${n.step}` : null);
  const groups = new Map<string, NudgeRow[]>();
  for (const n of nudges) {
    const group = groupOf(n);
    if (group !== null) groups.set(group, [...(groups.get(group) ?? []), n]);
  }
  const lines = nudges.map((n): TrayLine => {
    const rule = n.rule == null ? null : (rules.get(n.rule) ?? null);
    // A message by hand may be to a guest, who is in its own course alone.
    const mailing = n.rule == null ? mailings.get(mailingOf(n.wording) ?? 0) : undefined;
    const { facts } = mailing ?? live;
    const { sender } = inVoiceOf(live, writers.get(n.id));
    const person = facts.course.personIndex.get(n.student);
    const own = messages.filter((m) => m.nudge === n.id);
    const spell = rule && person !== undefined ? spellAt(facts, person, rule.when, now) : null;
    const about = rule && { rule, student: n.student, round: n.roundAt, step: n.step };
    const base = mailing?.wording ?? wordings(n.wording);
    const wording = editedWording(base, n.edited == null ? null : JSON.stringify(n.edited));
    const variant = base.ok
      ? nextVariant(base.value.count, last.get(lastKey(n.wording, n.student)) ?? null, n.student)
      : 0;
    const lead = own.find((m) => m.kind === 'student') ?? own[0]!;
    const group = groupOf(n);
    const placesOf = (of: readonly NudgeRow[]) =>
      of.flatMap((o) => facts.course.personIndex.get(o.student) ?? []).toSorted((a, b) => a - b);
    const made =
      wording.ok && person !== undefined
        ? wording.value.render(
            {
              facts,
              person,
              sender,
              about: rule ? aboutOf(rule.when) : ABOUT_NOTHING,
              at: now,
              reader: { name: lead.name || lead.address },
              together: group === null ? undefined : placesOf(groups.get(group)!),
              alert: !n.toStudent,
            },
            n.edited == null ? variant : 0,
            lead.reader ?? lead.kind,
          )
        : null;
    const problems = !wording.ok ? wording.problems : made && !made.ok ? made.problems : [];
    return {
      nudge: n.id,
      student: n.student,
      name: nameIn(facts.course, n.student),
      rule: n.rule ?? null,
      ruleName: ruleNameIn(names, n.rule ?? null),
      step: n.step,
      roundAt: n.roundAt,
      spellStart: n.spellStart,
      passesAt: spell && spell.end < course.calendar.end ? spell.end : null,
      stillTrue: about ? secondLook(about, facts, now) === null : person !== undefined,
      heldFor: lead.heldFor ?? 'step',
      evidence: n.evidence,
      evidenceNow: rule && person !== undefined ? evidenceAt(facts, person, rule.when, now) : [],
      to: own.map(({ kind, name, address }) => ({ kind, name, address })),
      from: sender.name,
      wording: n.wording,
      edited: n.edited ?? null,
      source: n.edited ?? (base.ok ? sourceOf(textsOf(base.value.wording)[variant]) : null),
      message: made?.ok ? { subject: made.value.subject, text: made.value.text, blocks: made.value.blocks } : null,
      trouble: problems[0]?.message ?? (person === undefined ? 'This student is no longer in the course' : null),
      together: group,
      toStudent: n.toStudent,
      later: n.laterUntil != null && n.laterUntil > now ? n.laterUntil : null,
    };
  });
  return {
    lines: lines.toSorted(byUrgency).slice(0, MOST),
    waiting: lines.length,
    later: lines.filter((l) => l.later !== null).length,
  };
}

const sourceOf = (text: Variant | undefined): Variant | null =>
  text ? { subject: text.subject, text: text.text } : null;
