import { DAY, HOUR, listWords, plural, type Instant } from '@zest-bell/core/time';
import type { HeldReason } from '@zest-bell/core/nudges';
import type { TrayLine } from '@zest-bell/core/exchange';

/** Why a nudge waits, as a chip says it. */
export const HELD_WORDS: Readonly<Record<HeldReason, string>> = {
  step: 'waits for your OK',
  replied: 'the student replied',
  outside: 'outside address',
};

/** How soon what was found passes on its own. */
export function passesWords(at: Instant, now: Instant): string {
  const left = at - now;
  if (left < HOUR) return 'matches for less than an hour';
  return left < 2 * DAY
    ? `matches for ${plural(Math.round(left / HOUR), 'more hour')}`
    : `matches for ${plural(Math.round(left / DAY), 'more day')}`;
}

/** To a student, or about one where only others are written to. */
export const toOrAbout = ({ toStudent, name }: Pick<TrayLine, 'toStudent' | 'name'>): string =>
  `${toStudent ? 'to' : 'about'} ${name}`;

/** What waits as one line: a nudge, or all students of one message that lists them (engine R11a). */
export interface TrayEntry {
  readonly key: string;
  /** At least one; the first is shown. */
  readonly lines: readonly TrayLine[];
  /** Of a group with students who are decided one by one. */
  readonly inside: boolean;
}

/** The list in its order; a group is at the place of its most urgent, followed by its students where it is opened. */
export function trayEntries(lines: readonly TrayLine[], opened: ReadonlySet<string>): TrayEntry[] {
  const groups = new Map<string, TrayLine[]>();
  for (const line of lines) {
    const key = line.together ?? `nudge ${line.nudge}`;
    groups.set(key, [...(groups.get(key) ?? []), line]);
  }
  return [...groups].flatMap(([key, own]) => {
    const one = (line: TrayLine, inside: boolean) => ({ key: `nudge ${line.nudge}`, lines: [line], inside });
    if (own.length === 1) return [one(own[0]!, false)];
    const whole = { key, lines: own, inside: false };
    return opened.has(key) ? [whole, ...own.map((l) => one(l, true))] : [whole];
  });
}

/** “Lena, Kofi and 3 more students”. */
export function namesOf(lines: readonly TrayLine[]): string {
  const names = lines.map((l) => l.name);
  return listWords(names.length > 3 ? [...names.slice(0, 2), plural(names.length - 2, 'more student')] : names);
}
