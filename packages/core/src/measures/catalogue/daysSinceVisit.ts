import { VISIT_EVIDENCE } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceVisit = absence({
  name: 'daysSinceVisit',
  mergeField: 'student.days_since_visit',
  presence: 'visits',
  mask: VISIT_EVIDENCE,
  what: 'visit',
  verb: 'visited the course',
  title: 'Days since the last visit',
  label: 'days since last visit',
});
