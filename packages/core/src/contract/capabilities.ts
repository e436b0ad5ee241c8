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

export const ACCESS_ROLES = ['instructor', 'assistant'] as const;
export type AccessRole = (typeof ACCESS_ROLES)[number];

/** An assistant helps and decides nothing that reaches students by itself. */
const MAY: Readonly<Record<AccessRole, ReadonlySet<Capability>>> = {
  instructor: new Set(CAPABILITIES),
  assistant: new Set<Capability>(['course.read', 'counts.read', 'drafts.write']),
};

export const may = (role: AccessRole, capability: Capability): boolean => MAY[role].has(capability);
