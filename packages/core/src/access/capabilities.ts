/** What people with access to a course may do there: a closed list, and who may what. */
export const CAPABILITIES = [
  /** Students by name, screens, the log, texts. */
  'course.read',
  /** Counts without names. */
  'counts.read',
  /** Rules and wordings as drafts, views, pins, notes of one's own. */
  'drafts.write',
  /** Rules on and off, ring now, wordings that run. */
  'rules.run',
  /** The Tray, messages by hand, merges, answers, let through. */
  'nudges.decide',
  /** Roster, items, imports, corrections, undo, feeds. */
  'data.write',
  /** Limits, sender, all mail of a course. */
  'settings.write',
  'access.write',
  'data.erase',
  'tokens.write',
] as const;
export type Capability = (typeof CAPABILITIES)[number];

export const ACCESS_ROLES = ['owner', 'co-instructor', 'assistant', 'observer'] as const;
export type AccessRole = (typeof ACCESS_ROLES)[number];

/** Those that stay with an owner, no matter who else teaches the course; no token has them either. */
export const OWNERS_ALONE = ['access.write', 'data.erase', 'tokens.write'] as const satisfies readonly Capability[];
const isOwnersAlone = (c: Capability): boolean => (OWNERS_ALONE as readonly Capability[]).includes(c);

/** What a token of a course can be given. */
export const TOKEN_CAPABILITIES = CAPABILITIES.filter((c) => !isOwnersAlone(c));

/** An assistant helps and decides nothing that reaches students on its own; an observer sees no person. */
const MAY: Readonly<Record<AccessRole, readonly Capability[]>> = {
  owner: CAPABILITIES,
  'co-instructor': TOKEN_CAPABILITIES,
  assistant: ['course.read', 'counts.read', 'drafts.write'],
  observer: ['counts.read'],
};

/** What of a course changes what its people may. */
export interface AccessTerms {
  /** Whether its assistants decide on nudges: the Tray, messages by hand, answers. */
  readonly assistantsDecide: boolean;
}

/** What a role may in a course, in the order of the list. */
export function capabilitiesOf(role: AccessRole, { assistantsDecide }: AccessTerms): readonly Capability[] {
  if (role !== 'assistant' || !assistantsDecide) return MAY[role];
  return CAPABILITIES.filter((c) => c === 'nudges.decide' || MAY.assistant.includes(c));
}
