/** Parts with single dots between them (RFC 5321, 4.1.2), and a domain of two parts at least. */
const ADDRESS = /^[^\s@<>",;.]+(?:\.[^\s@<>",;.]+)*@[^\s@<>",;.]+(?:\.[^\s@<>",;.]+)+$/;

/** Whether a text is an email address alone: nothing beside it that could name a second one in a header. */
export const isAddress = (text: string): boolean => ADDRESS.test(text);

/** Whether two texts are one mailbox as mail servers treat them in practice: capital letters make no difference. */
export const isSameAddress = (one: string | null | undefined, other: string | null | undefined): boolean =>
  one != null && other != null && one.toLowerCase() === other.toLowerCase();
