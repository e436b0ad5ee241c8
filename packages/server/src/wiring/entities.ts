/** All entities, as the database knows them. */
import { ErasedRow } from '../course/erased.ts';
import {
  Access,
  Account,
  ActRow,
  AddressCodeRow,
  CourseAccessRow,
  InstallationRow,
  KnownPairRow,
  LinkRow,
  PasskeyRow,
  ProvenAddressRow,
  RecoveryRow,
  SessionRow,
  SignInTryRow,
  TokenRow,
} from '../access/entity.ts';
import { DirectoryAccountRow, DirectoryRow, JoinedAccountRow } from '../access/directory/entity.ts';
import { EventRow, GradeRow, RetractedRow, SegmentRow } from '../course/activity/entity.ts';
import { ChangeRow } from '../intake/changes/entity.ts';
import { AsideRow, CourseRow, ItemRow, OwnSenderRow, PersonRow } from '../course/entity.ts';
import { NoticeRow } from '../platform/notices/entity.ts';
import { LeaseRow } from '../platform/work/entity.ts';
import { HitsRow } from '../platform/http/entity.ts';
import { FileRow } from '../wording/files/entity.ts';
import { ImportBytesRow, ImportMemoryRow, ImportRow } from '../intake/changes/importRow.ts';
import { MailingRow, SheetRow } from '../mail/byHand/entity.ts';
import { ViewRow } from '../desk/lookout/entity.ts';
import { NoteRow, PinRow } from '../desk/notes/entity.ts';
import { PlainMailRow } from '../mail/plainMail/entity.ts';
import { MessageRow, NudgeRow, RefusalRow } from '../mail/nudges/entity.ts';
import { MailTroubleRow, WorkerRow } from '../mail/outbox/entity.ts';
import { MailboxRow, ReplyRow } from '../mail/replies/entity.ts';
import { SendingRow } from '../mail/sendings/entity.ts';
import { RoundRow, TroubleRow } from '../rounds/deciding/entity.ts';
import { ReasonRow } from '../course/reasons.ts';
import { RuleRow, RuleVersionRow } from '../rules/entity.ts';
import { AttemptRow } from '../mail/nudges/attempt.ts';
import { StatementRow } from '../intake/statements/entity.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow } from '../wording/trials/entity.ts';
import { WordingRow } from '../wording/entity.ts';
import { CarryRow, RulesFileRow } from '../rules/carried.ts';
import { SourceLinkRow, SourceRow } from '../connections/entity.ts';
import {
  LaunchAccountRow,
  LaunchCodeRow,
  RegistrationCodeRow,
  LaunchCourseRow,
  LaunchPartRow,
  NonceRow,
  PlatformRow,
  ToolKeyRow,
} from '../connections/lti/entity.ts';
import { ExportRow, FeedEntryRow, FeedRow } from '../desk/exports/entity.ts';
import { ShelfCopyRow, ShelfItemRow, ShelfVersionRow } from '../terms/shelf/entity.ts';
import { CourseMatchRow, SetMemberRow, SetRow, SetVersionRow } from '../rules/sets/entity.ts';

export const entities = [
  ShelfItemRow,
  ShelfVersionRow,
  ShelfCopyRow,
  Account,
  DirectoryRow,
  DirectoryAccountRow,
  JoinedAccountRow,
  Access,
  LeaseRow,
  HitsRow,
  ErasedRow,
  ActRow,
  AddressCodeRow,
  CourseAccessRow,
  InstallationRow,
  KnownPairRow,
  LinkRow,
  ProvenAddressRow,
  PasskeyRow,
  RecoveryRow,
  TokenRow,
  SessionRow,
  SignInTryRow,
  CourseRow,
  OwnSenderRow,
  SourceRow,
  SourceLinkRow,
  PlatformRow,
  ToolKeyRow,
  NonceRow,
  LaunchCourseRow,
  LaunchAccountRow,
  LaunchPartRow,
  LaunchCodeRow,
  RegistrationCodeRow,
  PersonRow,
  AsideRow,
  PinRow,
  NoteRow,
  ViewRow,
  ItemRow,
  EventRow,
  GradeRow,
  SegmentRow,
  RetractedRow,
  ChangeRow,
  ImportRow,
  ImportBytesRow,
  ImportMemoryRow,
  StatementRow,
  MailingRow,
  SheetRow,
  RuleRow,
  RuleVersionRow,
  ReasonRow,
  RoundRow,
  TroubleRow,
  ReplyRow,
  MailboxRow,
  PlainMailRow,
  SendingRow,
  FileRow,
  NudgeRow,
  MessageRow,
  RefusalRow,
  AttemptRow,
  WordingRow,
  TrialRow,
  TrialCourseRow,
  TrialDrawRow,
  WorkerRow,
  NoticeRow,
  MailTroubleRow,
  CarryRow,
  RulesFileRow,
  SetRow,
  SetVersionRow,
  SetMemberRow,
  CourseMatchRow,
  ExportRow,
  FeedRow,
  FeedEntryRow,
];
