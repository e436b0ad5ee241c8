import { VISITS } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceVisit = absence({
  name: 'daysSinceVisit',
  mergeField: 'student.days_since_visit',
  presence: 'visits',
  mask: VISITS,
  what: 'visit',
  verb: 'visited the course',
  title: 'Days since the last visit',
  label: 'days since last visit',
});
