/** What the thread that takes files reads and writes. */
import { CourseRow, ItemRow, PersonRow } from '../../course/entity.ts';
import { EventRow, GradeRow, RetractedRow, SegmentRow } from '../../course/activity/entity.ts';
import { ErasedRow } from '../../course/erased.ts';
import { LeaseRow } from '../../platform/work/entity.ts';
import { RuleRow } from '../../rules/entity.ts';
import { ChangeRow } from '../changes/entity.ts';
import { ImportBytesRow, ImportMemoryRow, ImportRow } from '../changes/importRow.ts';

export const TAKING_ENTITIES = [
  CourseRow,
  PersonRow,
  ItemRow,
  EventRow,
  GradeRow,
  RetractedRow,
  SegmentRow,
  ErasedRow,
  RuleRow,
  LeaseRow,
  ChangeRow,
  ImportRow,
  ImportBytesRow,
  ImportMemoryRow,
];
