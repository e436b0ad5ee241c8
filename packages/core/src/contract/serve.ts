/** How a request is answered, no matter which module serves it. */
import type { AnswerOf, AnyEndpoint, BodyRead, PathGiven, QueryRead } from './endpoint.ts';

/** The answer was written to the line already. */
export interface AlreadySent {
  readonly isSent: true;
}
export const SENT: AlreadySent = { isSent: true };

/** What was asked, read by the contract's own schemas. */
export interface RequestArguments<E> {
  /** The names in the path. */
  readonly path: { readonly [N in keyof PathGiven<E>]: string };
  readonly body: BodyRead<E>;
  readonly query: QueryRead<E>;
  /** Who asks; 0 where nobody need be signed in. */
  readonly account: number;
}

type HandlerResult<E> = AnswerOf<E> | AlreadySent | (undefined extends AnswerOf<E> ? void : never);
export type HandlerAnswer<E> = HandlerResult<E> | Promise<HandlerResult<E>>;
export type Serve = <E extends AnyEndpoint>(
  endpoint: E,
  answer: (asked: RequestArguments<E>) => HandlerAnswer<E>,
) => void;
