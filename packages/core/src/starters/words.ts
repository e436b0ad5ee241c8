/**
 * The texts that starters bring along. Each opens with the first name, claims only what its rule has found, and names one next
 * step and one way to get help; a test holds each to the measures of its rule. A message may leave at any hour and to
 * anybody the rule finds, so none greets with a time of day or praises what no measure looks at.
 */
import type { Wording, WordingPurpose } from '../wording/wording.ts';

const HELLO = '{{ student.first_name | default: "Hello" }},';
const SIGNED = '{{ sender.signature }}';
const HELP = '{{ sender.office_hours | default: "Reply to this message and we will find a time" }}.';

const wording = (
  id: string,
  name: string,
  purpose: WordingPurpose,
  subject: string,
  ...paragraphs: string[]
): Wording => ({ id, name, purpose, subject, text: [HELLO, ...paragraphs, SIGNED].join('\n\n') });

/** The wording with a further text that says the same in other words. */
const also = (wording: Wording, subject: string, ...paragraphs: string[]): Wording => ({
  ...wording,
  variants: [...(wording.variants ?? []), { subject, text: [HELLO, ...paragraphs, SIGNED].join('\n\n') }],
});

export const AWAY_FIRST = also(
  wording(
    'away-first',
    'We miss you in class',
    'support',
    'Is everything all right?',
    'I have not seen you in {{ course.title }}{% if student.last_visit %} since {{ student.last_visit }}{% endif %}, so I wanted to ask how you are doing. A week gets busy, and it is easy to lose track of one course.',
    'The best next step is a short one: open the course and look at what is due this week. You do not have to catch up on everything at once.',
    `If something is in the way, I would like to help. ${HELP}`,
  ),
  'How are you doing?',
  'It has been quiet on your side of {{ course.title }}{% if student.last_visit %} since {{ student.last_visit }}{% endif %}, and I wanted to check in. You do not need a special reason to come back.',
  'Pick one small thing in the course and start there. Ten minutes is enough to get going again, and the rest is easier after that.',
  `If you are not sure where to start, ask me and I will tell you what matters most right now. ${HELP}`,
);

export const LESS_ACTIVE = also(
  wording(
    'less-active',
    'Less often than before',
    'support',
    'How is {{ course.code }} going?',
    'You have been in {{ course.title }} less often in the last two weeks than in the two weeks before, and I wanted to ask how things are going. There can be many good reasons for that.',
    'If you would like to get back into a rhythm, the best next step is small: open the course today, look at what is due next, and pick a day for it. A short visit every few days keeps the work from piling up.',
    `If something makes this course harder than it should be, please tell me. ${HELP}`,
  ),
  'A quick question about {{ course.code }}',
  'In the last two weeks you have come to {{ course.title }} less often than in the two weeks before. Weeks differ, and this message is only to ask whether you have what you need.',
  'If you want to catch up, begin with whatever is due next and leave the rest for another day. Twenty minutes are a good start, and the course will feel familiar again quickly.',
  `If a deadline or a topic stands in the way, let us talk about it. ${HELP}`,
);

export const AWAY_FIRM = also(
  wording(
    'away-firm',
    'Let us find a way back',
    'firm',
    'Let us find a way back into {{ course.code }}',
    '{% if student.last_visit %}It has now been {{ student.days_since_visit | default: "a while" }} since you were in {{ course.title }}{% else %}I have not seen you in {{ course.title }} yet{% endif %}, and I am concerned that it will get hard to catch up.{% if student.missing_items %} This work is still open: {{ student.missing_items }}.{% endif %}',
    'Please reply to me this week, even with one line. Tell me whether you want to continue, and we will work out together what to do first and what can wait.',
    `There is still a way to finish well. ${HELP}`,
  ),
  'There is still time for {{ course.code }}',
  '{% if student.last_visit %}You have been away from {{ course.title }} for {{ student.days_since_visit | default: "a while" }}.{% else %}You have not been in {{ course.title }} yet.{% endif %} I would like you to finish this course, and the sooner we talk, the more is possible.{% if student.missing_items %} This work is still open: {{ student.missing_items }}.{% endif %}',
  'Please reply this week and tell me how things stand. If you plan to leave the course, tell me that too, and I will help you do it in the best way.',
  `We can decide together what comes first. ${HELP}`,
);

export const SYLLABUS = also(
  wording(
    'syllabus-first',
    'Read this page before the quiz',
    'reminder',
    'One page to read before the quiz',
    'A quiz is coming up in {{ course.title }}, and it looks as if you have not opened {{ item.title | default: "the syllabus" }} yet. It is the page that answers most of the questions I get in the days before a quiz.',
    'Please open {{ item.link | default: "the page" }} today and read it once. It takes about five minutes, and you will know what to expect.',
    `If anything on the page is unclear, ask me before the quiz rather than after it. ${HELP}`,
  ),
  'Five minutes before the quiz',
  'Before the coming quiz in {{ course.title }}, there is one page that is worth your time: {{ item.link | default: "the syllabus" }}. I do not see that you have opened it yet.',
  'Read through it once before you start the quiz. Most students need about five minutes, and it is better to know the rules of the course before they matter.',
  `Bring me any question that it leaves open. ${HELP}`,
);

export const NOT_SUBMITTED = also(
  wording(
    'not-submitted',
    'Nothing submitted yet',
    'reminder',
    '{{ item.title | default: "Your work" }}: nothing submitted yet',
    '{{ item.title | default: "Your work" }} is due {{ item.due | default: "soon" }}, and I do not have anything from you yet. There is still time to get it done.',
    'Set aside twenty minutes for it today and write down where you get stuck. An unfinished attempt is worth more than none, and it shows me how to help you.',
    `If you do not know how to begin, tell me what you have tried so far. ${HELP}`,
  ),
  'A question about {{ item.title | default: "your work" }}',
  'I looked for {{ item.title | default: "your work" }} from you and did not find it yet. It is due {{ item.due | default: "soon" }}, so there is still time.',
  'A good next step is to read the instructions once more and do the first part only. The rest is usually easier after that.',
  `Where do you get stuck? Send me one sentence about it, and I will point you in the right direction. ${HELP}`,
);

export const FORUM = also(
  wording(
    'forum-closes',
    'The discussion closes soon',
    'reminder',
    'Closes soon: {{ student.due_soon_items | default: "the discussion" }}',
    'This closes soon in {{ course.title }}, and you have not posted in it yet:',
    '{{ student.due_soon_list | default: "- the discussion" }}',
    'I would like to hear what you think about it.',
    'Three honest sentences are a fine start. You could write about what surprised you, what you would do differently, or what you would like to ask the others. You do not need to be right, and it does not have to be long.',
    `If you are not sure what to write about, ask me. ${HELP}`,
  ),
  'There is still time to join the discussion',
  'This is still open for a short time in {{ course.title }}, and I do not see a post from you yet:',
  '{{ student.due_soon_list | default: "- the discussion" }}',
  'Your view would be welcome there.',
  'The easiest way in is to read what is there and answer one person. Say what you agree with, or ask about something that was not clear to you. A few sentences are enough.',
  `If the question itself is hard to understand, let me know. ${HELP}`,
);

export const LOW_AND_AWAY = also(
  wording(
    'low-and-away',
    'After a hard result',
    'support',
    'About {{ item.title | default: "your last result" }}',
    '{{ item.title | default: "Your last work" }} was a hard one{% if item.score %}, and your score of {{ item.score }} is a place to start from{% endif %}. I have also not seen you in the course for a few days, so I wanted to reach out. One result does not decide how this course ends.',
    'Please look at what went wrong on one question, just one, and bring it to me. Ten minutes together is usually enough to find out what to work on first.',
    HELP,
  ),
  'Shall we look at {{ item.title | default: "your last result" }} together?',
  'A low score on {{ item.title | default: "your last work" }} is discouraging, and it is tempting to stay away for a while afterward. I have not seen you in the course for a few days, and I would like to help you turn this around.',
  'Choose one question that you would like to understand and send it to me. We will start there, and the rest can wait.',
  `Ten minutes is enough. ${HELP}`,
);

export const NOT_COMPLETED = also(
  wording(
    'not-completed',
    'How far along are you?',
    'support',
    'How far along are you in {{ item.title | default: "the course" }}?',
    'You enrolled in {{ course.title }} {{ student.days_enrolled | default: "some time" }} ago, and you have not completed {{ item.title | default: "it" }} yet. That is fine; you can go at your own pace.',
    'A good next step is to choose one part, do it today, and then put the next one on your calendar. People who do a little every few days are more likely to finish than people who wait for a free weekend.',
    `If your plans have changed, or something is in the way, tell me. ${HELP}`,
  ),
  'Half an hour for {{ item.title | default: "the course" }}?',
  'You enrolled in {{ course.title }} {{ student.days_enrolled | default: "some time" }} ago and have not completed {{ item.title | default: "it" }} yet, so I wanted to ask how it is going.',
  'Could you give it half an hour this week? Start with the next part on your list, and stop when the time is up. Then tell me how far you got, and I will tell you what is left.',
  `If something is in the way, I am happy to help. ${HELP}`,
);

export const PRACTICE = also(
  wording(
    'practice-first',
    'Practice before the quiz',
    'reminder',
    'Practice before {{ item.title | default: "the quiz" }}',
    '{{ item.title | default: "The quiz" }} is due {{ item.due | default: "soon" }}, and you have not used most of the practice yet. The practice does not count toward your grade, so a mistake there costs nothing and tells you what to look at again.',
    'Please do one round today and one tomorrow. Ten minutes each time is enough to find out what you already know and what you should review.',
    `If a task makes no sense to you, send it to me. ${HELP}`,
  ),
  'Ten minutes that help with {{ item.title | default: "the quiz" }}',
  'Most of the practice for this part of {{ course.title }} is still waiting for you, and {{ item.title | default: "the quiz" }} is due {{ item.due | default: "soon" }}. Practice shows you what you know while it does not count yet.',
  'Try one set today. When you get something wrong, look up why, and then try the next one. Ten minutes make a good start.',
  `Tell me which tasks are hardest for you, and I will help you with them. ${HELP}`,
);

export const WORKED_AND_LOW = also(
  wording(
    'worked-and-low',
    'You practiced, and it did not show',
    'support',
    'About your practice and {{ item.title | default: "your last quiz" }}',
    'You have practiced a good part of what there is, and your score on {{ item.title | default: "the quiz" }}{% if item.score %}, {{ item.score }},{% endif %} does not show it. I think that is worth a closer look, because the effort is there.',
    'Please bring me one task that went wrong, together with how you worked on it. It is often a small thing that is in the way, and small things can be found.',
    HELP,
  ),
  'Let us find out what got in the way',
  'I can see that you have worked through much of the practice, and {{ item.title | default: "the quiz" }} still did not go the way you wanted. That is frustrating, and I would like to find the reason with you.',
  'Choose one question from the quiz and write down each step you took. Show me those steps, and we will find the place where it goes wrong.',
  HELP,
);

export const TWO_MISSING = also(
  wording(
    'two-missing',
    'Some work is still open',
    'reminder',
    'Still open in {{ course.code }}: {{ student.missing_count | default: "some work" }}',
    'I do not have all of your work in {{ course.title }} yet. This is still open: {{ student.missing_items | default: "some of your work" }}. It happens, and it can be put right more easily now than at the end of the term.',
    'Start with the one you know best and turn in what you have, even if it is not finished. Then choose a day this week for the next one.',
    `If it is too much for one week, tell me, and we will decide on an order together. ${HELP}`,
  ),
  'One thing at a time',
  'Some of your work in {{ course.title }} is still open: {{ student.missing_items | default: "some of your work" }}. I would rather ask now than let it grow.',
  'Which of them is closest to done? Please turn that one in first, unfinished if need be. After that, tell me when you expect to have the rest.',
  `If something keeps you from working on it, I would like to know, so that we can find a way. ${HELP}`,
);

export const UNDER_MEAN = also(
  wording(
    'under-mean',
    'A plan for the coming weeks',
    'support',
    'A plan for the coming weeks?',
    'Your grade in {{ course.title }} is {{ student.course_grade | default: "lower than it could be" }} right now. I am writing because there is time to change it, and because I would like to help you choose where to begin.',
    'Please think about one question: which part of the course takes you the most time, or gives you the most trouble? Send me your answer, and I will suggest what to work on first.',
    `We can also talk it through. ${HELP}`,
  ),
  'Where would an hour help you most?',
  'With a grade of {{ student.course_grade | default: "less than you may want" }} so far in {{ course.title }}, there is room to gain, and it is a good time to make a plan. I would like to help you with it.',
  'Look at your last few results and pick the one you understand least. Put one hour this week into that topic before anything else.',
  `If you tell me which one it is, I can point you to what helps. ${HELP}`,
);

export const EXCELLENT = also(
  wording(
    'excellent',
    'That was excellent',
    'praise',
    'That was excellent, {{ student.first_name | default: "well done" }}',
    'Your latest score in {{ course.title }} is {{ student.latest_score | default: "excellent" }}. That is an excellent result, and I wanted to tell you so while it is fresh. I am glad to have you in this course.',
    'I would like to ask you one thing: how did you prepare? If you send me a sentence or two, it may help me give better advice to other students. And if there is something you would like to learn beyond the course, tell me that as well.',
    HELP,
  ),
  'A word about your latest work',
  'Your latest work in {{ course.title }} earned {{ student.latest_score | default: "an excellent score" }}. Well done! It is a pleasure to give a score like that, and I did not want it to pass without a word.',
  'Keep doing what works for you. If you would like to try something harder, reply and tell me which topic interests you most, and I will suggest something that fits.',
  HELP,
);

export const WELCOME_BACK = also(
  wording(
    'welcome-back',
    'Good to see you back',
    'praise',
    'Good to see you back',
    'You were away from {{ course.title }} for a while, and now you are back. I am glad about that. Coming back is often the hardest step, and you have taken it.',
    'A good next step is to look at what is due next and begin with that one thing. What lies behind you can wait until you have found your rhythm again.',
    `If you want to know what matters most this week, or would like a plan for the rest, ask me. ${HELP}`,
  ),
  'Glad that you are back',
  'It is good to have you back in {{ course.title }} after some time away. I wanted to say so, because it takes some effort to return after a break.',
  'Begin with what is due next, and do one part of it today. You do not have to make up for everything this week.',
  `If you would like some help to catch up, write to me and we will choose what comes first. ${HELP}`,
);

export const FIVE_DISCUSSIONS = also(
  wording(
    'five-discussions',
    'Thank you for taking part',
    'praise',
    'You have been part of every recent discussion',
    'You have taken part in {{ student.streak | default: "several" }} discussions in a row, and I wanted to thank you for it. A discussion depends on the people who show up every time, and you are one of them.',
    'Is there a question that you would like us to talk about? Send it to me, and it may become the topic of one of the next discussions. If there is something that would make the discussions better for you, I would like to hear that too.',
    HELP,
  ),
  'Thank you for taking part',
  '{{ student.streak | default: "Several" }} discussions in a row: you have posted in every one of them, and I want you to know that I noticed. Thank you for keeping it up.',
  'What should we talk about next? Reply with one idea, even a rough one, and I will see whether we can use it in the course. And if you would like to lead a discussion yourself, tell me.',
  HELP,
);

export const BEFORE_CLASS = {
  id: 'before-class',
  name: 'Before class, for myself',
  purpose: 'toMyself',
  subject: 'Before class: students to talk to',
  text: 'Students in {{ course.title }} you may want to talk to before or after class:\n\n{{ students.list }}\n\nThey did not get a message about this.',
} satisfies Wording;
