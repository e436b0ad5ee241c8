/** What the server and the browser say about a course's own data: setting it up, changing it, and bringing files in. */
import type { ReasonLine } from '../../exchange/reasons.ts';
import type { SendingAnswer } from '../../exchange/sendings.ts';
import type { ChangeLine } from '../../course/changes.ts';
import type { EventKind } from '../../activity/event.ts';
import type { ItemEdit, PersonEdit, CourseDetailsEdit } from '../../course/edit.ts';
import type { SourceName } from '../../course/sources.ts';
import type { MessageState } from '../../nudges/message.ts';
import type { Problem } from '../../problem/problem.ts';
import type { ReasonNotByHand } from '../../rounds/decide/byHand.ts';
import type { Instant } from '../../time/instant.ts';
import type { Block } from '../../wording/markup.ts';
import type { ProposedCourse } from '../read/courseName.ts';
import type { DayOrder } from '../read/dates.ts';
import type { Choices } from './draft.ts';
import type { Question } from '../read/refused.ts';
import type { ImportKind } from '../read/headers.ts';
import type { ReadColumn, ReadFile, RefusedLine } from './report.ts';
import type { SheetTally } from './importSheet.ts';

/** Several changes at once; a field that is left out stays. `after: null` removes an item. */
type EntryBefore = Readonly<Record<string, unknown>>;

export interface CourseEdit {
  readonly people?: readonly {
    readonly id: string | null;
    readonly set: Partial<PersonEdit>;
    readonly was?: EntryBefore;
    readonly seen?: EntryBefore | undefined;
  }[];
  readonly items?: readonly {
    readonly id: string | null;
    readonly set: Partial<ItemEdit> | null;
    readonly was?: EntryBefore;
    readonly seen?: EntryBefore | undefined;
  }[];
  /** Ids of all items in their order. */
  readonly order?: readonly string[];
  readonly details?: CourseDetailsEdit;
  readonly breaks?: readonly { readonly from: string; readonly to: string; readonly name?: string | undefined }[];
  readonly breaksWere?: NonNullable<CourseEdit['breaks']>;
  readonly breaksSeen?: CourseEdit['breaks'] | undefined;
  readonly groupWeights?: Readonly<Record<string, number>> | null;
  /** The first day with nudges again for whom this pauses, or the end of the term; else until they are resumed. */
  readonly pausedUntil?: string | undefined;
}

export interface ChangedAnswer {
  /** Null where nothing was different. */
  readonly change: number | null;
  readonly summary: string;
  /** Rules that look at what changed. */
  readonly rules: readonly string[];
  /** Rules that name something that is gone now. */
  readonly broken: readonly string[];
}

/** A change in the list of all. */
export interface ChangeCard {
  readonly id: number;
  readonly kind: 'edit' | 'import' | 'correction' | 'undo';
  readonly at: Instant;
  readonly by: string;
  readonly title: string;
  readonly undone: boolean;
  readonly lines: readonly ChangeLine[];
  /** How many lines there are in all. */
  readonly all: number;
  readonly events: number;
  readonly grades: number;
  readonly retracted: number;
  /** The import that has refused rows to download. */
  readonly import: number | null;
  readonly refused: number;
}
export interface ChangesAnswer {
  readonly changes: readonly ChangeCard[];
  /** Why rules, texts and limits were changed in the same time. */
  readonly reasons: readonly ReasonLine[];
  readonly more: boolean;
}

/** What undoing a change would do. */
export interface UndoAnswer {
  /** Why it cannot be undone, the first reasons; none where it can. */
  readonly against: readonly string[];
  readonly goes: { readonly events: number; readonly grades: number };
  /** What stays, because a later file says the same. */
  readonly stays: { readonly grades: number; readonly people: number; readonly items: number };
  /** Later files of which it is not known what they say again: they were taken before that was kept. */
  readonly unknown: number;
}

/** What a person decides about a file before it is taken. */
export interface ImportDecisions {
  readonly kind?: ImportKind | undefined;
  readonly told?: Readonly<Record<string, string>> | undefined;
  readonly sheet?: string | undefined;
  /** The line of the row that the user chose as the header. */
  readonly header?: number | undefined;
  /** The user has confirmed that the doubts do not apply. */
  readonly isSure?: boolean | undefined;
  /** Points possible that the user typed, by column header. */
  readonly outOf?: Readonly<Record<string, number>> | undefined;
  readonly dayOrders?: Readonly<Record<string, DayOrder>> | undefined;
  readonly choices?: Choices | undefined;
  readonly isCorrection?: boolean | undefined;
  /** What becomes of students whom a full roster leaves out. */
  readonly missing?: 'keep' | 'inactive' | undefined;
  /** Whether missing people and items are added; by default, only while the course has none of that sort. */
  readonly add?: { readonly people?: boolean | undefined; readonly items?: boolean | undefined } | undefined;
  /** Cells that somebody mended, by the number of their row and their header. */
  readonly mended?: Readonly<Record<string, Readonly<Record<string, string>>>> | undefined;
  /** When what has no instant is taken to have happened; the moment of bringing it unless given. */
  readonly asOf?: Instant | undefined;
}

export interface ImportCounts {
  readonly read: number;
  readonly new: number;
  readonly changed: number;
  readonly same: number;
  readonly refused: number;
}

/** A file as it will be read; nothing has changed yet. */
export interface ImportPreview {
  readonly id: number;
  readonly name: string;
  readonly state: 'open' | 'taken' | 'refused';
  readonly decisions: ImportDecisions;
  /** Why the file as a whole cannot be read; all else is empty then. */
  readonly trouble: string | null;
  readonly kind: ImportKind | null;
  readonly encoding: string | null;
  readonly delimiter: string | null;
  readonly sheet: string | null;
  readonly sheets: readonly string[];
  readonly columns: readonly (ReadColumn & { readonly header: string; readonly dayOrder: DayOrder })[];
  /** Rows as they stand in the file, and beside them as they will be read. */
  readonly sample: ReadFile['sample'];
  /** What is above the header. */
  readonly titles: readonly string[];
  /** The lines of the header and of the group row, or null without them. */
  readonly headerLine: number | null;
  readonly groupsLine: number | null;
  /** The first rows, any of which can be chosen as the header. */
  readonly firstRows: ReadFile['firstRows'];
  /** Empty once the user has chosen a header or confirmed the one that was found. */
  readonly doubts: ReadFile['doubts'];
  /** Rows that name nobody. */
  readonly leftOut: number;
  readonly added: { readonly people: number; readonly items: number };
  /** What the course lacks, and could be added. */
  readonly offered: { readonly people: number; readonly items: number };
  /** What is added as things stand. */
  readonly add: { readonly people: boolean; readonly items: boolean };
  /** Fields of people that differ from what is known, and stay. */
  readonly differs: number;
  readonly tally: SheetTally | null;
  /** The scale of its letters; null where it has none. */
  readonly letters: Readonly<Record<string, number>> | null;
  /** From when its ages count back; null where it has none. */
  readonly agesFrom: Instant | null;
  /** Columns from this one on are another table, which is not read; null if absent. */
  readonly cut: number | null;
  readonly counts: ImportCounts;
  readonly lines: readonly ChangeLine[];
  readonly allLines: number;
  readonly events: number;
  readonly grades: readonly {
    readonly student: string;
    readonly item: string;
    readonly from: number | null;
    readonly to: number;
  }[];
  readonly allGrades: number;
  readonly retracted: number;
  readonly refused: ReadFile['refused'];
  readonly questions: readonly Question[];
  readonly missing: readonly string[];
  /** Rules that look at what would change. */
  readonly rules: readonly string[];
  /** Columns are read as they were the last time. */
  readonly remembered: boolean;
}

/** A sheet that a course could be made from, and what it may be called. */
export interface FromFileAnswer {
  readonly preview: ImportPreview;
  readonly proposed: ProposedCourse;
}

/** Due dates in a calendar for items that have none. */
export interface CalendarDueAnswer {
  readonly dates: readonly { readonly item: string; readonly due: Instant }[];
  /** Events that match no item of the course or cannot be read. */
  readonly others: number;
}

export interface TakenReport {
  readonly kind: ImportKind;
  readonly counts: ImportCounts;
  readonly leftOut?: number;
  readonly added?: { readonly people: number; readonly items: number };
  readonly refused: readonly RefusedLine[];
}

export interface ImportCard {
  readonly id: number;
  readonly name: string;
  readonly at: Instant;
  readonly by: string;
  readonly way: 'hand' | 'folder';
  readonly state: 'open' | 'taken' | 'refused';
  readonly counts: ImportCounts | null;
  readonly kind: ImportKind | null;
  readonly trouble: string | null;
  readonly change: number | null;
  readonly undone: boolean;
}

export interface DataAnswer {
  readonly sources: readonly {
    readonly source: SourceName;
    readonly heardAt: Instant | null;
    readonly stale: boolean;
    readonly rules: number;
  }[];
  readonly imports: readonly ImportCard[];
  /** Statements that wait for a choice. */
  readonly waiting: number;
  readonly folder: { readonly watched: boolean; readonly path: string };
  readonly endpoint: { readonly path: string; readonly key: string; readonly hasSecret: boolean };
}

/** What is left to do before a course works on its own. */
export const SETUP_STEPS = ['people', 'items', 'activity', 'sender', 'rule'] as const;
export type SetupStep = (typeof SETUP_STEPS)[number];
export interface SetupAnswer {
  readonly steps: readonly { readonly step: SetupStep; readonly done: boolean; readonly count: number }[];
}

/** Statements that wait for the same choice. */
export interface WaitingGroup {
  readonly about: 'verb' | 'person' | 'item' | 'other';
  readonly said: string;
  readonly why: string;
  readonly count: number;
}

/** A sheet that somebody writes from. */
export interface SheetCard {
  readonly id: number;
  readonly name: string;
  readonly at: Instant;
  readonly by: string;
  readonly rows: number;
  readonly written: number;
}
export interface SheetLine {
  readonly cells: readonly string[];
  readonly who: 'person' | 'guest' | 'nobody';
  readonly name: string;
  readonly address: string | null;
  /** Why nobody is written to. */
  readonly why: string | null;
  /** The message that went about this row. */
  readonly written: { readonly nudge: number; readonly state: MessageState; readonly at: Instant } | null;
}
export interface SheetAnswer {
  readonly id: number;
  readonly name: string;
  readonly headers: readonly string[];
  /** Columns that hold addresses, to which copies may go. */
  readonly addresses: readonly string[];
  readonly lines: readonly SheetLine[];
}

/** Whom a message by hand goes to: rows of a sheet, or students. */
export interface WriteTo {
  readonly sheet: number | null;
  readonly rows: readonly number[];
  readonly students: readonly string[];
  readonly student: boolean;
  /** Kinds of contacts, and columns of the sheet that hold addresses. */
  readonly contacts: readonly string[];
  readonly columns: readonly string[];
}
export interface WritePreview {
  /** As the reader at the place asked for gets it; null where nobody does. */
  readonly message: { readonly subject: string; readonly text: string; readonly blocks: readonly Block[] } | null;
  readonly readers: readonly string[];
  /** Names of its attachments. */
  readonly files: readonly string[];
  readonly name: string;
  readonly problems: readonly Problem[];
  /** Readers in all, how many of them get a message, and how many of those messages have a field without a value. */
  readonly total: number;
  readonly sending: number;
  /** To how many addresses these go, by who reads them: `student`, `instructor`, `contact:` with its kind, or `address:`. */
  readonly addresses: Readonly<Record<string, number>>;
  /** The text is still its salutation and signature: nothing is sent. */
  readonly saysNothing: boolean;
  /** So many of the class that the instructor is asked first. */
  readonly asks: boolean;
  /** Recipients with an empty field in their message: they are left out, except those the instructor ticked. */
  readonly blanks: readonly { readonly key: string; readonly name: string; readonly fields: readonly string[] }[];
  /** The first of them. */
  readonly lines: readonly {
    readonly key: string;
    readonly name: string;
    readonly outcome: 'sent' | 'withheld' | 'broken';
    readonly reason: ReasonNotByHand | 'sameReader' | 'nobody' | 'text' | 'blanks' | null;
    readonly why: string | null;
    /** Fields without a value. */
    readonly blanks: readonly string[];
    readonly sendAt: Instant | null;
  }[];
}
export interface WrittenAnswer {
  readonly mailing: number;
  readonly sent: number;
  readonly notSent: number;
  /** While it can be taken back; null where it left at once. */
  readonly sending: SendingAnswer | null;
}

/** What is known of one student, fact by fact, the latest first. */
export interface KnownEvent {
  readonly kind: EventKind;
  readonly item: string | null;
  readonly at: Instant;
}
export interface KnownGrade {
  readonly item: string;
  readonly criterion: string | null;
  readonly points: number;
  readonly at: Instant;
}
export interface StudentFactsAnswer {
  readonly events: readonly KnownEvent[];
  readonly more: boolean;
  readonly grades: readonly KnownGrade[];
  readonly retracted: readonly {
    readonly what: string;
    readonly at: Instant;
    readonly by: string;
    readonly reason: string;
  }[];
}
