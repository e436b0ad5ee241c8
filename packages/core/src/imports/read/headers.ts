/** What the columns of a file mean, from their headers: the scenario format's own names always, and the words people use. */

import { isZone, zoneOf, type Zone } from '../../time/zone.ts';

/** Kinds of files that are tables of rows with columns that need a meaning. */
export const TABLE_KINDS = ['roster', 'items', 'gradebook', 'activity', 'attendance', 'columns', 'lastSeen'] as const;
export type TableKind = (typeof TABLE_KINDS)[number];

export const IMPORT_KINDS = [...TABLE_KINDS, 'oneroster', 'xapi', 'calendar', 'scenario'] as const;
export type ImportKind = (typeof IMPORT_KINDS)[number];

export const isTableKind = (kind: ImportKind): kind is TableKind => (TABLE_KINDS as readonly string[]).includes(kind);

/** A field of the scenario format; `name` is a whole name, `contact KIND` and `contact KIND email` name contacts. */
export type FieldName = string;

/** Of a person. */
const ID_WORDS = [
  'idnumber',
  'idno',
  'studentno',
  'number',
  'login',
  'usernames',
  'netid',
  'studentids',
  'userlogin',
  'sisloginid',
];

/** Words people use, as they are compared: small letters and digits alone. */
const WORDS: Readonly<Record<string, readonly string[]>> = {
  id: [
    'id',
    'studentid',
    'userid',
    'personid',
    'sisid',
    'sisuserid',
    'studentnumber',
    'loginid',
    'username',
    'orgdefinedid',
    ...ID_WORDS,
  ],
  firstName: ['firstname', 'first', 'givenname', 'forename', 'givennames', 'preferredname', 'preferredfirstname'],
  lastName: ['lastname', 'last', 'familyname', 'surname', 'secondname'],
  name: ['name', 'fullname', 'student', 'studentname', 'displayname', 'learner', 'sortablename', 'who'],
  email: ['email', 'emailaddress', 'mail', 'emailaddr', 'emails'],
  role: ['role', 'courserole', 'enrollmenttype'],
  section: ['section', 'sectionname', 'class', 'sectionnumber', 'sec', 'period', 'sections'],
  active: ['active', 'status', 'enrollmentstatus'],
  enrolledAt: ['enrolledat', 'enrolled', 'enrollmentdate', 'dateadded', 'startdate', 'enrolledon'],
  title: ['title', 'itemname', 'assignmentname', 'activityname'],
  kind: ['kind', 'type', 'category', 'eventtype', 'action', 'verb', 'event', 'what'],
  group: ['group', 'gradecategory', 'assignmentgroup', 'module'],
  points: ['points', 'score', 'grade', 'pointspossible', 'maxpoints', 'outof'],
  opensAt: ['opensat', 'opens', 'availablefrom', 'opendate', 'unlockat', 'available'],
  dueAt: ['dueat', 'due', 'duedate', 'deadline'],
  person: [
    'person',
    'studentid',
    'userid',
    'personid',
    'id',
    'sisid',
    'sisuserid',
    'studentnumber',
    'loginid',
    'username',
    'orgdefinedid',
    'user',
    ...ID_WORDS,
  ],
  eventId: ['eventid', 'id', 'recordid', 'activityid'],
  url: ['url', 'link', 'pageaddress', 'webaddress'],
  topics: ['topics', 'topic', 'tags'],
  item: [
    'item',
    'itemid',
    'where',
    'assignment',
    'quiz',
    'session',
    'resource',
    'content',
    'page',
    'activity',
    'assignmentid',
  ],
  at: ['at', 'time', 'timestamp', 'date', 'datetime', 'when', 'submittedat', 'gradedat', 'occurredat', 'created'],
  criterion: ['criterion', 'rubriccriterion', 'rubricrow'],
  status: ['status', 'attendance', 'attendancestatus', 'mark', 'present'],
};

/** The fields that each kind has, those by which it is told from the others first. */
export const FIELDS: Readonly<Record<TableKind, readonly FieldName[]>> = {
  roster: ['id', 'firstName', 'lastName', 'name', 'email', 'role', 'section', 'active', 'enrolledAt'],
  items: ['id', 'title', 'kind', 'group', 'points', 'opensAt', 'dueAt', 'url', 'topics'],
  gradebook: ['person', 'name', 'firstName', 'lastName', 'email', 'item', 'criterion', 'points', 'at', 'eventId'],
  activity: ['person', 'name', 'firstName', 'lastName', 'email', 'kind', 'item', 'at', 'eventId'],
  attendance: ['person', 'name', 'firstName', 'lastName', 'email', 'item', 'status', 'at'],
  columns: ['person', 'name', 'firstName', 'lastName', 'email'],
  lastSeen: ['person', 'name', 'firstName', 'lastName', 'email'],
};

/** Longer headers name no field. */
const LONGEST_HEADER = 64;

/** The fields of a person, in sheets of one row a person. */
export const PEOPLE_FIELDS: readonly FieldName[] = FIELDS.roster;

const plainOf = (header: string): string =>
  header.length > LONGEST_HEADER ? '' : header.toLowerCase().replace(/[^a-z0-9]/g, '');

/** What may stand before a field of a person. */
const BEFORE = /^(?:student|school|primary|legal)s?/;
const PERSON_FIELDS: ReadonlySet<FieldName> = new Set([
  ...['id', 'person', 'name', 'firstName', 'lastName', 'email', 'role', 'section', 'active', 'enrolledAt'],
]);
const CONTACT_WORD =
  /^(parent|guardian|advisor|adviser|coach|mentor|counselor|counsellor)s?(name|email|emailaddress|mail)$/;

/** “Due at (America/New_York)”: the zone that the times of a column are of; null where its header names none. */
export function zoneIn(header: string): Zone | null {
  if (header.length > LONGEST_HEADER || !header.endsWith(')')) return null;
  const name = header.slice(header.lastIndexOf('(') + 1, -1);
  return (name.includes('/') || name === 'UTC') && isZone(name) ? zoneOf(name) : null;
}

export const withoutZone = (header: string): string =>
  zoneIn(header) === null ? header : header.slice(0, header.lastIndexOf('(')).trimEnd();

/** Whether a header means a field, in the words that people use. */
function means(header: string, field: FieldName): boolean {
  const plain = plainOf(withoutZone(header));
  if (plain === '') return false;
  const words = WORDS[field]!;
  return words.includes(plain) || (PERSON_FIELDS.has(field) && words.includes(plain.replace(BEFORE, '')));
}

/** “Parent email” and “contact parent email” are an address of that contact; null for any other header. */
function contactOf(header: string): FieldName | null {
  if (header.length > LONGEST_HEADER) return null;
  if (CONTACT.test(header)) return header.toLowerCase();
  const [, kind, what] = CONTACT_WORD.exec(plainOf(header)) ?? [];
  if (kind === undefined) return null;
  const spelled = kind === 'adviser' ? 'advisor' : kind === 'counsellor' ? 'counselor' : kind;
  return what === 'name' ? `contact ${spelled}` : `contact ${spelled} email`;
}

/** A header of a person's name, id or address: the sheet has one row a person. */
export const namesPerson = (header: string): boolean =>
  ['id', 'name', 'firstName', 'lastName', 'email', 'person'].some(
    (field) => header === field || means(header.trim(), field),
  );

/** "contact advisor", "contact advisor email": as they are, whatever the kind. */
export const CONTACT = /^contact (.+?)( email)?$/i;

/** Kinds of sheets with one row a person. */
const PEOPLE_KINDS: ReadonlySet<ImportKind> = new Set<ImportKind>([
  'roster',
  'gradebook',
  'attendance',
  'columns',
  'lastSeen',
]);

/**
 * The field that each header means for a kind, or null. `told` overrides what is found; an empty text in it keeps a column as it is.
 */
export function fieldsOf(
  headers: readonly string[],
  kind: TableKind,
  told: Readonly<Record<string, FieldName>> = {},
): (FieldName | null)[] {
  const taken = new Set<FieldName>();
  const given = headers.map((header) => (Object.hasOwn(told, header) ? told[header]! : null));
  for (const field of given) if (field) taken.add(field);
  const kept = new Set(Object.keys(told).filter((header) => told[header] === ''));
  const take = (field: FieldName): FieldName | null => {
    if (taken.has(field)) return null;
    taken.add(field);
    return field;
  };
  const exact = headers.map((header, i) => {
    if (given[i]) return given[i];
    const contact = PEOPLE_KINDS.has(kind) ? contactOf(header) : null;
    if (contact) return take(contact);
    return FIELDS[kind].includes(header) ? take(header) : null;
  });
  return headers.map((header, i) => {
    if (exact[i] || kept.has(header)) return exact[i] || null;
    const field = FIELDS[kind].find((f) => !taken.has(f) && means(header, f));
    return field === undefined ? null : take(field);
  });
}

/** Tables of one row a fact, or an item, rather than a person. */
export type LongKind = 'items' | 'activity' | 'gradebook' | 'attendance';

/** The long shape that headers have, or null: then the sheet has one row a person. `isItem`: a header that is an item of the course. */
export function longKindOf(headers: readonly string[], isItem: (header: string) => boolean): LongKind | null {
  const has = (kind: TableKind, ...fields: readonly FieldName[]) => {
    const found = fieldsOf(headers, kind);
    return fields.every((f) => found.includes(f));
  };
  const hasPerson = (kind: TableKind) => ['person', 'email', 'name', 'lastName'].some((f) => has(kind, f));
  if (hasPerson('gradebook') && headers.some(isItem)) return null;
  if (has('items', 'title') && ['kind', 'dueAt', 'points'].some((f) => has('items', f))) return 'items';
  if (hasPerson('attendance') && has('attendance', 'status') && ['at', 'item'].some((f) => has('attendance', f)))
    return 'attendance';
  if (hasPerson('activity') && has('activity', 'kind', 'at')) return 'activity';
  return hasPerson('gradebook') && has('gradebook', 'item', 'points') ? 'gradebook' : null;
}

/** Whether a table that is told to be of a kind has its long shape. */
export function isLong(kind: TableKind, fields: readonly (FieldName | null)[]): kind is LongKind {
  if (kind === 'items' || kind === 'activity') return true;
  if (kind === 'gradebook') return fields.includes('item') && fields.includes('points');
  return kind === 'attendance' && fields.includes('status');
}

/** The field of a person, or the contact, that a header means; null for none. */
export const personField = (header: string): FieldName | null =>
  contactOf(header) ??
  (header === 'person'
    ? 'id'
    : (PEOPLE_FIELDS.find((f) => f === header) ?? PEOPLE_FIELDS.find((f) => means(header, f)) ?? null));
