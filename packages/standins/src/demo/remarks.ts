/** What the instructor of the demo has pinned and noted by the opening. */
import type { Instant } from '@zest-bell/core/time';
import { local } from './courses.ts';

export interface DemoNote {
  readonly student: string;
  readonly at: Instant;
  readonly text: string;
}

export interface DemoRemarks {
  readonly pins: readonly { readonly student: string; readonly at: Instant }[];
  readonly notes: readonly DemoNote[];
}

/** By the code of the course. */
export const DEMO_REMARKS: Readonly<Record<string, DemoRemarks>> = {
  'NAV 120': {
    pins: [
      { student: 'n7', at: local('2026-10-06', '14:20') },
      { student: 'n1', at: local('2026-10-12', '09:05') },
      { student: 'n18', at: local('2026-10-20', '15:10') },
    ],
    notes: [
      {
        student: 'n7',
        at: local('2026-10-06', '14:22'),
        text: 'Came to office hours. Reads the tide tables well and loses the plot when two currents meet. Try the worked fixes first.',
      },
      {
        student: 'n1',
        at: local('2026-10-12', '09:06'),
        text: 'Works nights at the harbor until the end of October. Prefers a call to an email.',
      },
      {
        student: 'n34',
        at: local('2026-09-22', '11:30'),
        text: 'Enrolled late. Agreed that the first two quizzes do not count against the grade.',
      },
    ],
  },
  'MET 115': { pins: [{ student: 'm8', at: local('2026-10-15', '13:00') }], notes: [] },
};
