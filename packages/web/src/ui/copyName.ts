const COPY = ' (copy)';

/** The name of a copy, within so many characters: a long name is shortened, and still says that it is a copy. */
export const copyName = (name: string, most: number): string => `${name.slice(0, most - COPY.length).trimEnd()}${COPY}`;
