/** Trying a rule: the facts behind its live reach, its rehearsal, starters as they would be here, and ring now. */
import { presenceKnown } from '@zest-bell/core/activity';
import type { ParseResult } from '@zest-bell/core/problem';
import type { WorkInParts } from '@zest-bell/core/time';
import { asIfSince, isAlert, ruleSentence, type Rule } from '@zest-bell/core/rules';
import { aboutOf, nextVariant, type CompiledWording } from '@zest-bell/core/wording';
import { explained, recipientsOf, matchesAt, unheardIn, type LimitLog, type Decision } from '@zest-bell/core/rounds';
import { starterRuleFor, STARTERS } from '@zest-bell/core/starters';
import type {
  RehearsalAnswer,
  RenderedMessage,
  RenderedNudge,
  RingAnswer,
  StarterAnswer,
} from '@zest-bell/core/exchange';
import { SENT, contract } from '@zest-bell/core/contract';
import type { Door } from '../../access/door.ts';
import { inVoiceOf, type LiveCourse } from '../../course/activity/live.ts';
import { readsStaleSource } from '../../rules/sources.ts';
import { limitLogForDraft } from '../../rounds/deciding/limitLog.ts';
import type { MailHandOver } from '../../mail/outbox/handsOver.ts';
import { AppError } from '../../platform/errors/errors.ts';
import type { Em } from '../../platform/database/orm.ts';
import { leave, sendingAnswer } from '../../mail/sendings/sendings.ts';
import type { IntakeServices } from '../../intake/services.ts';
import { runRoundNow } from '../../rounds/deciding/scheduler.ts';
import { summaryOf } from './cards.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleOfRow } from '../../rules/repository.ts';
import { fittingRule } from '../../rules/fitting.ts';
import { mustHaveTexts, mustNotReachMany, mustRender } from '../../rules/lifecycle.ts';
import { nudgesToCome, wouldDecide, type RoundPreview } from '../../rounds/deciding/wouldDecide.ts';
import { filesOf } from '../../wording/sending.ts';
import { lastKey, lastVariants, loadWordings } from '../../wording/repository.ts';

export function tryingRoutes(door: Door, services: IntakeServices, dispatcher: MailHandOver): void {
  const { orm, reading, live, clock, longWork, replays } = services;

  door.on(contract.rules.starters, async ({ course: id }) => {
    const course = await live.get(reading.em.fork(), id);
    const now = clock.now();
    const presence = presenceKnown(course.facts.history);
    return STARTERS.map((s): StarterAnswer => {
      const built = starterRuleFor(s, course.course, now, presence);
      if (!built.ok) return { id: s.id, sentence: null, matching: 0, needs: built.needs, unheard: [] };
      const matching = matchesAt(built.rule, course.facts, now).length;
      const unheard = unheardWords(built.rule, course, now);
      return { id: s.id, sentence: ruleSentence(built.rule, course.course), matching, needs: null, unheard };
    });
  });

  /** What limits are counted from, for the live reach of a rule that is being composed. */
  door.on(contract.rules.limitLog, async ({ course: id, query: { rule, at } }) => {
    const em = reading.em.fork();
    const course = await live.get(em, id);
    const row = rule === undefined ? null : await em.findOne(RuleRow, { course: id, key: rule });
    const logged = await limitLogForDraft(em, course, row, at);
    const coming = await nudgesToCome(em, course, rule ?? '', at, clock.now());
    return { ...logged, nudges: [...logged.nudges, ...coming] } satisfies LimitLog;
  });

  door.on(contract.rules.rehearse, async ({ course: id, body: input, account, res }) => {
    const em = orm.em.fork();
    const read = await live.get(em, id);
    const rule = fittingRule(input.rule, read);
    const row = await em.findOne(RuleRow, { course: id, key: rule.id }, { fields: ['owner'] });
    // A rule that never was on writes in the name of the person who turns it on.
    const course = inVoiceOf(read, row?.owner ?? account);
    const at = input.at ?? clock.now();
    const given = await rehearsalOf(em, rule, course, at, clock.now());
    return await longWork.run(account, res, () => rehearse(rule, course, at, given));
  });

  /** What the rule would have done so far, had it been on since its first day with no other beside it. */
  door.on(contract.rules.past, async ({ course: id, body: input, account, res }) => {
    const course = await live.get(reading.em.fork(), id);
    const drafted = { ...fittingRule(input.rule, course), status: 'on' as const, spellsFrom: null };
    const rule = asIfSince(drafted, course.course.start, course.course);
    await replays.answer(account, res, 'past', course.facts, { rule, until: clock.now() });
    return SENT;
  });

  door.on(contract.rules.ring, async ({ course: id, body: { confirmed }, path, account }) => {
    const em = orm.em.fork();
    const course = await live.get(em, id);
    const row = await em.findOne(RuleRow, { course: id, key: path.rule });
    if (!row) throw new AppError('notFound');
    if (row.status !== 'on') throw new AppError('ruleOff');
    const now = clock.now();
    if (now >= course.course.calendar.end) throw new AppError('courseOver');
    if (course.row.stoppedAt != null) throw new AppError('mailStopped');
    const rule = ruleOfRow(row);
    if (readsStaleSource(rule, course.row, now)) throw new AppError('dataStale');
    await mustRender(em, rule, inVoiceOf(course, row.owner), now);
    if (!confirmed) mustNotReachMany(rule, course, (await wouldDecide(em, course, rule, now, now)).decisions);
    const { round, sending } = await runRoundNow(services, id, row, account);
    // A few messages are gone at once; many go on while the page shows how far they are.
    await leave(services, dispatcher, sending);
    return { round: summaryOf(round), sending: sending && sendingAnswer(sending) } satisfies RingAnswer;
  });
}

const unheardWords = (rule: Rule, { facts }: LiveCourse, at: number): string[] =>
  unheardIn(rule.when, facts, at).map((u) => u.message);

/** What a rehearsal is read from. */
interface RehearsalInput {
  readonly wordings: (key: string) => ParseResult<CompiledWording>;
  readonly matching: number;
  readonly decisions: readonly Decision[];
  readonly taken: RoundPreview['taken'];
  readonly last: ReadonlyMap<string, number>;
}

/** The same function as a round, with no effect (engine R10). */
async function rehearsalOf(em: Em, rule: Rule, course: LiveCourse, at: number, now: number): Promise<RehearsalInput> {
  await mustHaveTexts(em, rule, course);
  const wordings = await loadWordings(em, course.id, [...new Set(rule.steps.map((s) => s.wording))]);
  const { matching, decisions, taken } = await wouldDecide(em, course, rule, at, now);
  const last = await lastVariants(em, course.id, [...new Set(decisions.map((d) => d.student))]);
  return { wordings, matching, decisions, taken, last };
}

/** What would leave is rendered as it would leave, a part for each nudge. */
function* rehearse(rule: Rule, course: LiveCourse, at: number, given: RehearsalInput): WorkInParts<RehearsalAnswer> {
  const nudges: RenderedNudge[] = [];
  for (const decision of given.decisions) {
    const messages = messagesOf(decision, rule, course, at, given);
    nudges.push({
      decision: explained(decision, rule, course.facts),
      messages,
      taken: given.taken[decision.student] ?? null,
    });
    yield;
  }
  const { name, address } = course.sender;
  const unheard = unheardWords(rule, course, at);
  return { at, matching: given.matching, unheard, from: { name, address }, nudges };
}

function messagesOf(
  decision: Decision,
  rule: Rule,
  course: LiveCourse,
  at: number,
  given: RehearsalInput,
): RenderedMessage[] {
  const wording = given.wordings(rule.steps[decision.step]!.wording);
  if (!wording.ok) return [];
  const person = course.course.personIndex.get(decision.student)!;
  const step = rule.steps[decision.step]!;
  const placeOf = (d: Decision) => course.course.personIndex.get(d.student)!;
  // One list a round: everybody of the step that would leave is in it.
  const together = step.together
    ? given.decisions.filter((d) => d.step === decision.step && d.outcome === decision.outcome).map(placeOf)
    : undefined;
  const { facts, sender } = course;
  const about = { facts, person, sender, about: aboutOf(rule.when), at, together, alert: isAlert(step) };
  const before = given.last.get(lastKey(wording.value.wording.id, decision.student)) ?? null;
  const variant = nextVariant(wording.value.count, before, decision.student);
  // Who is held back reads nothing now; the message that would go without the limit is shown all the same.
  const readers =
    decision.outcome === 'withheld' ? recipientsOf(step, course.course.people[person]!, course.course) : decision.to;
  return readers.map((to) => {
    const reader = { name: to.name || to.address };
    const rendered = wording.value.render({ ...about, reader }, variant, to.reader);
    if (!rendered.ok) throw new AppError('wordingBroken', rendered.problems);
    const message = rendered.value;
    const files = filesOf({ wording: wording.value, message }, to.kind === 'student');
    return { to, message, files, text: wording.value.count > 1 ? variant : null, together: together?.length ?? null };
  });
}
