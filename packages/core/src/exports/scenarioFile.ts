/** A whole course as a scenario file, piece by piece: what `zest replay` runs, and what decides the same again. */
import type { ActivityEvent, Grade } from '../activity/event.ts';
import type { Course } from '../course/course.ts';
import { namesOfCondition } from '../conditions/names.ts';
import type { Person } from '../course/person.ts';
import type { RecipientSpec, Rule } from '../rules/rule.ts';
import { courseProblems } from '../rules/names.ts';
import { ruleDocument } from '../rules/document.ts';
import { SCENARIO_FORMAT } from '../scenario/format.ts';
import { itemDocument } from '../scenario/write.ts';
import { formatInstant } from '../time/instant.ts';
import { madeUpName } from './madeUpNames.ts';

export interface WholeCourse {
  readonly course: Course;
  readonly rules: readonly Rule[];
  /** As they were told. */
  readonly events: Iterable<ActivityEvent> | AsyncIterable<ActivityEvent>;
  readonly grades: Iterable<Grade> | AsyncIterable<Grade>;
}

/** A file that can be read again holds no rule that names what its course lacks: those are left out. */
const rulesThatFit = (rules: readonly Rule[], course: Course): Rule[] =>
  rules.filter((rule) => courseProblems(rule, course).length === 0);

export async function* scenarioPieces({ course, rules, events, grades }: WholeCourse): AsyncGenerator<string> {
  const { code, title, timeZone, start, end, breaks, groupWeights, marks, letters = null, settings } = course;
  const zone = timeZone;
  const head = { code, title, timeZone, start, end, breaks, groupWeights, marks, letters };
  yield `{\n"format": ${JSON.stringify(SCENARIO_FORMAT)},\n"course": ${JSON.stringify(head)},\n`;
  yield `"settings": ${JSON.stringify(settings)},\n`;
  const person = (p: Person) => ({ ...p, enrolledAt: formatInstant(p.enrolledAt, zone) });
  yield* listed('people', course.people, person);
  yield* listed('items', course.items, (i) => itemDocument(i, zone));
  yield* listed('events', events, (e) => ({ ...e, at: formatInstant(e.at, zone) }));
  yield* listed('grades', grades, (g) => ({ ...g, at: formatInstant(g.at, zone) }));
  yield* listed('rules', rulesThatFit(rules, course), (rule) => ruleDocument(rule, zone), '');
  yield '}\n';
}

async function* listed<T>(
  key: string,
  all: Iterable<T> | AsyncIterable<T>,
  document: (one: T) => object,
  after = ',',
): AsyncGenerator<string> {
  yield `"${key}": [`;
  let first = true;
  for await (const one of all) {
    yield `${first ? '\n' : ',\n'}${JSON.stringify(document(one))}`;
    first = false;
  }
  yield `\n]${after}\n`;
}

/** The new id of each person of a course, by the old one. */
type NewIds = ReadonlyMap<string, string>;

/**
 * The same course with nobody's name in it: names, addresses, contacts, notes, texts and the values of columns that no condition names
 * are made up, and ids are made anew, one for each. Order, sections, instants and points stay: it decides the same.
 */
export function disguised(whole: WholeCourse): WholeCourse {
  const { course, rules } = whole;
  const width = String(course.people.length).length;
  const ids: NewIds = new Map(course.people.map((p, i) => [p.id, `p${String(i + 1).padStart(width, '0')}`]));
  const named = new Set(
    rules.flatMap((r) => namesOfCondition(r.when, '').flatMap((n) => (n.kind === 'column' ? [n.name] : []))),
  );
  const idOf = (id: string) => ids.get(id) ?? id;
  const addresses = new ConsistentAliases((n) => `reader${n}@made-up.example`);
  const people = course.people.map((p, i): Person => ({
    ...p,
    id: idOf(p.id),
    ...madeUpName(i),
    // Two people of one address stay so: limits count by the person, and mail by the address.
    email: p.email === null ? null : addresses.of(p.email.toLowerCase()),
    contacts: p.contacts.map((c, n) => ({
      ...c,
      name: `Contact ${n + 1}`,
      email: addresses.of(c.email.toLowerCase()),
    })),
    fields: Object.fromEntries(
      Object.entries(p.fields).map(([name, value]) => [
        name,
        named.has(name) ? value : typeof value === 'number' ? 0 : 'x',
      ]),
    ),
  }));
  const items = course.items.map((item) => ({
    ...item,
    url: null,
    excused: item.excused.map(idOf),
    extensions: item.extensions.map((e) => (e.person === undefined ? e : { ...e, person: idOf(e.person) })),
  }));
  const to = (spec: RecipientSpec): RecipientSpec =>
    spec.startsWith('address:') ? `address:${addresses.of(spec.slice(8).toLowerCase())}` : spec;
  const wordings = new ConsistentAliases((n) => `wording-${n}`);
  return {
    course: withPeople(course, people, items),
    rules: rules.map((rule) => ({
      ...rule,
      note: '',
      audience: { ...rule.audience, except: rule.audience.except.map(idOf) },
      steps: rule.steps.map((s) => ({ ...s, to: s.to.map(to), wording: wordings.of(s.wording) })),
    })),
    events: mapped(whole.events, (e) => ({ ...e, person: idOf(e.person) })),
    grades: mapped(whole.grades, (g) => ({ ...g, person: idOf(g.person) })),
  };
}

const withPeople = (course: Course, people: Course['people'], items: Course['items']): Course => ({
  ...course,
  people,
  items,
  personIndex: new Map(people.map((p, i) => [p.id, i])),
});

/** A made-up word for each word, the same for the same. */
class ConsistentAliases {
  private readonly known = new Map<string, string>();
  private readonly make: (n: number) => string;

  constructor(make: (n: number) => string) {
    this.make = make;
  }

  of(word: string): string {
    let made = this.known.get(word);
    if (made === undefined) this.known.set(word, (made = this.make(this.known.size + 1)));
    return made;
  }
}

async function* mapped<T>(all: Iterable<T> | AsyncIterable<T>, change: (one: T) => T): AsyncGenerator<T> {
  for await (const one of all) yield change(one);
}
