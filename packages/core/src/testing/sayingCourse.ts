/** A course with titles of many kinds, for tests of rules that are typed. */
import type { Course } from '../course/course.ts';
import { courseOf, item, person } from './build.ts';

export const SAYING_COURSE: Course = {
  ...courseOf({
    people: [
      person('p1', {
        firstName: 'Ada',
        lastName: 'Lind',
        section: '01',
        fields: { Advisor: 'Okafor', 'Credits earned': '45' },
      }),
      person('p2', { firstName: 'Imani', lastName: 'Okoro', section: '02' }),
      person('p3', {
        firstName: 'Ben',
        lastName: 'Sato',
        section: 'Evening',
        contacts: [
          { kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' },
          { kind: 'coach', name: 'C. Reyes', email: 'reyes@saltmarsh.example' },
        ],
      }),
    ],
    items: [
      item('syllabus', { title: 'Syllabus walk-through', kind: 'page', points: null }),
      item('reading', { title: 'Reading: tides, currents, and wind', kind: 'page', points: null, group: 'Readings' }),
      item('q1', { title: 'Quiz 1', group: 'Quizzes', points: 20 }),
      item('q2', { title: 'Quiz 2', group: 'Quizzes', points: 100 }),
      item('q12', { title: 'Quiz 12', group: 'Quizzes', points: 20 }),
      item('e1', { title: 'Essay 1', kind: 'assignment', group: 'Essays', points: 100 }),
      item('e2', { title: 'Essay 2', kind: 'assignment', group: 'Essays', points: 100 }),
      item('l1', { title: 'Chart lab 1', kind: 'assignment', group: 'Chart labs', points: 50 }),
      item('l2', { title: 'Chart lab 2', kind: 'assignment', group: 'Chart labs', points: 50 }),
      item('intro', { title: 'Introduce yourself', kind: 'forum', group: 'Discussions', points: null }),
      item('wk3', { title: 'Week 3 discussion', kind: 'forum', group: 'Discussions', points: 10 }),
      item('drill', { title: 'Tide drill', kind: 'practice', points: null }),
      item('class1', { title: 'Class, Sep 14', kind: 'session', points: null }),
    ],
  }),
  marks: { mastery: 80, passing: 60 },
};
