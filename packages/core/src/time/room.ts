/**
 * Room to collect numbers in, used again and again, so that what is handed out is no longer than it need be. A room belongs to
 * the caller that took it until it hands out: a second caller in between gets another.
 */
const free: number[][] = [];

export const borrowRoom = (): number[] => free.pop() ?? [];

/** The first `n` numbers by themselves; the room is free again. */
export function handOut(room: number[], n: number): number[] {
  free.push(room);
  return room.slice(0, n);
}
