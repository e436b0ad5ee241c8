/**
 * What may embarrass a sender, found while the words are written: against the rules that use them, the course they speak of,
 * and what readers take ill. Checks advise and never forbid; where there is a plain way to mend a thing, it comes along.
 */
import { leavesOf } from '../conditions/condition.ts';
import type { Course } from '../course/course.ts';
import { fullName } from '../course/person.ts';
import { firstOpen } from '../rounds/decide/quietHours.ts';
import { WEEKDAY_NAMES, WEEKDAYS } from '../time/weekday.ts';
import type { Rule } from '../rules/rule.ts';
import { dateOf } from '../time/calendar.ts';
import { dateWithin, monthOf, MONTHS } from '../time/typedDate.ts';
import { DAY, HOUR, type Instant } from '../time/instant.ts';
import { roundInstants } from '../time/rhythm.ts';
import { clockWords, dateWords, listWords } from '../time/words.ts';
import { dueItem, fieldTitle, linkedItem } from './fields.ts';
import { parseLiquid } from './liquid.ts';
import { misfits } from './misfits.ts';
import { stillTime } from './stillTime.ts';
import type { Check, CheckContext, TextFix, Words } from './check.ts';
import { usesOf } from './uses.ts';

type Checker = (words: Words, against: CheckContext) => Check[];

export function checkWording(words: Words, against: CheckContext): Check[] {
  return CHECKERS.flatMap((check) => check(words, against));
}

/** What a mail program's list of letters shows of a subject on a phone: common practice, no source. */
const LONGEST_SUBJECT = 60;
/** More words than a busy reader takes in: common practice, no source. */
const MOST_WORDS = 220;

const CHECKERS: readonly Checker[] = [
  noFirstName,
  noFallback,
  timeOfDay,
  passedDate,
  stillTime,
  misfits,
  typedName,
  attachment,
  copyWords,
  noWayToAnswer,
  longSubject,
  longText,
  shouting,
  blame,
  lastReminder,
];

const PATHS = ['subject', 'text'] as const;
/** What a reader sees for sure: the words without fields and tags. */
const plain = (text: string): string => text.replace(/{{[^}]*}}|{%[^%]*%}/g, ' ');

const replaced = (words: Words, path: Check['path'], from: string, to: string): TextFix['words'] => ({
  subject: words.subject,
  text: words.text,
  [path]: words[path].replace(from, to),
});

/** What may stand where a field has nothing to say. */
export const FALLBACKS: Readonly<Record<string, string>> = {
  'student.first_name': 'Hello',
  'item.title': 'your work',
  'item.due': 'soon',
  'student.missing_items': 'some of your work',
  'student.missing_list': '- nothing that I know of',
  'student.due_soon_items': 'some of your work',
  'student.due_soon_list': '- nothing that I know of',
  'student.score_list': '- nothing graded yet',
  'student.topic_list': '- nothing in particular',
  'students.list': '- nobody',
  'item.link': 'your work',
  'sender.office_hours': 'answer this message',
  'sender.booking': 'answer this message',
};
/** What is known of everybody, so that it needs none. */
const ALWAYS = new Set([
  'course.code',
  'course.title',
  'course.link',
  'student.full_name',
  'students.list',
  'reader.name',
  'sender.signature',
  'sender.name',
]);

function noFallback(words: Words): Check[] {
  return PATHS.flatMap((path) =>
    usesOf(parseLiquid(words[path], path, [])?.templates ?? []).flatMap(({ field, quote, bare }): Check[] => {
      if (!bare || ALWAYS.has(field) || linkedItem(field) !== null) return [];
      const fallback = FALLBACKS[dueItem(field) === null ? field : 'item.due'];
      // The other filters stay; what they make of nothing is nothing, and the fallback takes its place.
      const to = fallback && quote.replace(/\s*(-?}})$/, ` | default: "${fallback}" $1`);
      return [
        {
          code: 'noFallback',
          path,
          quote,
          message: `“${fieldTitle(field)}” has no fallback: a student without this value would see a gap`,
          mend: to ? { label: `Fall back to “${fallback}”`, words: replaced(words, path, quote, to) } : null,
        },
      ];
    }),
  );
}

function noFirstName(words: Words): Check[] {
  if (words.purpose === 'toMyself' || words.copy || /^\s*(?:\w+[ ,]+){0,2}{{\s*student\.first_name/.test(words.text))
    return [];
  const greeting = '{{ student.first_name | default: "Hello" }},\n\n';
  return [
    {
      code: 'noFirstName',
      path: 'text',
      quote: '',
      message: 'It does not begin with the student’s first name, so it may read like a form letter',
      mend: { label: 'Begin with it', words: { subject: words.subject, text: greeting + words.text.trimStart() } },
    },
  ];
}

/** Local hours `[from, to)` in which a greeting fits: common practice, no source. */
const GREETINGS: readonly (readonly [words: RegExp, from: number, to: number])[] = [
  [/\bgood morning\b/i, 4, 12],
  [/\bgood afternoon\b/i, 12, 18],
  [/\bgood evening\b/i, 17, 24],
];

function timeOfDay(words: Words, { course, rules, now }: CheckContext): Check[] {
  const { zone } = course.calendar;
  return PATHS.flatMap((path) =>
    GREETINGS.flatMap(([greeting, from, to]): Check[] => {
      const quote = greeting.exec(words[path])?.[0];
      if (!quote) return [];
      for (const rule of rules) {
        // The next weeks of rounds are enough to see every hour at which it leaves.
        for (const round of roundInstants(rule.rhythm, course.calendar, now, now + 28 * DAY)) {
          const leaves = zone.toWall(firstOpen(round, course.settings.quietHours, course));
          const hour = (((leaves % DAY) + DAY) % DAY) / HOUR;
          if (hour >= from && hour < to) continue;
          const time = new Date(leaves).toISOString().slice(11, 16);
          const to2 = /^good/.test(quote) ? 'hello' : 'Hello';
          return [
            {
              code: 'timeOfDay',
              path,
              quote,
              message: `“${quote}” would be read at ${clockWords(time)}: that is when “${rule.name}” leaves`,
              mend: { label: `Say “${to2}”`, words: replaced(words, path, quote, to2) },
            },
          ];
        }
      }
      return [];
    }),
  );
}

const MONTH_NAMES = MONTHS.map((m) => m[0]!.toUpperCase() + m.slice(1));
const DATE = new RegExp(
  `\\b(${[...MONTH_NAMES, ...MONTH_NAMES.map((m) => m.slice(0, 3))].join('|')})\\.? (\\d{1,2})(?:st|nd|rd|th)?\\b`,
  'g',
);
const RELATIVE = new RegExp(
  `\\b(?:today|tonight|tomorrow|yesterday|(?:this|next|on|by|until|last) (?:${WEEKDAYS.map((d) => WEEKDAY_NAMES[d]).join('|')}))\\b`,
  'i',
);

/** The last day on which one of the rules may send, and whether it looks on more than one. */
function runOf(rules: readonly Rule[], course: Course, now: Instant): { last: string; days: number } | null {
  const days = rules.flatMap((r) =>
    roundInstants(r.rhythm, course.calendar, now).map((t) => dateOf(course.calendar.dayNumber(t))),
  );
  return days.length === 0 ? null : { last: [...days].sort().at(-1)!, days: new Set(days).size };
}

function passedDate(words: Words, { course, rules, now }: CheckContext): Check[] {
  const run = runOf(rules, course, now);
  if (!run) return [];
  return PATHS.flatMap((path): Check[] => {
    const found: Check[] = [...plain(words[path]).matchAll(DATE)].flatMap(([quote, month, day]): Check[] => {
      const date = dateWithin(course, monthOf(month!), Number(day));
      if (date === null || date >= run.last) return [];
      const message = `${quote} will have passed: a rule that sends this text runs until ${dateWords(run.last)}`;
      return [{ code: 'passedDate', path, quote, message, mend: null }];
    });
    const relative = RELATIVE.exec(plain(words[path]))?.[0];
    if (relative && run.days > 1 && !/^(today|tonight)$/i.test(relative)) {
      const message = `“${relative}” is right on one day only, and a rule that sends this text runs on ${run.days} days`;
      found.push({ code: 'passedDate', path, quote: relative, message, mend: null });
    }
    return found;
  });
}

/** A name that was typed is wrong once the rule is copied to another course, item or student. */
function typedName(words: Words, { course, rules }: CheckContext): Check[] {
  const about = new Set(rules.flatMap((r) => leavesOf(r.when).flatMap((l) => [l.item ?? [], l.items ?? []].flat())));
  const item = about.size === 1 ? course.items.find((i) => about.has(i.id)) : undefined;
  const known = [
    { name: course.title, field: 'course.title' },
    { name: course.code, field: 'course.code' },
    ...(item ? [{ name: item.title, field: 'item.title' }] : []),
  ];
  const people = course.people.filter((p) => p.role === 'student').map(fullName);
  return PATHS.flatMap((path): Check[] => [
    ...known.flatMap(({ name, field }): Check[] => {
      if (name.length < 3 || !plain(words[path]).includes(name)) return [];
      const to = field === 'item.title' ? `{{ ${field} | default: "your work" }}` : `{{ ${field} }}`;
      const message = `“${name}” is typed: in a copy for another course or item it would be wrong`;
      const mend = { label: 'Use the field', words: replaced(words, path, name, to) };
      return [{ code: 'typedName', path, quote: name, message, mend }];
    }),
    ...people.flatMap((name): Check[] => {
      if (!plain(words[path]).includes(name)) return [];
      const message = `“${name}” is a student of this course: everyone who gets this message would read the name`;
      return [{ code: 'typedName', path, quote: name, message, mend: null }];
    }),
  ]);
}

function attachment(words: Words): Check[] {
  const quote = /\b(attached|attachment|enclosed)\b/i.exec(plain(words.text))?.[0];
  if (words.files) {
    if (quote || /\b(file|pdf|letter|worksheet|handout)\b/i.test(plain(words.text))) return [];
    const text = words.text.replace(/\n*({{\s*sender\.signature[^}]*}}\s*)?$/, (_, end: string | undefined) =>
      ['\n\nYou find it attached.', ...(end ? [end.trim()] : [])].join('\n\n'),
    );
    return [
      {
        code: 'fileUnsaid',
        path: 'text',
        quote: '',
        message: `${words.files === 1 ? 'A file goes' : `${words.files} files go`} with it, and no word says so`,
        mend: { label: 'Say so', words: { subject: words.subject, text } },
      },
    ];
  }
  if (!quote) return [];
  return [
    {
      code: 'attachment',
      path: 'text',
      quote,
      message: `It says “${quote}”, and the wording has no attachment`,
      mend: null,
    },
  ];
}

/** Third parties who would read the student's own words. */
function copyWords(words: Words, { rules }: CheckContext): Check[] {
  if (words.copy || words.purpose === 'toMyself') return [];
  const readers = [
    ...new Set(
      rules.flatMap((r) => r.steps.flatMap((s) => (words.id === undefined || s.wording === words.id ? s.to : []))),
    ),
  ].filter((to) => to !== 'student' && !words.copies?.some((c) => c.to === to || c.to === 'anyone'));
  if (readers.length === 0) return [];
  const names = listWords(readers.map((to) => to.replace(/^(contact|address):/, '')));
  const message = `There is no text of its own for ${names}: these readers get the student’s text with a short introduction`;
  return [{ code: 'copyWords', path: 'text', quote: '', message, mend: null }];
}

const ANSWERS =
  /sender\.booking|sender\.office_hours|\b(answer|reply|write to me|write back|tell me|ask me|call me|come (and|to|by)|let me know|talk to me|send it to me|get in touch)\b/i;

function noWayToAnswer(words: Words): Check[] {
  if (words.purpose === 'toMyself' || words.copy || ANSWERS.test(words.text)) return [];
  const help = 'If something is in the way, {{ sender.office_hours | default: "answer this message" }}.';
  const signature = /\n*{{\s*sender\.signature[^}]*}}\s*$/;
  const text = signature.test(words.text)
    ? words.text.replace(signature, (s) => `\n\n${help}\n\n${s.trim()}`)
    : `${words.text.trimEnd()}\n\n${help}`;
  return [
    {
      code: 'noWayToAnswer',
      path: 'text',
      quote: '',
      message: 'It offers no way to reply or to get help',
      mend: { label: 'Add such a line', words: { subject: words.subject, text } },
    },
  ];
}

function longSubject(words: Words): Check[] {
  // A field is taken as long as most values of it are.
  const length = words.subject.replace(/{%[^%]*%}/g, '').replace(/{{[^}]*}}/g, 'xxxxxxxxxx').length;
  if (length <= LONGEST_SUBJECT) return [];
  const message = `An inbox shows about ${LONGEST_SUBJECT} letters of a subject; this has about ${length}`;
  return [{ code: 'longSubject', path: 'subject', quote: '', message, mend: null }];
}

function longText(words: Words): Check[] {
  const count = plain(words.text).split(/\s+/).filter(Boolean).length;
  if (count <= MOST_WORDS) return [];
  const message = `${count} words: many students do not read to the end`;
  return [{ code: 'longText', path: 'text', quote: '', message, mend: null }];
}

function shouting(words: Words, { course }: CheckContext): Check[] {
  const codes = new Set(course.code.split(/\W+/));
  return PATHS.flatMap((path): Check[] => {
    const text = plain(words[path]);
    const capitals = [...text.matchAll(/\b[A-Z]{4,}\b/g)].map(([w]) => w).filter((w) => !codes.has(w));
    const marks = /[!?]{2,}/.exec(text)?.[0];
    const quote = capitals[0] ?? marks;
    if (quote === undefined) return [];
    const softer = capitals[0] === undefined ? quote[0]! : quote.toLowerCase();
    const mend = { label: `Say “${softer}”`, words: replaced(words, path, quote, softer) };
    return [{ code: 'shouting', path, quote, message: `“${quote}” reads as shouting`, mend }];
  });
}

const BLAME =
  /\b(you (?:always|never|failed to|neglected to|should have|clearly|obviously)|your (?:fault|failure|negligence|laziness)|no excuses?|unacceptable|disappointed in you|irresponsible|careless|lazy)\b/i;

function blame(words: Words): Check[] {
  return PATHS.flatMap((path): Check[] => {
    const quote = BLAME.exec(plain(words[path]))?.[0];
    if (!quote) return [];
    const message = `“${quote}” blames. Students who feel blamed rarely reply`;
    return [{ code: 'blame', path, quote, message, mend: null }];
  });
}

function lastReminder(words: Words, { rules }: CheckContext): Check[] {
  const repeating = rules.filter((r) => r.repeat.perTerm !== 1);
  if (repeating.length === 0) return [];
  return PATHS.flatMap((path): Check[] => {
    const quote = /\b(last|final) (reminder|notice|warning|message|time)\b/i.exec(plain(words[path]))?.[0];
    if (!quote) return [];
    const names = listWords(repeating.map((r) => `“${r.name}”`));
    return [
      {
        code: 'lastReminder',
        path,
        quote,
        message: `“${quote}” is a promise, and ${names} may break: it can send again`,
        mend: null,
      },
    ];
  });
}
