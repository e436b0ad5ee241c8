/** A student’s story as entries of one time line: what each says, and where it leads. */
import { dayWords, instantWords, numberWords, percentWords, plural, type Instant } from '@zest-bell/core/time';
import type { Course } from '@zest-bell/core/course';
import { EVENT_WORDS, kindMask, VISIT_EVIDENCE } from '@zest-bell/core/activity';
import { evidenceWords } from '@zest-bell/core/conditions';
import type { MessageState } from '@zest-bell/core/nudges';
import type { StoryAct } from '@zest-bell/core/lookout';
import type { NoteLine, StudentAnswer, StudentLine } from '@zest-bell/core/exchange';
import { withdrawnWords } from '../../lib/decisionWords.ts';

/** The lanes of the time line, from the top. */
export const LANES = ['activity', 'work', 'grades', 'rules', 'messages', 'notes'] as const;
export type Lane = (typeof LANES)[number];

export const LANE_WORDS: Readonly<Record<Lane, string>> = {
  activity: 'Activity',
  work: 'Work',
  grades: 'Grades',
  rules: 'Rules that match',
  messages: 'Messages',
  notes: 'Your notes',
};

export interface TimelineEntry {
  readonly key: string;
  readonly lane: Lane;
  readonly at: Instant;
  /** The end of what lasts; null while it goes on, left out for what happens at once. */
  readonly to?: Instant | null;
  readonly sign: string;
  readonly title: string;
  readonly detail: string;
  /** Where it is told in full. */
  readonly link?: string;
  /** Quoted words of somebody. */
  readonly quote?: string;
  /** In percent, for what is at a height. */
  readonly score?: number;
  readonly classMean?: number;
}

const REPLY_TITLES = { reply: 'Replied', autoReply: 'Automatic reply', bounce: 'Mail came back' } as const;

export function entriesOf(
  course: Course,
  base: string,
  answer: StudentAnswer,
  notes: readonly NoteLine[],
): TimelineEntry[] {
  const { story } = answer;
  const zone = course.timeZone;
  const titleOf = (id: string) => course.items[course.itemIndex.get(id) ?? -1]?.title ?? 'an item that is gone';
  const entries: TimelineEntry[] = [...daysOf(course, story.acts, titleOf)];
  for (const i of story.items) {
    const isSession = course.items[course.itemIndex.get(i.item) ?? -1]?.kind === 'session';
    if (i.doneAt !== null && (i.state === 'onTime' || i.state === 'late')) {
      const late = i.state === 'late' && !isSession;
      const due = i.dueAt === null ? '' : `${late ? 'late, ' : ''}due ${instantWords(i.dueAt, zone)}`;
      entries.push({
        key: `work ${i.item}`,
        lane: 'work',
        at: i.doneAt,
        sign: late ? '◷' : '✓',
        title: `${isSession ? 'Attended' : 'Turned in'} ${titleOf(i.item)}`,
        detail: isSession ? '' : due,
      });
    } else if (i.state === 'missing' && i.dueAt !== null) {
      const title = isSession ? `Missed ${titleOf(i.item)}` : `${titleOf(i.item)} is missing`;
      const detail = isSession ? '' : 'due on this day';
      entries.push({ key: `work ${i.item}`, lane: 'work', at: i.dueAt, sign: '▲', title, detail });
    }
  }
  for (const g of story.grades) {
    const score = g.score === null ? `${numberWords(g.points)} points` : percentWords(g.score);
    entries.push({
      key: `grade ${g.item}`,
      lane: 'grades',
      at: g.at,
      sign: '●',
      title: `${score} on ${titleOf(g.item)}`,
      detail: g.classMean === null ? '' : `class mean ${percentWords(g.classMean)}`,
      ...(g.score === null ? {} : { score: g.score }),
      ...(g.classMean === null ? {} : { classMean: g.classMean }),
    });
  }
  for (const r of answer.rules)
    for (const s of r.spells)
      entries.push({
        key: `rule ${r.rule} ${s.from}`,
        lane: 'rules',
        at: s.from,
        to: s.to,
        sign: '▬',
        title: `“${r.name}” began to match`,
        detail: s.to === null ? 'and still does' : `until ${dayWords(s.to, zone)}`,
        link: `${base}/rules/${r.rule}`,
      });
  for (const [i, line] of answer.lines.entries()) entries.push(messageOf(line, i, base, zone));
  for (const n of notes)
    entries.push({
      key: `note ${n.id}`,
      lane: 'notes',
      at: n.at,
      sign: '■',
      title: 'Your note',
      detail: '',
      quote: n.text,
    });
  return entries.sort((a, b) => b.at - a.at);
}

function messageOf(line: StudentLine, index: number, base: string, zone: string): TimelineEntry {
  const all = { key: `line ${index}`, lane: 'messages', at: line.at, link: `${base}/log?nudge=${line.nudge}` } as const;
  if (line.kind === 'return') return { ...all, sign: '↩', title: 'Came back', detail: line.what };
  if (line.kind === 'answer') return { ...all, sign: '✎', title: 'You answered', detail: line.by, quote: line.text };
  if (line.kind !== 'nudge')
    return { ...all, sign: '✉', title: REPLY_TITLES[line.kind], detail: line.from, quote: line.text || '(no text)' };
  const why = line.reason ? withdrawnWords(line.reason, line.evidence) : evidenceWords(line.evidence, zone);
  const { sign, words } = line.toStudent || line.state !== 'sent' ? STATES[line.state] : TOLD;
  const subject = line.subject ? `“${line.subject}” ` : '';
  return { ...all, sign, title: `${words} “${line.ruleName}”`, detail: `${subject}${why}` };
}

/** A nudge by its state: its sign, and what comes before the rule's name. */
const STATES: Readonly<Record<MessageState, { readonly sign: string; readonly words: string }>> = {
  queued: { sign: '●', words: 'On its way from' },
  handing: { sign: '●', words: 'On its way from' },
  held: { sign: '◆', words: 'Waiting for you, from' },
  sent: { sign: '●', words: 'Nudged by' },
  uncertain: { sign: '●', words: 'Unclear whether it arrived, from' },
  withdrawn: { sign: '○', words: 'Canceled, from' },
  failed: { sign: '○', words: 'Could not be sent, from' },
  dismissed: { sign: '○', words: 'Dismissed by you, from' },
};

/** An alert went to others; the student got nothing. */
const TOLD = { sign: '○', words: 'Others were told by' };

/** One entry for each day on which they were in the course: what they did, in words. */
function daysOf(course: Course, acts: readonly StoryAct[], titleOf: (id: string) => string): TimelineEntry[] {
  const days = new Map<number, StoryAct[]>();
  for (const act of acts) {
    const day = course.calendar.dayNumber(act.at);
    days.set(day, [...(days.get(day) ?? []), act]);
  }
  return [...days].map(([day, of]): TimelineEntry => {
    const visits = of.filter((a) => a.kind === 'visit').length;
    const did = new Map<string, number>();
    for (const a of of) {
      if (a.kind === 'visit' || a.kind === 'signIn') continue;
      const words = a.item === null ? EVENT_WORDS[a.kind] : `${EVENT_WORDS[a.kind]} ${titleOf(a.item)}`;
      did.set(words, (did.get(words) ?? 0) + 1);
    }
    const acted = [...did].map(([words, n]) => (n === 1 ? words : `${words} ${n} times`));
    const there = of.some((a) => a.kind === 'attend' || (kindMask(a.kind) & VISIT_EVIDENCE) !== 0);
    return {
      key: `day ${day}`,
      lane: 'activity',
      at: of.at(-1)!.at,
      sign: '·',
      title: !there
        ? of.some((a) => a.kind === 'absent')
          ? 'Absent'
          : 'Signed in'
        : visits > 0
          ? plural(visits, 'visit')
          : 'In the course',
      detail: acted.join('; '),
    };
  });
}
