/** The voice that the course's nudges speak in, and where replies go. */
export interface SenderSettings {
  readonly name: string;
  /** Where its messages come from; empty for the installation's own address. */
  readonly address: string;
  readonly replyTo: string;
  readonly signature: string;
  readonly officeHours: string;
  /** Where students book a time; empty when nowhere. */
  readonly bookingUrl?: string | undefined;
  /** The institution's mail domains; with none, that of `address`, or of `replyTo` where the installation's address is used. */
  readonly domains?: readonly string[] | undefined;
  /** Where answers go: to `replyTo` itself, or to the server, which passes them on to it. */
  readonly answers?: 'own' | 'server';
}

/** The domains of addresses inside the institution. */
export const domainsOf = (sender: SenderSettings): readonly string[] =>
  sender.domains && sender.domains.length > 0 ? sender.domains : [domainOf(sender.address || sender.replyTo)];

const domainOf = (address: string): string => address.slice(address.lastIndexOf('@') + 1);

/** Who a message is from. A sender without an address of its own writes from the installation's. */
export const mailFrom = (
  { name, address }: Pick<SenderSettings, 'name' | 'address'>,
  installation: { readonly address: string },
): { readonly name: string; readonly address: string } =>
  address === '' ? { name: `${name}, via Zest Bell`, address: installation.address } : { name, address };

/**
 * Whether a list of an installation allows mail to come from an address. An entry is an address, a domain (`uni.example`), or the
 * domains below one (`*.uni.example`); an empty list allows every address.
 */
export function isOnSenderList(address: string, list: readonly string[]): boolean {
  const wanted = address.toLowerCase();
  const domain = domainOf(wanted);
  return (
    list.length === 0 ||
    list.some((entry) => {
      const allowed = entry.toLowerCase();
      if (allowed.includes('@')) return wanted === allowed;
      return allowed.startsWith('*.') ? domain.endsWith(allowed.slice(1)) : domain === allowed;
    })
  );
}

/** What one of a course's people signs with in its place: their name, their addresses, their words below. */
export type OwnSender = Pick<
  SenderSettings,
  'name' | 'address' | 'replyTo' | 'signature' | 'officeHours' | 'bookingUrl'
>;

/** The voice of somebody in a course; of nobody in particular it is the course's. */
export const voiceOf = (course: SenderSettings, own: OwnSender | null | undefined): SenderSettings =>
  own ? { ...course, ...own } : course;
