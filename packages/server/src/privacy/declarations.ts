/** What each table holds, in the order in which a student is erased: what shows who they are elsewhere goes last. */
import * as access from '../access/entity.ts';
import * as activity from '../course/activity/entity.ts';
import * as byHand from '../mail/byHand/entity.ts';
import * as carry from '../rules/carried.ts';
import * as changes from '../intake/changes/entity.ts';
import * as connections from '../connections/entity.ts';
import * as course from '../course/entity.ts';
import * as directory from '../access/directory/entity.ts';
import { reasonHolds } from '../course/reasons.ts';
import * as shelf from '../terms/shelf/entity.ts';
import { erasedHolds } from '../course/erased.ts';
import * as exports from '../desk/exports/entity.ts';
import { fileHolds } from '../wording/files/entity.ts';
import { hitsHolds } from '../platform/http/entity.ts';
import * as imports from '../intake/changes/importRow.ts';
import { leaseHolds } from '../platform/work/entity.ts';
import { attemptHolds } from '../mail/nudges/attempt.ts';
import * as lti from '../connections/lti/entity.ts';
import * as notes from '../desk/notes/entity.ts';
import { noticeHolds } from '../platform/notices/entity.ts';
import * as nudges from '../mail/nudges/entity.ts';
import * as outbox from '../mail/outbox/entity.ts';
import { plainMailHolds } from '../mail/plainMail/entity.ts';
import type { Holds } from '../platform/database/holds.ts';
import * as replies from '../mail/replies/entity.ts';
import * as rounds from '../rounds/deciding/entity.ts';
import * as rules from '../rules/entity.ts';
import { sendingHolds } from '../mail/sendings/entity.ts';
import * as sets from '../rules/sets/entity.ts';
import { statementHolds } from '../intake/statements/entity.ts';
import * as trials from '../wording/trials/entity.ts';
import { viewHolds } from '../desk/lookout/entity.ts';
import { wordingHolds } from '../wording/entity.ts';

export const declarations: readonly Holds[] = [
  activity.eventHolds,
  activity.gradeHolds,
  activity.retractedHolds,
  activity.segmentHolds,
  statementHolds,
  attemptHolds,
  nudges.messageHolds,
  plainMailHolds,
  replies.replyHolds,
  nudges.nudgeHolds,
  nudges.refusalHolds,
  trials.trialDrawHolds,
  trials.trialCourseHolds,
  trials.trialHolds,
  notes.pinHolds,
  notes.noteHolds,
  course.asideHolds,
  changes.changeHolds,
  imports.importBytesHolds,
  imports.importHolds,
  imports.importMemoryHolds,
  byHand.mailingHolds,
  byHand.sheetHolds,
  sendingHolds,
  course.itemHolds,
  rules.ruleVersionHolds,
  rules.ruleHolds,
  rounds.roundHolds,
  rounds.troubleHolds,
  reasonHolds,
  wordingHolds,
  fileHolds,
  sets.setVersionHolds,
  sets.setMemberHolds,
  sets.setHolds,
  sets.courseMatchHolds,
  carry.carryHolds,
  carry.rulesFileHolds,
  viewHolds,
  exports.exportHolds,
  exports.feedHolds,
  exports.feedEntryHolds,
  outbox.mailTroubleHolds,
  outbox.workerHolds,
  replies.mailboxHolds,
  access.accessHolds,
  access.courseAccessHolds,
  access.tokenHolds,
  access.linkHolds,
  access.actHolds,
  access.accountHolds,
  access.provenAddressHolds,
  access.addressCodeHolds,
  access.recoveryHolds,
  access.passkeyHolds,
  access.sessionHolds,
  access.signInTryHolds,
  access.knownPairHolds,
  access.installationHolds,
  directory.directoryHolds,
  directory.directoryAccountHolds,
  directory.joinedAccountHolds,
  shelf.shelfVersionHolds,
  shelf.shelfItemHolds,
  shelf.shelfCopyHolds,
  lti.platformHolds,
  lti.registrationCodeHolds,
  lti.toolKeyHolds,
  lti.nonceHolds,
  lti.launchCourseHolds,
  lti.launchAccountHolds,
  lti.launchPartHolds,
  lti.launchCodeHolds,
  leaseHolds,
  hitsHolds,
  noticeHolds,
  course.ownSenderHolds,
  connections.sourceHolds,
  course.personHolds,
  connections.sourceLinkHolds,
  course.courseHolds,
  erasedHolds,
];
