/** A set as one of its courses sees it. */
import type { SetAnswer, SetCandidate, SetCard, SetKind, SetMember } from '@zest-bell/core/exchange';
import { isActiveStudent } from '@zest-bell/core/course';
import { matchesAt } from '@zest-bell/core/rounds';
import { isOneTerm, partTitle, ruleThere, type PartChoices } from '@zest-bell/core/sets';
import type { Instant } from '@zest-bell/core/time';
import { mayIn } from '../../access/permissions.ts';
import { AppError } from '../../platform/errors/errors.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ruleName, ruleOfRow } from '../../rules/repository.ts';
import { WordingRow } from '../../wording/entity.ts';
import { SetMemberRow, SetRow } from '../../rules/sets/entity.ts';
import { memberOf, type CopyName } from '../../rules/sets/membership.ts';
import { leftAloneBecause, proposedOf, type SetCopy, SetReading } from './reading.ts';

/** The set and one’s own copy of it. Throws `notFound`. */
export async function ownCopy(
  reading: SetReading,
  name: CopyName,
): Promise<{ set: SetRow; own: SetCopy; copies: SetCopy[]; others: number }> {
  const member = await memberOf(reading.em, name);
  const set = member && (await reading.em.findOne(SetRow, { id: member.set }));
  if (!set) throw new AppError('notFound');
  const { copies, others } = await reading.copies(set);
  const own = copies.find((c) => c.member.id === member.id);
  if (!own) throw new AppError('notFound');
  return { set, own, copies, others };
}

/** `chosen`: what is chosen so far, by course. */
export async function setAnswer(
  reading: SetReading,
  name: CopyName,
  chosen: Readonly<Record<string, PartChoices>>,
  now: Instant,
): Promise<SetAnswer> {
  const { set, own, copies, others } = await ownCopy(reading, name);
  const members: SetMember[] = [];
  for (const copy of copies)
    members.push(await memberAnswer(reading, set, own, copy, { picks: chosen[copy.live.id], now }));
  return { kind: set.kind, members, others };
}

async function memberAnswer(
  reading: SetReading,
  set: SetRow,
  own: SetCopy,
  copy: SetCopy,
  { picks, now }: { readonly picks: PartChoices | undefined; readonly now: Instant },
): Promise<SetMember> {
  const { member, live, row } = copy;
  const isHere = copy === own;
  const leftAlone = leftAloneBecause(copy);
  const { pending = null } = member;
  const { code, title } = live.course;
  const waiting = isHere && pending && leftAlone === null;
  return {
    course: { id: live.id, code, title },
    key: member.key,
    name: copy.name,
    version: row.version,
    isHere,
    leftAlone,
    status: 'status' in row ? row.status : null,
    differs: (await reading.differs(set, copy)).map(partTitle),
    waits: pending !== null,
    change: waiting
      ? await reading.change(set, copy, await reading.version(set, pending.to), picks ?? pending.picks, now)
      : // What waits here is decided here first: an older copy is not offered over a newer one.
        isHere || leftAlone !== null || own.member.pending
        ? null
        : await reading.change(set, copy, own, picks ?? pending?.picks ?? {}, now),
  };
}

/** A line for each rule and wording of a course that other courses have too. */
export async function setCards(reading: SetReading, course: number): Promise<SetCard[]> {
  const cards: SetCard[] = [];
  for (const member of await reading.em.find(SetMemberRow, { course }, { orderBy: { id: 'asc' } })) {
    const set = await reading.em.findOne(SetRow, { id: member.set });
    if (!set) continue;
    const { copies, others } = await reading.copies(set);
    const isThere = copies.some((c) => c.member.id === member.id);
    if (!isThere || copies.length + others < 2) continue;
    let differ = 0;
    for (const copy of copies) if ((await reading.differs(set, copy)).length > 0) differ++;
    const from = member.pending ? await reading.version(set, member.pending.to) : null;
    const { kind, key } = member;
    cards.push({
      kind,
      key,
      courses: copies.length + others,
      hidden: others,
      differ,
      waitsFrom: from?.live.course.code ?? null,
    });
  }
  return cards;
}

/** One’s other courses, and whether they could have it. */
export async function candidatesFor(reading: SetReading, name: CopyName, now: Instant): Promise<SetCandidate[]> {
  const { em } = reading;
  const { kind, course, key } = name;
  const source = await reading.course(course);
  const rule = kind === 'rule' ? ruleOfRow((await em.findOne(RuleRow, { course, key })) ?? notThere()) : null;
  const wording = rule ? null : ((await em.findOne(WordingRow, { course, key })) ?? notThere());
  const own = await memberOf(em, name);
  const having = new Set((own ? await em.find(SetMemberRow, { set: own.set }) : []).map((m) => m.course));
  const answer: SetCandidate[] = [];
  for (const [id, { may }] of await reading.parts()) {
    if (id === course) continue;
    const live = await reading.course(id);
    const { code, title } = live.course;
    const leftAlone = having.has(id)
      ? 'hasIt'
      : live.row.archivedAt != null
        ? 'archivedCourse'
        : !may.has('drafts.write')
          ? 'notAllowed'
          : isOneTerm(source.course, live.course)
            ? null
            : 'otherTerm';
    const way = await reading.way(course, id);
    const there = rule && ruleThere(rule, way, (w) => w);
    const finds = there && {
      now: matchesAt({ ...there.rule, audience: { ...there.rule.audience, sections: [] } }, live.facts, now).length,
      students: live.course.people.filter(isActiveStudent).length,
    };
    answer.push({
      course: { id, code, title },
      leftAlone,
      finds,
      alike: leftAlone === null ? await alikeIn(reading, name, id, rule?.name ?? wording!.name) : [],
      problems: there?.problems ?? [],
      proposed: proposedOf(way, rule),
    });
  }
  return answer;
}

const notThere = (): never => {
  throw new AppError('notFound');
};

/** Copies of no set there, of the same id or the same name. */
async function alikeIn({ em }: SetReading, { kind, key }: CopyName, course: number, name: string) {
  const ofSets = new Set((await em.find(SetMemberRow, { kind, course })).map((m) => m.key));
  const all =
    kind === 'rule'
      ? (await em.find(RuleRow, { course, archivedAt: null })).map((r) => ({ key: r.key, name: ruleName(r) }))
      : (await em.find(WordingRow, { course })).map((w) => ({ key: w.key, name: w.name }));
  const plain = (text: string) => text.trim().toLowerCase();
  return all.filter((a) => !ofSets.has(a.key) && (a.key === key || plain(a.name) === plain(name)));
}

/** One’s other courses that an account works in. */
export const worksIn = (reading: SetReading, account: number, course: number): Promise<boolean> =>
  mayIn(reading.em, account, course, 'course.read');
export const isKind = (kind: string): kind is SetKind => kind === 'rule' || kind === 'wording';
