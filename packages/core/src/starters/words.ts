/** The words that starters bring along: first name first, short, and with a next step. */
import type { Wording, WordingPurpose } from '../wording/wording.ts';

const HELLO = '{{ student.first_name | default: "Hello" }},';
const SIGNED = '{{ sender.signature }}';
const HELP = '{{ sender.office_hours | default: "answer this message and we will find a time" }}';

const wording = (
  id: string,
  name: string,
  purpose: WordingPurpose,
  subject: string,
  ...paragraphs: string[]
): Wording => ({
  id,
  name,
  purpose,
  subject,
  text: [HELLO, ...paragraphs, SIGNED].join('\n\n'),
});

export const AWAY_FIRST = wording(
  'away-first',
  'We have missed you',
  'support',
  'Everything all right with {{ course.title }}?',
  'I have not seen you in {{ course.title }}{% if student.last_visit %} since {{ student.last_visit }}{% endif %} and wanted to ask how things are going.',
  'A short visit is enough to get back in. If something is in the way, {{ sender.office_hours | default: "tell me" }}, or answer this message: I read what you write.',
);

export const AWAY_FIRM = wording(
  'away-firm',
  'Let us find a way back',
  'firm',
  '{{ student.first_name | default: "Hello" }}, let us find a way back into {{ course.code }}',
  'It has now been {{ student.days_since_visit | default: "a good while" }}, and I would be sorry to lose you.{% if student.missing_items %} This is still open: {{ student.missing_items }}.{% endif %}',
  'Please write to me this week, even if it is one line. Together we can see what is still possible and what comes first.',
);

export const SYLLABUS = wording(
  'syllabus-first',
  'The syllabus before the quiz',
  'reminder',
  'Five minutes before the quiz',
  'A quiz is coming up, and you have not opened the syllabus yet. It says what the quiz asks and what it counts, and takes five minutes to read.',
  `If anything in it is unclear, ${HELP}.`,
);

export const NOT_SUBMITTED = wording(
  'not-submitted',
  'Nothing handed in yet',
  'reminder',
  '{{ item.title | default: "your work" }}: nothing from you yet',
  '{{ item.title | default: "your work" }} is due {{ item.due | default: "soon" }}, and I do not have anything from you yet.',
  `An unfinished attempt tells me more than none. If you are stuck, ${HELP}.`,
);

export const FORUM = wording(
  'forum-closes',
  'The discussion closes tomorrow',
  'reminder',
  'This week’s discussion closes tomorrow',
  'This week’s discussion closes tomorrow, and your voice is not in it yet.',
  'Three honest sentences are a fine start: what surprised you, what you would do differently, what you want to ask the others.',
);

export const LOW_AND_AWAY = wording(
  'low-and-away',
  'After a hard result',
  'support',
  'About {{ item.title | default: "your work" }}',
  '{{ item.title | default: "your work" }} did not go the way you wanted{% if item.score %} ({{ item.score }}){% endif %}, and you have not been around since. That happens, and it can be turned around.',
  `Come and look at it with me: ${HELP}. Ten minutes are enough to find what to practise first.`,
);

export const NOT_COMPLETED = wording(
  'not-completed',
  'Two weeks in',
  'support',
  'Where are you in {{ course.title }}?',
  'You joined {{ course.title }} {{ student.days_enrolled | default: "some weeks" }} ago and have not finished it yet. There is still time.',
  `Pick one part, do it today, and tell me what comes next. If the plan no longer fits your weeks, ${HELP}.`,
);

export const PRACTICE = wording(
  'practice-first',
  'Practise before it counts',
  'reminder',
  'Practise before {{ item.title | default: "your work" }}',
  '{{ item.title | default: "your work" }} is due {{ item.due | default: "soon" }}, and most of the practice is still untouched. Those who practise first find the quiz easier.',
  'Two rounds of ten minutes make a difference. They do not count, so mistakes cost nothing.',
);

export const WORKED_AND_LOW = wording(
  'worked-and-low',
  'You worked, and it did not show',
  'support',
  'I saw how much you practised',
  'I saw how much you practised, and the result does not show it. That is worth looking at together, because the work is there.',
  `Bring one task that went wrong, and we will go through it: ${HELP}.`,
);

export const TWO_MISSING = wording(
  'two-missing',
  'Two things are open',
  'reminder',
  'Open in {{ course.code }}: {{ student.missing_count | default: "some work" }}',
  'This is still open: {{ student.missing_items | default: "some of your work" }}.',
  `Start with the one you know best. If handing in both is too much this week, tell me, and we will set an order: ${HELP}.`,
);

export const UNDER_MEAN = wording(
  'under-mean',
  'A plan for the coming weeks',
  'support',
  'A plan for the coming weeks?',
  'Your grade in {{ course.title }} stands at {{ student.course_grade | default: "a point from which a lot can still change" }}. There is enough left to change it, and I would like to help you choose where to begin.',
  `Which part costs you the most time? Tell me that, and ${HELP}.`,
);

export const EXCELLENT = wording(
  'excellent',
  'That was excellent',
  'praise',
  'That was excellent, {{ student.first_name | default: "well done" }}',
  '{{ student.latest_score | default: "A result like this" }} on your latest work: that is excellent, and I wanted to say so while it is fresh.',
  'If you like, tell me how you prepared. It may help somebody else.',
);

export const WELCOME_BACK = wording(
  'welcome-back',
  'Good to see you back',
  'praise',
  'Good to see you back',
  'You were away for a while and came back to {{ course.title }}. That is the hardest step, and you took it.',
  'If you want to know what matters most this week, ask me.',
);

export const FIVE_DISCUSSIONS = wording(
  'five-discussions',
  'A voice in every discussion',
  'praise',
  'You have been in every discussion lately',
  'Five discussions in a row, and your posts carry them. The others answer you because you say something.',
  'Thank you for that. If there is a question you would like us to take up, send it to me.',
);

export const BEFORE_CLASS = {
  id: 'before-class',
  name: 'Before class, for myself',
  purpose: 'toMyself',
  subject: 'Before class: {{ student.full_name | default: "a student" }}',
  text: '{{ student.full_name | default: "A student" }}: last visit {{ student.last_visit | default: "never" }}, missing {{ student.missing_items | default: "nothing" }}, grade {{ student.course_grade | default: "none yet" }}.\n\nA word in class may be enough.',
} satisfies Wording;
