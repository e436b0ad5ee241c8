/** Saltmarsh College: what the demo puts on stage. */
import type { SenderSettings } from '@zest-bell/core/course';
import type { Wording } from '@zest-bell/core/wording';
import { local, MET_115, MET_SPRING, NAV_120, type DemoCourse } from './courses.ts';
import { INSTRUCTOR } from './people.ts';
import { MET_RULES, MET_SENDER, MET_WORDINGS, NAV_RULES, NAV_SENDER, NAV_WORDINGS } from './rules.ts';

export { UNCONNECTED, unconnectedGrades } from './courses.ts';

export interface PlayedCourse extends DemoCourse {
  readonly sender: SenderSettings;
  readonly rules: readonly object[];
  readonly wordings: readonly Wording[];
}

export const SEED = 'saltmarsh-5';

/** The curtain rises here; what came before is played through by the engine itself. */
export const OPENING = local('2026-10-26', '08:02');
/** When the instructor set it all up. */
export const SET_UP_AT = local('2026-08-31', '00:00');

export const DEMO_COURSES: readonly PlayedCourse[] = [
  { ...NAV_120, sender: NAV_SENDER, rules: NAV_RULES, wordings: NAV_WORDINGS },
  { ...MET_115, sender: MET_SENDER, rules: MET_RULES, wordings: MET_WORDINGS },
];

/** The term to come: nothing has happened in it, and no rule is there yet. */
export const NEXT_TERM = { parts: MET_SPRING, sender: MET_SENDER } as const;

export const DEMO_INSTRUCTOR = {
  name: `Dr. ${INSTRUCTOR.firstName} ${INSTRUCTOR.lastName}`,
  email: INSTRUCTOR.email,
} as const;

/** One of the colleagues signs with her own name. */
export const DEMO_OWN_SENDER = {
  email: 'p.adeyemi@saltmarsh.example',
  sender: {
    name: 'Dr. Peju Adeyemi',
    address: 'p.adeyemi@saltmarsh.example',
    replyTo: 'p.adeyemi@saltmarsh.example',
    signature: 'Peju Adeyemi\nChart room, Harbor Hall 12',
    officeHours: 'Tuesdays, 2 to 4 in the chart room',
    bookingUrl: '',
  },
} as const;

/** Who else has a part in the first course. */
export const DEMO_COLLEAGUES = [
  { name: 'Dr. Peju Adeyemi', email: 'p.adeyemi@saltmarsh.example', role: 'co-instructor' },
  { name: 'Ilya Benedek', email: 'i.benedek@saltmarsh.example', role: 'assistant' },
  { name: 'Constance Dean', email: 'c.dean@saltmarsh.example', role: 'observer' },
] as const;

/** What both of the fall’s courses have: each had written its own, and then joined them. */
export const SHARED = { rule: 'quiet', wording: 'gentle' } as const;
