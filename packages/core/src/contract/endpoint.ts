/**
 * A request of the application, declared once as a value: how it is asked, what it needs, what it takes and what it answers. The server
 * serves what is declared and the browser asks for it; both have their types from here.
 */
import type { z } from 'zod';
import type { Capability } from '../access/capabilities.ts';

/** What the caller must be or may do; only requests about one course name a capability. */
export type RequiredPermission = Capability | 'signedIn' | 'administrator' | 'key' | 'open';

type PathParameter<P extends string> = P extends `${string}{${infer N}}${infer Rest}` ? N | PathParameter<Rest> : never;
/** The names in a path's braces. */
export type PathOf<P extends string> = { readonly [N in PathParameter<P>]: string | number };
type NeedsOf<P extends string> = P extends `${string}{course}${string}`
  ? RequiredPermission
  : Exclude<RequiredPermission, Capability>;

/** How an answer comes. */
export type Form =
  /** JSON. */
  | 'json'
  /** No content. */
  | 'nothing'
  /** Packed columns, tagged by the state that they were read from. */
  | 'columns'
  /** Lines of JSON: how far a computation is, what it has found so far, and at last its result. */
  | 'lines'
  /** A file to be kept. */
  | 'file';

export interface AnswerForm<A> {
  readonly form: Form;
  readonly status: 200 | 201 | 204;
  /** For the type alone; there is no such value. */
  readonly of?: A;
}

export const json = <A>(): AnswerForm<A> => ({ form: 'json', status: 200 });
export const created = <A>(): AnswerForm<A> => ({ form: 'json', status: 201 });
export const lines = <A>(): AnswerForm<A> => ({ form: 'lines', status: 200 });
export const nothing: AnswerForm<undefined> = { form: 'nothing', status: 204 };
export const columns: AnswerForm<undefined> = { form: 'columns', status: 200 };
export const file: AnswerForm<undefined> = { form: 'file', status: 200 };

type OptionalSchema = z.ZodType | undefined;

export interface Endpoint<
  P extends string = string,
  B extends OptionalSchema = OptionalSchema,
  Q extends OptionalSchema = OptionalSchema,
  A = unknown,
> {
  readonly method: 'GET' | 'POST' | 'PUT' | 'DELETE';
  /** Below `/api/v1`, with names in braces. */
  readonly path: P;
  readonly needs: RequiredPermission;
  /** In a few words. */
  readonly says: string;
  readonly body: B;
  readonly query: Q;
  /** Its body is bytes and no JSON. */
  readonly upload: boolean;
  /** Asked of an archived course too, though it is no reading. */
  readonly inArchive: boolean;
  readonly answer: AnswerForm<A>;
}

export type AnyEndpoint = Endpoint<string, OptionalSchema, OptionalSchema, unknown>;
export type PathGiven<E> = E extends Endpoint<infer P, infer _B, infer _Q, infer _A> ? PathOf<P> : never;
/** Anyone who sends it may have it for reading alone. */
type ReadonlyInput<T> = T extends readonly (infer U)[]
  ? readonly ReadonlyInput<U>[]
  : T extends object
    ? { readonly [K in keyof T]: ReadonlyInput<T[K]> }
    : T;
/** What is sent, before it is read. */
export type BodyGiven<E> = E extends { readonly body: infer B extends z.ZodType }
  ? ReadonlyInput<z.input<B>>
  : undefined;
export type QueryGiven<E> = E extends { readonly query: infer Q extends z.ZodType }
  ? ReadonlyInput<z.input<Q>>
  : undefined;
/** What was read. */
export type BodyRead<E> = E extends { readonly body: infer B extends z.ZodType } ? z.output<B> : undefined;
export type QueryRead<E> = E extends { readonly query: infer Q extends z.ZodType } ? z.output<Q> : undefined;
export type AnswerOf<E> = E extends { readonly answer: AnswerForm<infer A> } ? A : never;

interface EndpointParts<B extends OptionalSchema, Q extends OptionalSchema, A> {
  readonly answer: AnswerForm<A>;
  readonly body?: B;
  readonly query?: Q;
  readonly upload?: boolean;
  readonly inArchive?: boolean;
}

const of =
  (method: Endpoint['method']) =>
  <const P extends string, A, B extends OptionalSchema = undefined, Q extends OptionalSchema = undefined>(
    path: P,
    needs: NeedsOf<P>,
    says: string,
    given: EndpointParts<B, Q, A>,
  ): Endpoint<P, B, Q, A> => ({
    method,
    path,
    needs,
    says,
    answer: given.answer,
    upload: given.upload ?? false,
    inArchive: given.inArchive ?? false,
    body: given.body as B,
    query: given.query as Q,
  });

export const get = of('GET');
export const post = of('POST');
export const put = of('PUT');
export const remove = of('DELETE');

/** Where it is asked: below `/api/v1`, its names filled in, with a query. */
export function urlOf<E extends AnyEndpoint>(
  { path }: E,
  names: PathGiven<E>,
  query: Readonly<Record<string, string | number | boolean | null | undefined>> = {},
): string {
  const filled = path.replace(/\{(\w+)\}/g, (_, name: string) =>
    encodeURIComponent(String((names as Readonly<Record<string, string | number>>)[name])),
  );
  const asked = Object.entries(query).flatMap(([name, value]) =>
    value === undefined || value === null ? [] : [[name, String(value)] as [string, string]],
  );
  return asked.length === 0 ? filled : `${filled}?${new URLSearchParams(asked).toString()}`;
}
