/** Facts that files bring, against what is known already: what is there is the same, however often and in whatever order it is told. */
import { actCode } from '../../activity/actCode.ts';
import {
  kindMask,
  SIGN_IN_EVIDENCE,
  VISIT_EVIDENCE,
  type ActivityEvent,
  type EventKind,
  type LastSeenKind,
  type Grade,
} from '../../activity/event.ts';
import type { History } from '../../activity/history.ts';
import type { Instant } from '../../time/instant.ts';
import { EventList, type EventFromFile } from './eventList.ts';
import { RefusedRow } from '../read/refused.ts';

export interface GradeFromFile extends Grade {
  readonly id?: string;
}

/** What is known of a course, for comparison with files. */
export interface KnownFacts {
  hasEvent(event: ActivityEvent): boolean;
  /** The latest mark of attendance at a session. */
  mark(person: string, item: string): ActivityEvent | null;
  /** Whether somebody did something that shows a visit, or a sign-in, between two instants, both included. */
  hasPresence(person: string, as: LastSeenKind, from: Instant, to: Instant): boolean;
  /** The grade in force at an instant. */
  gradeAt(person: string, item: string, criterion: string | null, at: Instant): Grade | null;
  /** Keys of facts that were taken back: telling them again changes nothing. */
  readonly retracted?: ReadonlySet<string>;
}

/** The same fact told twice has the same key. */
export const eventKey = (e: ActivityEvent): string => `${e.person}\n${e.kind}\n${e.item ?? ''}\n${e.at}`;
export const gradeKey = (g: Grade): string => `${g.person}\n${g.item}\n${g.criterion ?? ''}\n${g.at}\n${g.points}`;

export type Outcome = 'new' | 'changed' | 'same';

/** Facts as they are taken from files: what is new, and what no longer counts because a file corrects it. */
export class FactBook {
  readonly events = new EventList();
  readonly grades: GradeFromFile[] = [];
  /** Facts that were known before and are taken back. */
  readonly retractedEvents: ActivityEvent[] = [];
  readonly retractedGrades: Grade[] = [];
  /** Points that changed, from what to what; null for none before. */
  readonly gradeChanges: { readonly grade: Grade; readonly from: number | null }[] = [];
  /** Grades that were known before and that the file gives again. */
  readonly gradesAgain: Grade[] = [];
  private readonly known: KnownFacts;
  private readonly latest: Instant;
  /** What was taken, by person, as far as it was asked about. */
  private presence = new Map<string, EventFromFile[]>();
  private presenceRead = 0;
  private readonly gone = new Set<string>();
  private readonly marks = new Map<string, ActivityEvent>();
  private readonly addedGrades = new Map<string, GradeFromFile[]>();

  constructor(known: KnownFacts, latest: Instant) {
    this.known = known;
    this.latest = latest;
  }

  private has(event: ActivityEvent): boolean {
    return this.events.has(event) || (this.known.hasEvent(event) && !this.gone.has(eventKey(event)));
  }

  private mustHaveHappened(at: Instant): void {
    if (at > this.latest) throw new RefusedRow('at', 'future', 'This lies in the future');
  }

  addEvent(event: EventFromFile): Outcome {
    this.mustHaveHappened(event.at);
    if (this.known.hasEvent(event) && !this.gone.has(eventKey(event))) return 'same';
    const { retracted } = this.known;
    if (retracted && retracted.size > 0 && retracted.has(eventKey(event))) return 'same';
    return this.events.add(event) ? 'new' : 'same';
  }

  /** Whether somebody was there between two instants, as far as is known or was taken. */
  hasPresence(person: string, as: LastSeenKind, from: Instant, to: Instant): boolean {
    if (this.known.hasPresence(person, as, from, to)) return true;
    for (; this.presenceRead < this.events.places; this.presenceRead++) {
      const event = this.events.at(this.presenceRead);
      if (!event) continue;
      const own = this.presence.get(event.person);
      if (own) own.push(event);
      else this.presence.set(event.person, [event]);
    }
    return (this.presence.get(person) ?? []).some(
      (e) => e.at >= from && e.at <= to && (kindMask(e.kind) & MASKS[as]) !== 0,
    );
  }

  /** Takes an event back. `same`: it was never there. */
  removeEvent(event: ActivityEvent): Outcome {
    if (!this.has(event)) return 'same';
    if (this.events.remove(event)) {
      this.presence = new Map();
      this.presenceRead = 0;
    } else {
      this.gone.add(eventKey(event));
      this.retractedEvents.push(event);
    }
    return 'changed';
  }

  /** One mark a session: another one takes the place of the one before. */
  setMark(event: EventFromFile): Outcome {
    this.mustHaveHappened(event.at);
    const key = `${event.person}\n${event.item!}`;
    const before = this.marks.get(key) ?? this.known.mark(event.person, event.item!);
    if (before?.kind === event.kind) return 'same';
    if (before) this.removeEvent(before);
    this.marks.set(key, event);
    this.addEvent(event);
    return before ? 'changed' : 'new';
  }

  /** Takes a mark back, whenever it was given. `same`: the latest is different, or absent. */
  removeMark(event: ActivityEvent): Outcome {
    const before = this.marks.get(`${event.person}\n${event.item!}`) ?? this.known.mark(event.person, event.item!);
    return before?.kind === event.kind ? this.removeEvent(before) : 'same';
  }

  gradeInForce(grade: Grade): Grade | null {
    const added = this.addedGrades.get(seriesOf(grade)) ?? [];
    let latest = this.known.gradeAt(grade.person, grade.item, grade.criterion, grade.at);
    if (latest && this.gone.has(gradeKey(latest))) latest = null;
    for (const g of added) if (g.at <= grade.at && (!latest || g.at >= latest.at)) latest = g;
    return latest;
  }

  /** Points that are in force already are the same. */
  addGrade(grade: GradeFromFile): Outcome {
    this.mustHaveHappened(grade.at);
    if (this.known.retracted?.has(gradeKey(grade))) return 'same';
    const before = this.gradeInForce(grade);
    if (before?.points === grade.points) {
      if (!this.addedGrades.get(seriesOf(grade))?.includes(before)) this.gradesAgain.push(before);
      return 'same';
    }
    const series = this.addedGrades.get(seriesOf(grade));
    if (series) series.push(grade);
    else this.addedGrades.set(seriesOf(grade), [grade]);
    this.grades.push(grade);
    this.gradeChanges.push({ grade, from: before?.points ?? null });
    return before ? 'changed' : 'new';
  }

  /** Takes the grade back that is in force at the instant, if its points are these. `same`: there is no such grade. */
  removeGrade(grade: Grade): Outcome {
    const found = this.gradeInForce(grade);
    if (!found || found.points !== grade.points) return 'same';
    const added = this.addedGrades.get(seriesOf(grade))?.find((g) => g === found);
    if (added) return this.forgetGrade(added);
    this.gone.add(gradeKey(found));
    this.retractedGrades.push(found);
    return 'changed';
  }

  /** A grade that this file brought and then takes back. */
  private forgetGrade(added: GradeFromFile): Outcome {
    const series = seriesOf(added);
    this.addedGrades.set(
      series,
      this.addedGrades.get(series)!.filter((g) => g !== added),
    );
    this.grades.splice(this.grades.indexOf(added), 1);
    this.gradeChanges.splice(
      this.gradeChanges.findIndex((c) => c.grade === added),
      1,
    );
    return 'changed';
  }
}

const seriesOf = (g: Pick<Grade, 'person' | 'item' | 'criterion'>): string =>
  `${g.person}\n${g.item}\n${g.criterion ?? ''}`;

const MASKS = { lastVisit: VISIT_EVIDENCE, lastSignIn: SIGN_IN_EVIDENCE } as const;

const isMark = (kind: EventKind): boolean => kind === 'attend' || kind === 'absent';

/** Facts in lists, as scenario files have them. */
export function knownFrom(events: readonly ActivityEvent[], grades: readonly Grade[]): KnownFacts {
  const keys = new Set<string>();
  const byPerson = new Map<string, ActivityEvent[]>();
  const marks = new Map<string, ActivityEvent>();
  for (const event of events) {
    keys.add(eventKey(event));
    const own = byPerson.get(event.person);
    if (own) own.push(event);
    else byPerson.set(event.person, [event]);
    const key = `${event.person}\n${event.item ?? ''}`;
    if (isMark(event.kind) && (marks.get(key)?.at ?? -Infinity) <= event.at) marks.set(key, event);
  }
  const series = new Map<string, Grade[]>();
  for (const grade of grades) {
    const known = series.get(seriesOf(grade));
    if (known) known.push(grade);
    else series.set(seriesOf(grade), [grade]);
  }
  return {
    hasEvent: (event) => keys.has(eventKey(event)),
    hasPresence: (person, as, from, to) =>
      (byPerson.get(person) ?? []).some((e) => e.at >= from && e.at <= to && (kindMask(e.kind) & MASKS[as]) !== 0),
    mark: (person, item) => marks.get(`${person}\n${item}`) ?? null,
    gradeAt: (person, item, criterion, at) => {
      let latest: Grade | null = null;
      for (const g of series.get(seriesOf({ person, item, criterion })) ?? [])
        if (g.at <= at && (!latest || g.at >= latest.at)) latest = g;
      return latest;
    },
  };
}

/** Facts of a course's history in memory; nobody and nothing is added to it by asking. */
export function knownOf(history: History): KnownFacts {
  const logOf = (person: string) => {
    const key = history.personKeys.find(person);
    return key === null ? undefined : history.people[key];
  };
  return {
    hasEvent: ({ person, kind, item, at }) => {
      const itemKey = item === null ? -1 : history.itemKeys.find(item);
      return itemKey !== null && (logOf(person)?.has(at, actCode(kind, itemKey)) ?? false);
    },
    hasPresence: (person, as, from, to) =>
      logOf(person)
        ?.instants(MASKS[as])
        .some((at) => at >= from && at <= to) ?? false,
    mark: (person, item) => {
      const itemKey = history.itemKeys.find(item);
      const log = logOf(person);
      if (itemKey === null || !log) return null;
      const attended = log.instants(kindMask('attend'), itemKey).at(-1) ?? -Infinity;
      const absent = log.instants(kindMask('absent'), itemKey).at(-1) ?? -Infinity;
      if (attended === -Infinity && absent === -Infinity) return null;
      const kind = attended > absent ? 'attend' : 'absent';
      return { person, kind, item, at: Math.max(attended, absent) };
    },
    gradeAt: (person, item, criterion, at) => {
      const itemKey = history.itemKeys.find(item);
      const found = logOf(person)?.grades.findLast(
        (g) => g.at <= at && g.item === itemKey && g.criterion === criterion,
      );
      return found ? { person, item, criterion, points: found.points, at: found.at } : null;
    },
  };
}
