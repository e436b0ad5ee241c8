/** What can go wrong at the platform, as somebody switches it on; it lasts until it is switched off. */
export const FAULTS = ['slow', 'unauthorized', 'serverError', 'halfPage', 'wrongKey', 'wrongNonce'] as const;
export type PlatformFault = (typeof FAULTS)[number];

export const isFault = (text: string): text is PlatformFault => (FAULTS as readonly string[]).includes(text);

/** As its own page says it. */
export const FAULT_WORDS: Readonly<Record<PlatformFault, string>> = {
  slow: 'Services answer after four seconds',
  unauthorized: 'Services answer 401',
  serverError: 'Services answer 500',
  halfPage: 'Services and messages break off half way',
  wrongKey: 'Launches are signed with a key that was never published',
  wrongNonce: 'Launches carry another nonce than was asked for',
};
