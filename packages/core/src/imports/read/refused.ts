/** What could not be taken, and what could be asked about it. */

/** What could be asked, so that a refused row can be taken: what the file says, and who or what it may mean. */
export type Question =
  | { readonly about: 'person'; readonly said: string; readonly candidates: readonly string[] }
  | { readonly about: 'item'; readonly said: string }
  /** Points above those possible: `item` is the id, `said` the title. */
  | { readonly about: 'over'; readonly said: string; readonly item: string; readonly possible: number }
  | { readonly about: 'dayOrder'; readonly column: string; readonly example: string };

/** A row that could not be taken: which column, a stable code, and a sentence. */
export class RefusedRow extends Error {
  readonly column: string | null;
  readonly code: string;
  readonly question: Question | null;

  constructor(column: string | null, code: string, message: string, question: Question | null = null) {
    super(message);
    this.column = column;
    this.code = code;
    this.question = question;
  }
}
