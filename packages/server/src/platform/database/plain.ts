/**
 * Values are written into the text of statements by the library: a NUL would end it early, and half of a surrogate pair
 * cannot be stored. Both come from outside and mean nothing.
 */
export const plain = (sql: string): string => sql.replaceAll('\0', '').replace(/\p{Surrogate}/gu, '\uFFFD');
