/** Whose voice the course's nudges speak in, and where replies go. */
export interface SenderSettings {
  readonly name: string;
  readonly address: string;
  readonly replyTo: string;
  readonly signature: string;
  readonly officeHours: string;
  /** Where students book a time; empty when nowhere. */
  readonly bookingUrl?: string | undefined;
  /** The institution's mail domains; with none, that of `address`. */
  readonly domains?: readonly string[] | undefined;
  /** Where answers go: to `replyTo` itself, or to the server, which passes them on to it. */
  readonly answers?: 'own' | 'server';
}

/** The domains whose addresses are inside the institution. */
export const domainsOf = (sender: SenderSettings): readonly string[] =>
  sender.domains && sender.domains.length > 0
    ? sender.domains
    : [sender.address.slice(sender.address.lastIndexOf('@') + 1)];

/** What one of a course's people signs with in its place: their name, their addresses, their words below. */
export type OwnSender = Pick<
  SenderSettings,
  'name' | 'address' | 'replyTo' | 'signature' | 'officeHours' | 'bookingUrl'
>;

/** The voice of somebody in a course; of nobody in particular it is the course's. */
export const voiceOf = (course: SenderSettings, own: OwnSender | null | undefined): SenderSettings =>
  own ? { ...course, ...own } : course;
