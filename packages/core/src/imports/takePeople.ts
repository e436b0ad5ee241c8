/** A roster, and columns of one’s own. */
import { isAddress } from '../course/address.ts';
import { ROLES } from '../course/person.ts';
import { nameOf, type DraftPerson } from './draft.ts';
import { CONTACT } from './headers.ts';
import type { Outcome } from './facts.ts';
import type { Row, Take, Taking } from './row.ts';

export const takeRoster: Take = (given, others) => (row) => [takePerson(given, others, row)];

export const takeColumns: Take = (given, others) => (row) => {
  const person = given.draft.person(row.who, row.column);
  return [setFields(person, others, row) ? 'changed' : 'same'];
};

function takePerson({ draft }: Taking, others: readonly string[], row: Row): Outcome {
  const id = row.get('id');
  const email = row.get('email');
  if (email !== '' && !isAddress(email)) {
    row.refuse('email', 'address', `“${email}” is not an email address. Type one such as ada@college.example`);
  }
  const known =
    (id === '' ? undefined : draft.personById(id)) ?? (email === '' ? undefined : draft.personByEmail(email));
  const name = nameOf(row.who);
  if (!known && id === '' && email === '') row.refuse('id', 'noId', 'This row has neither an id nor an address');
  if (!known && !name) row.refuse('name', 'noName', 'This row has no name');
  const before = known && JSON.stringify(known);
  const person: DraftPerson = known ?? {
    id: id || email.toLowerCase(),
    firstName: '',
    lastName: '',
    role: 'student',
    enrolledAt: draft.write(draft.zone.toInstant(Date.parse(`${draft.json.course.start}T00:00:00Z`))),
  };
  // Read before anything is written: a row is taken whole or not at all.
  const role = row.get('role') === '' ? null : roleOf(row);
  const active = row.get('active') === '' ? null : activeOf(row);
  const enrolledAt = row.instant('enrolledAt', draft);
  const contacts = contactsOf(row);
  if (name) Object.assign(person, name);
  if (email !== '') person.email = email;
  if (role !== null) person.role = role;
  if (row.get('section') !== '') person.section = row.get('section');
  if (active !== null) person.active = active;
  if (enrolledAt !== null) person.enrolledAt = draft.write(enrolledAt);
  for (const contact of contacts) {
    const rest = (person.contacts ?? []).filter((c) => c.kind !== contact.kind);
    person.contacts = [...rest, contact];
  }
  setFields(person, others, row);
  draft.named.add(person.id);
  if (!known) draft.json.people.push(person);
  if (JSON.stringify(person) === before) return 'same';
  draft.changed();
  return known ? 'changed' : 'new';
}

const ROLE_WORDS: Readonly<Record<string, string>> = {
  learner: 'student',
  teacher: 'instructor',
  faculty: 'instructor',
  ta: 'assistant',
  'teaching assistant': 'assistant',
  auditor: 'observer',
};

function roleOf(row: Row): string {
  const text = row.get('role').toLowerCase();
  const role = ROLES.find((r) => r === text) ?? (Object.hasOwn(ROLE_WORDS, text) ? ROLE_WORDS[text] : undefined);
  return role ?? row.refuse('role', 'role', `“${row.get('role')}” is no role. Use ${ROLES.join(', ')}`);
}

function activeOf(row: Row): boolean {
  const text = row.get('active').toLowerCase();
  if (['true', 'yes', 'y', '1', 'active', 'enrolled'].includes(text)) return true;
  if (['false', 'no', 'n', '0', 'inactive', 'dropped', 'withdrawn'].includes(text)) return false;
  return row.refuse('active', 'yesNo', `“${row.get('active')}” is neither yes nor no`);
}

function contactsOf(row: Row): { kind: string; name: string; email: string }[] {
  const kinds = new Map<string, { name: string; email: string }>();
  for (const field of row.layout.places.keys()) {
    const cell = row.get(field);
    const [, kind, isEmail] = CONTACT.exec(field) ?? [];
    if (kind === undefined || cell === '') continue;
    const contact = kinds.get(kind) ?? { name: '', email: '' };
    kinds.set(kind, isEmail ? { ...contact, email: cell } : { ...contact, name: cell });
  }
  return [...kinds].flatMap(([kind, contact]) => (contact.email === '' ? [] : [{ kind, ...contact }]));
}

/** Own columns, blank ones too where there was something before. Returns whether anything changed. */
function setFields(person: DraftPerson, columns: readonly string[], row: Row): boolean {
  let changed = false;
  for (const column of columns) {
    const value = row.get(column);
    if ((person.fields?.[column] ?? '') === value) continue;
    person.fields = { ...person.fields, [column]: value };
    changed = true;
  }
  return changed;
}
