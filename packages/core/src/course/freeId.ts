/** The id itself, or the first free one of “-2”, “-3” … behind it. */
export function freeId(wanted: string, isTaken: (id: string) => boolean): string {
  for (let n = 1, id = wanted; ; id = `${wanted}-${++n}`) if (!isTaken(id)) return id;
}
