/** What a person sends by hand waits a few seconds, so that they can take it back. */

export const SENDING_KINDS = ['write', 'answer', 'tray', 'letThrough', 'ring'] as const;
export type SendingKind = (typeof SENDING_KINDS)[number];

/** Seconds that it waits unless a person says otherwise, and at most. */
export const SEND_DELAY = 10;
export const MOST_SEND_DELAY = 60;
/** For how long it is known what became of one, in ms. */
export const SENDING_GONE_AFTER = 3_600_000;

export interface SendingAnswer {
  readonly id: number;
  readonly course: number;
  readonly kind: SendingKind;
  /** "4 messages" */
  readonly words: string;
  /** Until it leaves, in ms. */
  readonly left: number;
}

export interface SendingResult {
  /** Messages that have not left yet: quiet hours, a later time, or the mail server. */
  readonly waiting: number;
  readonly canceled: readonly { readonly name: string; readonly reason: string }[];
}
