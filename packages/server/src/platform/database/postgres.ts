/** What is known of PostgreSQL without its driver, which is loaded where a database is there alone. */

export const isPostgres = (place: string): boolean => /^postgres(?:ql)?:/.test(place);

/** The name of the database at an address; an address without one means the user's own. */
export const databaseName = (url: string): string =>
  decodeURIComponent(/^[^?]*\/([^/?@]+)/.exec(url)?.[1] ?? 'postgres');

/** Whether several machines may be at work on this database. */
export const isOnServer = (em: { getPlatform(): object }): boolean => 'isServer' in em.getPlatform();
