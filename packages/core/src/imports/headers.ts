/** What the columns of a file mean, from their headers: the scenario format's own names always, and the words people use. */

/** Kinds of files that are tables of rows, whose columns can be told. */
export const TABLE_KINDS = ['roster', 'items', 'gradebook', 'activity', 'attendance', 'columns'] as const;
export type TableKind = (typeof TABLE_KINDS)[number];

export const IMPORT_KINDS = [...TABLE_KINDS, 'oneroster', 'xapi', 'calendar', 'scenario'] as const;
export type ImportKind = (typeof IMPORT_KINDS)[number];

export const isTableKind = (kind: ImportKind): kind is TableKind => (TABLE_KINDS as readonly string[]).includes(kind);

/** A field of the scenario format; `name` is a whole name, `contact KIND` and `contact KIND email` name contacts. */
export type FieldName = string;

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
  ],
  firstName: ['firstname', 'first', 'givenname', 'forename'],
  lastName: ['lastname', 'last', 'familyname', 'surname'],
  name: ['name', 'fullname', 'student', 'studentname', 'displayname', 'learner', 'sortablename', 'who'],
  email: ['email', 'emailaddress', 'mail', 'emailaddr'],
  role: ['role', 'courserole', 'enrollmenttype'],
  section: ['section', 'sectionname', 'class', 'sectionnumber'],
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
};

const plainOf = (header: string): string => header.toLowerCase().replace(/[^a-z0-9]/g, '');

/** "contact advisor", "contact advisor email": as they are, whatever the kind. */
export const CONTACT = /^contact (.+?)( email)?$/i;

/** Which field each header means for a kind, null for one that means none; `told` wins over what is found, and an empty text there keeps a column as it is. */
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
    if (kind === 'roster' && CONTACT.test(header)) return header.toLowerCase();
    return FIELDS[kind].includes(header) ? take(header) : null;
  });
  return headers.map((header, i) => {
    if (exact[i] || kept.has(header)) return exact[i] || null;
    const plain = plainOf(header);
    const field = FIELDS[kind].find((f) => !taken.has(f) && WORDS[f]!.includes(plain));
    return field === undefined ? null : take(field);
  });
}

/** The kind that a file's headers fit; `items` of the course make columns of a gradebook or of attendance. */
export function kindOf(headers: readonly string[], isItem: (header: string) => 'session' | 'item' | null): TableKind {
  const has = (kind: TableKind, ...fields: readonly FieldName[]) => {
    const found = fieldsOf(headers, kind);
    return fields.every((f) => found.includes(f));
  };
  const hasPerson = (kind: TableKind) =>
    has(kind, 'person') || has(kind, 'email') || has(kind, 'name') || has(kind, 'lastName');
  const named = headers.map(isItem).filter((found) => found !== null);
  if (named.length > 0 && hasPerson('gradebook')) {
    return named.every((found) => found === 'session') ? 'attendance' : 'gradebook';
  }
  if (has('items', 'title') && (has('items', 'kind') || has('items', 'dueAt') || has('items', 'points')))
    return 'items';
  if (
    hasPerson('attendance') &&
    has('attendance', 'status') &&
    (has('attendance', 'at') || has('attendance', 'item'))
  ) {
    return 'attendance';
  }
  if (hasPerson('gradebook') && headers.some(saysPoints)) return 'gradebook';
  if (hasPerson('activity') && has('activity', 'kind', 'at')) return 'activity';
  if (hasPerson('gradebook') && has('gradebook', 'item', 'points')) return 'gradebook';
  const roster = fieldsOf(headers, 'roster');
  const isRoster = ['role', 'enrolledAt', 'section', 'firstName'].some((f) => roster.includes(f));
  const isAll = has('roster', 'name') && roster.every((f) => f !== null);
  return isRoster || isAll || headers.some((h) => CONTACT.test(h)) || has('roster', 'name', 'email')
    ? 'roster'
    : 'columns';
}

/** Whether a header says points possible, as gradebooks do: "Quiz 1 (20)". */
export const saysPoints = (header: string): boolean =>
  /[([]\s*(?:max\.?\s*)?\d+(?:\.\d+)?\s*(?:points?|pts?\.?)?\s*[)\]]$/i.test(header);

/** Whether a header says something about a person that no kind needs: an item is never called so. */
export const isAboutPerson = (header: string): boolean =>
  FIELDS.roster.some((field) => WORDS[field]!.includes(plainOf(header)));
