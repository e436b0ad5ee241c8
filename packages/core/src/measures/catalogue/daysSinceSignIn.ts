import { SIGN_IN_EVIDENCE } from '../../activity/event.ts';
import { absence } from './absence.ts';

export const daysSinceSignIn = absence({
  name: 'daysSinceSignIn',
  mergeField: 'student.days_since_sign_in',
  presence: 'signIns',
  mask: SIGN_IN_EVIDENCE,
  what: 'signIn',
  verb: 'signed in',
  title: 'Days since the last sign-in',
  label: 'days since last sign-in',
});
