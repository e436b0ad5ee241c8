/** What roles and capabilities are called. */
import type { AccessRole, Capability } from '@zest-bell/core/access';

export const ROLE_WORDS: Readonly<Record<AccessRole, { readonly name: string; readonly about: string }>> = {
  owner: { name: 'Owner', about: 'May do everything, and manages who has access.' },
  'co-instructor': { name: 'Co-instructor', about: 'Teaches with you: runs rules, writes to students, changes data.' },
  assistant: {
    name: 'Assistant',
    about: 'Sees students and drafts rules and texts. Nothing they draft reaches students.',
  },
  observer: { name: 'Observer', about: 'Sees counts and trends. No student, no address, no text.' },
};

export const CAPABILITY_WORDS: Readonly<Record<Capability, string>> = {
  'course.read': 'Read students, rules, texts and the send log',
  'counts.read': 'Read counts without names',
  'drafts.write': 'Draft rules and wordings, save views and pins',
  'rules.run': 'Turn rules on and off, and run them',
  'nudges.decide': 'Decide in the Tray, write to students, answer',
  'data.write': 'Send activity and grades, change people and items',
  'settings.write': 'Change limits and sender, stop mail, archive',
  'access.write': 'Manage who has access',
  'data.erase': 'Erase a student’s data',
  'tokens.write': 'Make tokens',
};
