/** What the columns of a file mean, from their headers: the scenario format's own names always, and the words people use. */

export const IMPORT_KINDS = ['roster', 'items', 'gradebook', 'activity', 'attendance', 'columns'] as const;
export type ImportKind = (typeof IMPORT_KINDS)[number];

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
  name: ['name', 'fullname', 'student', 'studentname', 'displayname'],
  email: ['email', 'emailaddress', 'mail', 'emailaddr'],
  role: ['role', 'courserole', 'enrollmenttype'],
  section: ['section', 'sectionname', 'class', 'sectionnumber'],
  active: ['active', 'status', 'enrollmentstatus'],
  enrolledAt: ['enrolledat', 'enrolled', 'enrollmentdate', 'dateadded', 'startdate', 'enrolledon'],
  title: ['title', 'itemname', 'assignmentname', 'activityname'],
  kind: ['kind', 'type', 'category', 'eventtype', 'action', 'verb', 'event'],
  group: ['group', 'gradecategory', 'assignmentgroup', 'module'],
  points: ['points', 'score', 'grade', 'pointspossible', 'maxpoints', 'outof'],
  opensAt: ['opensat', 'opens', 'availablefrom', 'opendate', 'unlockat', 'available'],
  dueAt: ['dueat', 'due', 'duedate', 'deadline'],
  person: ['person', 'studentid', 'userid', 'personid', 'user', 'id', 'student', 'loginid', 'username'],
  item: ['item', 'itemid', 'assignment', 'quiz', 'session', 'resource', 'content', 'page', 'activity', 'assignmentid'],
  at: ['at', 'time', 'timestamp', 'date', 'datetime', 'when', 'submittedat', 'gradedat', 'occurredat', 'created'],
  criterion: ['criterion', 'rubriccriterion', 'rubricrow'],
  status: ['status', 'attendance', 'attendancestatus', 'mark', 'present'],
};

/** The fields that each kind has, those by which it is told from the others first. */
const FIELDS: Readonly<Record<ImportKind, readonly FieldName[]>> = {
  roster: ['id', 'firstName', 'lastName', 'name', 'email', 'role', 'section', 'active', 'enrolledAt'],
  items: ['id', 'title', 'kind', 'group', 'points', 'opensAt', 'dueAt'],
  gradebook: ['person', 'name', 'firstName', 'lastName', 'email', 'item', 'criterion', 'points', 'at'],
  activity: ['person', 'name', 'email', 'kind', 'item', 'at'],
  attendance: ['person', 'name', 'firstName', 'lastName', 'email', 'item', 'status', 'at'],
  columns: ['person', 'name', 'firstName', 'lastName', 'email'],
};

const plainOf = (header: string): string => header.toLowerCase().replace(/[^a-z0-9]/g, '');

/** "contact advisor", "contact advisor email": as they are, whatever the kind. */
export const CONTACT = /^contact (.+?)( email)?$/i;

/** Which field each header means for a kind, null for one that means none; `told` wins over what is found. */
export function fieldsOf(
  headers: readonly string[],
  kind: ImportKind,
  told: Readonly<Record<string, FieldName>> = {},
): (FieldName | null)[] {
  const taken = new Set<FieldName>();
  const given = headers.map((header) => told[header] ?? null);
  for (const field of given) if (field) taken.add(field);
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
    if (exact[i]) return exact[i];
    const plain = plainOf(header);
    const field = FIELDS[kind].find((f) => WORDS[f]!.includes(plain));
    return field === undefined ? null : take(field);
  });
}

/** The kind that a file's headers fit; `items` of the course make columns of a gradebook or of attendance. */
export function kindOf(headers: readonly string[], isItem: (header: string) => 'session' | 'item' | null): ImportKind {
  const has = (kind: ImportKind, ...fields: readonly FieldName[]) => {
    const found = fieldsOf(headers, kind);
    return fields.every((f) => found.includes(f));
  };
  const hasPerson = (kind: ImportKind) =>
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
  if (hasPerson('activity') && has('activity', 'kind', 'at')) return 'activity';
  if (hasPerson('gradebook') && has('gradebook', 'item', 'points')) return 'gradebook';
  const roster = fieldsOf(headers, 'roster');
  const isRoster = ['role', 'enrolledAt', 'section', 'firstName'].some((f) => roster.includes(f));
  return isRoster || headers.some((h) => CONTACT.test(h)) || has('roster', 'name', 'email') ? 'roster' : 'columns';
}
