/**
 * What a table knows of people, said once beside its entity: erasing a student, forgetting a course, and a student's data file follow
 * from it. A column that is left out does not compile.
 */
import type { EntitySchema, InferEntity } from '@mikro-orm/core';
import type { Holding } from './orm.ts';

/** A student who is erased, as columns ask for them. */
export interface ErasedStudent {
  readonly id: string;
  /** Under which id they stand from now on. */
  readonly standsAs: string;
  /** Whether a text names them: by whole name, address, or an id that tells. */
  readonly isNamed: (text: string) => boolean;
  /** The same where ids stand: there an id is one, however short it is. */
  readonly isThem: (text: string) => boolean;
  /** Whether a platform or a source calls them so. */
  readonly isCalled: (id: string) => boolean;
  /** A text in which "a student" replaces whatever names them. */
  readonly redacted: (text: string) => string;
}

/** In place of a value: the whole row goes. */
export const ROW_GOES: unique symbol = Symbol('row goes');

/** What a column may know, and what becomes of it. */
export interface ColumnDeclaration {
  readonly kind:
    /** Names a row of ours. */
    | 'key'
    /** Knows nothing of a person. */
    | 'plain'
    /** Somebody who works here. */
    | 'account'
    /** The student whom the row is about. */
    | 'personId'
    | 'personIds'
    | 'name'
    | 'address'
    /** Words that may name anybody. */
    | 'text'
    /** Evidence, grades, answers. */
    | 'facts'
    /** A file, or packed columns. */
    | 'bytes';
  /** What it holds afterwards in a row about the student; for a unique column, made from the row's id. */
  readonly emptied?: { readonly to: unknown } | { readonly make: (id: number) => unknown };
  /** What it holds afterwards in any row of the course. Gives back the same value where that does not name them. */
  readonly searched?: (value: never, gone: ErasedStudent) => unknown;
  /** Why nothing is done about it. */
  readonly stays?: string;
}

const columnOf = (kind: ColumnDeclaration['kind']) => ({
  /** In rows about the student, and where a course is forgotten. */
  emptied: (to: unknown): ColumnDeclaration => ({ kind, emptied: { to } }),
  made: (make: (id: number) => unknown): ColumnDeclaration => ({ kind, emptied: { make } }),
  /** In every row of the course. */
  searched: <V>(clean: (value: V, gone: ErasedStudent) => V | typeof ROW_GOES): ColumnDeclaration => ({
    kind,
    searched: clean,
  }),
  /** In every row of the course, and empty where the course is forgotten. */
  both: <V>(to: V, clean: (value: V, gone: ErasedStudent) => V | typeof ROW_GOES): ColumnDeclaration => ({
    kind,
    emptied: { to },
    searched: clean,
  }),
  stays: (why: string): ColumnDeclaration => ({ kind, stays: why }),
});

export const key: ColumnDeclaration = { kind: 'key' };
export const plain: ColumnDeclaration = { kind: 'plain' };
export const account: ColumnDeclaration = { kind: 'account' };
export const personId: ColumnDeclaration = { kind: 'personId' };
export const personIds = columnOf('personIds');
export const name = columnOf('name');
export const address = columnOf('address');
export const text = columnOf('text');
export const facts = columnOf('facts');
export const bytes = columnOf('bytes');

/** Every text in a value, in lists and objects too, without what names them. */
export function redactedIn<T>(value: T, gone: ErasedStudent): T {
  if (typeof value === 'string') return gone.redacted(value) as T;
  if (Array.isArray(value)) return value.map((member: unknown) => redactedIn(member, gone)) as T;
  if (typeof value !== 'object' || value === null) return value;
  return Object.fromEntries(
    Object.entries(value).map(([k, v]) => [gone.redacted(k), redactedIn<unknown>(v, gone)]),
  ) as T;
}
/** A value without what names them: entries by their key or their value, and members of lists. */
export function withoutNamed<T>(value: T, isNamed: (text: string) => boolean): T {
  const isGone = (v: unknown) => typeof v === 'string' && isNamed(v);
  const clean = (v: unknown): unknown => {
    if (Array.isArray(v)) return v.filter((member) => !isGone(member)).map(clean);
    if (typeof v !== 'object' || v === null) return v;
    return Object.fromEntries(
      Object.entries(v).flatMap(([key, of]) => (isNamed(key) || isGone(of) ? [] : [[key, clean(of)]])),
    );
  };
  return clean(value) as T;
}

/** Words of the course that stay, without the name. */
export const words: ColumnDeclaration = text.searched(redactedIn);

/** A row of an entity. */
export type RowOf<E> = InferEntity<E> & object;
type ColumnName<E> = keyof RowOf<E> & string;

/** How the rows about a student are found. Of several, each finds some. */
export type StudentLink =
  /** A column has their id; `where`: and others have these values. */
  | { readonly by: string; readonly where: Readonly<Record<string, string>> }
  /** A column names a row that is about them. `other`: of which entity. */
  | { readonly through: string; readonly other: string }
  /** A column has the same value as a row about them. Only `columns` are emptied there. */
  | { readonly sharing: string; readonly columns: readonly string[] }
  /** As a function says of some columns. */
  | { readonly asked: readonly string[]; readonly isAbout: (row: never, gone: ErasedStudent) => boolean }
  /** Any row of the course may be. */
  | { readonly every: string };

export const by = (column: string, where: Readonly<Record<string, string>> = {}): StudentLink => ({
  by: column,
  where,
});
export const through = (column: string, other: string): StudentLink => ({ through: column, other });
export const sharing = (column: string, columns: readonly string[]): StudentLink => ({ sharing: column, columns });
export const foundByColumns = <R>(
  columns: readonly (keyof R & string)[],
  isAbout: (row: R, gone: ErasedStudent) => boolean,
): StudentLink => ({ asked: columns, isAbout });
/** `why` any row of the course may be about them. */
export const everyRow = (why: string): StudentLink => ({ every: why });

/** What a writer must hold; of several any one is enough. `process`: nothing, as one conditional statement writes it. */
export type Owner = Holding | 'process';

/** A section of a student's data file. */
export type Section =
  | 'person'
  | 'activity'
  | 'grades'
  | 'takenBack'
  | 'nudges'
  | 'mail'
  | 'replies'
  | 'answers'
  | 'notes'
  | 'setAside'
  | 'heldBack'
  | 'statements'
  | 'changes'
  | 'seenBy';

/** What a table of the entity `S` holds, and who may write it: writers that hold one of `O`. */
export interface Holds<S extends EntitySchema = EntitySchema, O extends Owner = Owner> {
  readonly entity: S;
  readonly owner: readonly O[];
  readonly columns: Readonly<Record<string, ColumnDeclaration>>;
  /** The column that names the course, or a row that leads to it; null for a table that is of no course. */
  readonly course: string | { readonly column: string; readonly of: Holds } | null;
  /** The column that names the account it belongs to; null for a table that is of no account. */
  readonly account: string | null;
  /** Empty for a table that knows nobody. */
  readonly about: readonly StudentLink[];
  /** What becomes of rows about somebody who is erased. */
  readonly erased: 'goes' | 'stands';
  /** What becomes of all rows once a course is forgotten. */
  readonly kept: 'goes' | 'emptied' | 'stays';
  readonly told: Section | { readonly notTold: string };
}

export const notTold = (why: string): { readonly notTold: string } => ({ notTold: why });

/** Declares what a table holds. `course`: if the column has another name. */
export function holds<E extends EntitySchema, const O extends Owner>(
  entity: E,
  declared: {
    readonly owner: readonly O[];
    readonly columns: { readonly [K in ColumnName<E>]-?: ColumnDeclaration };
    readonly course?: ColumnName<E> | { readonly column: ColumnName<E>; readonly of: Holds };
    /** If the column has another name. */
    readonly account?: ColumnName<E>;
    readonly about?: readonly StudentLink[];
    readonly erased?: 'goes' | 'stands';
    readonly kept?: Holds['kept'];
    readonly told?: Holds['told'];
  },
): Holds<E, O> {
  const { owner, columns, course, account: byAccount, about = [], erased = 'stands', kept = 'stays', told } = declared;
  return {
    entity,
    owner,
    columns,
    course: course ?? ('course' in columns ? 'course' : null),
    account: byAccount ?? ('account' in columns ? 'account' : null),
    about,
    erased,
    kept,
    told: told ?? notTold('nothing of a student stands in it'),
  };
}
