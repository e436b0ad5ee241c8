import { PARTICIPATION } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceParticipation = absence({
  name: 'daysSinceParticipation',
  mergeField: 'student.days_since_participation',
  presence: 'participation',
  mask: PARTICIPATION,
  what: 'participation',
  verb: 'taken part',
  noun: 'participation',
  phrases: ['inactive [for] {n:days}', 'not active for|in [last] {n:days}', 'no participation for|in [last] {n:days}'],
  title: 'Days since they last took part',
  label: 'days since last taking part',
});
