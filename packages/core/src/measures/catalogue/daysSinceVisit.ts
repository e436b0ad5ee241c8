import { VISIT_EVIDENCE } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceVisit = absence({
  name: 'daysSinceVisit',
  mergeField: 'student.days_since_visit',
  presence: 'visits',
  mask: VISIT_EVIDENCE,
  what: 'visit',
  verb: 'visited the course',
  noun: 'visit',
  phrases: [
    'away|absent|gone [for] {n:days}',
    'no visit|visits for|in [last] {n:days}',
    'not visited|seen|come [course|here|back] for|in [last] {n:days}',
    'not been [here] for|in [last] {n:days}',
  ],
  title: 'Days since the last visit',
  label: 'days since last visit',
});
