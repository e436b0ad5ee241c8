import { SIGN_IN_EVIDENCE } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceSignIn = absence({
  name: 'daysSinceSignIn',
  mergeField: 'student.days_since_sign_in',
  presence: 'signIns',
  mask: SIGN_IN_EVIDENCE,
  what: 'signIn',
  verb: 'signed in',
  noun: 'sign-in',
  phrases: [
    'no sign-in for|in [last] {n:days}',
    'no sign-ins for|in [last] {n:days}',
    'not signed in for|in [last] {n:days}',
    'not logged in for|in [last] {n:days}',
  ],
  title: 'Days since the last sign-in',
  label: 'days since last sign-in',
});
