/** What the other packages use of `exchange`. */
export * from './carry.ts';
export * from './everywhere.ts';
export * from './exports.ts';
export * from './inbox.ts';
export * from './lookout.ts';
export * from './replay.ts';
export * from './mailroom.ts';
export * from './sendings.ts';
export * from './sets.ts';
export * from './sendLog.ts';
export * from './today.ts';
export * from './trial.ts';
export * from './tray.ts';
export * from './wire.ts';
export {
  FACTORS,
  type AccessAnswer,
  type ActLine,
  type ActsAnswer,
  type AdminCourse,
  type AdminPerson,
  type Factor,
  type FactorsAnswer,
  type InstallationSettings,
  type InvitationView,
  type InvitedAnswer,
  type OpenInvitation,
  type PersonWithAccess,
  type SessionLine,
  type TokenLine,
} from './access.ts';
export type { CountsAnswer } from './counts.ts';
export type { DataPart, ErasedAnswer, StudentData } from './erasure.ts';
