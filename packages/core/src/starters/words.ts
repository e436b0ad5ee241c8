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

/** The wording with a further text that says the same in other words. */
const also = (wording: Wording, subject: string, ...paragraphs: string[]): Wording => ({
  ...wording,
  variants: [...(wording.variants ?? []), { subject, text: [HELLO, ...paragraphs, SIGNED].join('\n\n') }],
});

export const AWAY_FIRST = also(
  wording(
    'away-first',
    'We have missed you',
    'support',
    'Everything all right with {{ course.title }}?',
    'I have not seen you in {{ course.title }}{% if student.last_visit %} since {{ student.last_visit }}{% endif %} and wanted to ask how things are going.',
    'A short visit is enough to get back in. If something is in the way, {{ sender.office_hours | default: "tell me" }}, or answer this message: I read what you write.',
  ),
  'How are you, {{ student.first_name | default: "and how is it going" }}?',
  'Your seat in {{ course.title }} has been empty{% if student.last_visit %} since {{ student.last_visit }}{% endif %}, and I would like to know how you are.',
  `Pick one small thing and start there. If it does not work out by yourself, ${HELP}.`,
);

export const AWAY_FIRM = also(
  wording(
    'away-firm',
    'Let us find a way back',
    'firm',
    '{{ student.first_name | default: "Hello" }}, let us find a way back into {{ course.code }}',
    'It has now been {{ student.days_since_visit | default: "a good while" }}, and I would be sorry to lose you.{% if student.missing_items %} This is still open: {{ student.missing_items }}.{% endif %}',
    'Please write to me this week, even if it is one line. Together we can see what is still possible and what comes first.',
  ),
  'Still time for {{ course.code }}',
  '{{ student.days_since_visit | default: "Some time" }} without you is a long gap, and the way back gets steeper.{% if student.missing_items %} What is open: {{ student.missing_items }}.{% endif %}',
  `Let us decide together what to do first: ${HELP}. If you mean to stop, tell me that too, and I will help you do it well.`,
);

export const SYLLABUS = also(
  wording(
    'syllabus-first',
    'The syllabus before the quiz',
    'reminder',
    'Five minutes before the quiz',
    'A quiz is coming up, and you have not opened the syllabus yet. It says what the quiz asks and what it counts, and takes five minutes to read.',
    `If anything in it is unclear, ${HELP}.`,
  ),
  'A page that answers most questions',
  'Before the quiz, one page is worth opening: the syllabus. It tells you what is asked, what it counts, and what you may use.',
  `Read it once, and ask me whatever it leaves open: ${HELP}.`,
);

export const NOT_SUBMITTED = also(
  wording(
    'not-submitted',
    'Nothing handed in yet',
    'reminder',
    '{{ item.title | default: "your work" }}: nothing from you yet',
    '{{ item.title | default: "your work" }} is due {{ item.due | default: "soon" }}, and I do not have anything from you yet.',
    `An unfinished attempt tells me more than none. If you are stuck, ${HELP}.`,
  ),
  'About {{ item.title | default: "your work" }}',
  'I have looked for {{ item.title | default: "your work" }} from you and not found it. It is due {{ item.due | default: "soon" }}.',
  `Twenty minutes today are a beginning. Where do you get stuck? Tell me, or ${HELP}.`,
);

export const FORUM = also(
  wording(
    'forum-closes',
    'The discussion closes tomorrow',
    'reminder',
    'This week’s discussion closes tomorrow',
    'This week’s discussion closes tomorrow, and your voice is not in it yet.',
    'Three honest sentences are a fine start: what surprised you, what you would do differently, what you want to ask the others.',
  ),
  'One more day for the discussion',
  'There is one more day to take part in this week’s discussion. I would like to read what you think.',
  'You need not be right. Answer somebody, or ask what nobody has asked yet.',
);

export const LOW_AND_AWAY = also(
  wording(
    'low-and-away',
    'After a hard result',
    'support',
    'About {{ item.title | default: "your work" }}',
    '{{ item.title | default: "your work" }} did not go the way you wanted{% if item.score %} ({{ item.score }}){% endif %}, and you have not been around since. That happens, and it can be turned around.',
    `Come and look at it with me: ${HELP}. Ten minutes are enough to find what to practise first.`,
  ),
  'Shall we look at {{ item.title | default: "it" }} together?',
  'A result like the one in {{ item.title | default: "your work" }} is discouraging, and staying away is what many would do. It is also what makes it harder.',
  `Give me ten minutes, and we will find the one thing that helps most: ${HELP}.`,
);

export const NOT_COMPLETED = also(
  wording(
    'not-completed',
    'Two weeks in',
    'support',
    'Where are you in {{ course.title }}?',
    'You joined {{ course.title }} {{ student.days_enrolled | default: "some weeks" }} ago and have not finished it yet. There is still time.',
    `Pick one part, do it today, and tell me what comes next. If the plan no longer fits your weeks, ${HELP}.`,
  ),
  'Half an hour for {{ course.title }}?',
  '{{ course.title }} waits for you: you began {{ student.days_enrolled | default: "some weeks" }} ago. Most people who finish do a little every few days.',
  `Put half an hour into this week, and tell me how far you came. If something is in the way, ${HELP}.`,
);

export const PRACTICE = also(
  wording(
    'practice-first',
    'Practise before it counts',
    'reminder',
    'Practise before {{ item.title | default: "your work" }}',
    '{{ item.title | default: "your work" }} is due {{ item.due | default: "soon" }}, and most of the practice is still untouched. Those who practise first find the quiz easier.',
    'Two rounds of ten minutes make a difference. They do not count, so mistakes cost nothing.',
  ),
  'Ten minutes that help with {{ item.title | default: "the quiz" }}',
  'The practice for {{ item.title | default: "the quiz" }} is hardly touched yet, and it is due {{ item.due | default: "soon" }}. It shows you what you know before it counts.',
  'Do one round today and one tomorrow. If a task makes no sense, send it to me.',
);

export const WORKED_AND_LOW = also(
  wording(
    'worked-and-low',
    'You worked, and it did not show',
    'support',
    'I saw how much you practised',
    'I saw how much you practised, and the result does not show it. That is worth looking at together, because the work is there.',
    `Bring one task that went wrong, and we will go through it: ${HELP}.`,
  ),
  'Your work deserves a better result',
  'You practised more than most, and the result does not say so. Something small is probably in the way, and small things can be found.',
  `Show me how you went about one task, and we will see: ${HELP}.`,
);

export const TWO_MISSING = also(
  wording(
    'two-missing',
    'Two things are open',
    'reminder',
    'Open in {{ course.code }}: {{ student.missing_count | default: "some work" }}',
    'This is still open: {{ student.missing_items | default: "some of your work" }}.',
    `Start with the one you know best. If handing in both is too much this week, tell me, and we will set an order: ${HELP}.`,
  ),
  'Two things, one at a time',
  'Two things from you are open: {{ student.missing_items | default: "some of your work" }}.',
  `Which of them is nearer to done? Hand that in first, unfinished if need be. For the other, ${HELP}.`,
);

export const UNDER_MEAN = also(
  wording(
    'under-mean',
    'A plan for the coming weeks',
    'support',
    'A plan for the coming weeks?',
    'Your grade in {{ course.title }} stands at {{ student.course_grade | default: "a point from which a lot can still change" }}. There is enough left to change it, and I would like to help you choose where to begin.',
    `Which part costs you the most time? Tell me that, and ${HELP}.`,
  ),
  'Where would an hour help most?',
  'With {{ student.course_grade | default: "your grade as it is" }} so far, there is room to gain, and the larger part of the course is worth the effort.',
  `Tell me what you find hardest, and I will tell you where an hour helps most. Or ${HELP}.`,
);

export const EXCELLENT = also(
  wording(
    'excellent',
    'That was excellent',
    'praise',
    'That was excellent, {{ student.first_name | default: "well done" }}',
    '{{ student.latest_score | default: "A result like this" }} on your latest work: that is excellent, and I wanted to say so while it is fresh.',
    'If you like, tell me how you prepared. It may help somebody else.',
  ),
  'A word about your latest work',
  'I have just graded your latest work: {{ student.latest_score | default: "an excellent result" }}. Clear, careful, and all your own.',
  'Keep going. And tell me what you would like to try that is harder.',
);

export const WELCOME_BACK = also(
  wording(
    'welcome-back',
    'Good to see you back',
    'praise',
    'Good to see you back',
    'You were away for a while and came back to {{ course.title }}. That is the hardest step, and you took it.',
    'If you want to know what matters most this week, ask me.',
  ),
  'You are back, and I am glad',
  'I saw that you are back in {{ course.title }}, and I am glad. Nobody keeps count of the days you were away.',
  'Begin with what is due next. If you want a plan for the rest, write to me.',
);

export const FIVE_DISCUSSIONS = also(
  wording(
    'five-discussions',
    'A voice in every discussion',
    'praise',
    'You have been in every discussion lately',
    'Five discussions in a row, and your posts carry them. The others answer you because you say something.',
    'Thank you for that. If there is a question you would like us to take up, send it to me.',
  ),
  'Thank you for taking part',
  'You have taken part in five discussions in a row. That is more than I ask for, and it shows in how the others write.',
  'What should we talk about next? Tell me, and it may be the question of the week.',
);

export const BEFORE_CLASS = {
  id: 'before-class',
  name: 'Before class, for myself',
  purpose: 'toMyself',
  subject: 'Before class: {{ student.full_name | default: "a student" }}',
  text: '{{ student.full_name | default: "A student" }}: last visit {{ student.last_visit | default: "never" }}, missing {{ student.missing_items | default: "nothing" }}, grade {{ student.course_grade | default: "none yet" }}.\n\nA word in class may be enough.',
} satisfies Wording;
