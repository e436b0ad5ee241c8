import { Access, Account, SessionRow } from './accounts/entity.ts';
import { EventRow, GradeRow, RetractedRow, SegmentRow } from './activity/entity.ts';
import { ChangeRow } from './changes/entity.ts';
import { AsideRow, CourseRow, ItemRow, PersonRow } from './course/entity.ts';
import { FileRow } from './files/entity.ts';
import { ImportBytesRow, ImportMemoryRow, ImportRow } from './imports/entity.ts';
import { MailingRow, SheetRow } from './mailings/entity.ts';
import { ViewRow } from './lookout/entity.ts';
import { NoteRow, PinRow } from './notes/entity.ts';
import { PlainMailRow } from './plainMail/entity.ts';
import { MessageRow, NudgeRow, RefusalRow } from './nudges/entity.ts';
import { MailTroubleRow, WorkerRow } from './outbox/entity.ts';
import { MailboxRow, ReplyRow } from './replies/entity.ts';
import { SendingRow } from './sendings/entity.ts';
import { RoundRow, TroubleRow } from './rounds/entity.ts';
import { RuleRow, RuleVersionRow } from './rules/entity.ts';
import { AttemptRow } from './sendLog/entity.ts';
import { StatementRow } from './statements/entity.ts';
import { TrialCourseRow, TrialDrawRow, TrialRow } from './trials/entity.ts';
import { WordingRow } from './wording/entity.ts';

export const entities = [
  Account,
  Access,
  SessionRow,
  CourseRow,
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
  MailTroubleRow,
];
