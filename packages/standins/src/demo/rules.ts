/** The rules and wordings of the demo, as an instructor would have set them up in the first week. */
import type { Wording } from '@zest-bell/core';

const student = { roles: ['student'] };
const toStudent = (wording: string) => [{ after: { days: 0 }, deliver: 'send', to: ['student'], wording }];

export const NAV_RULES: readonly object[] = [
  {
    id: 'quiet',
    name: 'Quiet for five days',
    note: 'A first friendly word before a gap becomes a habit.',
    label: 'Support',
    status: 'on',
    audience: student,
    when: { measure: 'daysSinceVisit', is: '>=', value: 5 },
    rhythm: {
      start: '2026-09-08T09:30',
      rrule: 'FREQ=WEEKLY;BYDAY=MO,TU,WE,TH,FR',
      until: '2026-12-11',
      skipBreaks: true,
    },
    repeat: { perSpell: 1, perTerm: 3 },
    steps: toStudent('gentle'),
  },
  {
    id: 'drift',
    name: 'Drifting after the tide quiz',
    note: 'Catch people who slip away after a weak first quiz, before the chart labs pile up.',
    label: 'Support',
    status: 'on',
    audience: student,
    when: {
      all: [
        { measure: 'daysSinceVisit', is: '>=', value: 3 },
        { measure: 'score', item: 'tide-quiz', is: '<=', value: 65 },
      ],
    },
    rhythm: { start: '2026-09-15T10:15', rrule: 'FREQ=WEEKLY;BYDAY=TU,TH', until: '2026-12-11', skipBreaks: true },
    repeat: { perSpell: 1, perTerm: 2 },
    steps: toStudent('talk'),
  },
  {
    id: 'standing',
    name: 'Never looked where they stand',
    note: 'Students who know their grade ask for help sooner.',
    label: 'Content',
    status: 'on',
    audience: student,
    when: { measure: 'opens', item: 'standing', is: 'equals', value: 0 },
    rhythm: { start: '2026-09-16T16:00', rrule: 'FREQ=WEEKLY;BYDAY=WE', until: '2026-11-18', skipBreaks: true },
    repeat: { perTerm: 2, gap: { days: 14 } },
    steps: toStudent('standing'),
  },
  {
    id: 'labs',
    name: 'A chart lab is missing',
    note: 'Twice a week until it is in, but never two letters within a week.',
    label: 'Work',
    status: 'on',
    audience: student,
    when: { measure: 'missing', group: 'Labs', is: '>=', value: 1 },
    rhythm: { start: '2026-09-21T18:00', rrule: 'FREQ=WEEKLY;BYDAY=MO,TH', until: '2026-12-17', skipBreaks: true },
    repeat: { perSpell: 2, gap: { days: 7 } },
    steps: toStudent('lab'),
  },
  {
    id: 'strong',
    name: 'Strong work, worth a word',
    note: 'The ones who do well hear it too.',
    label: 'Praise',
    status: 'on',
    audience: student,
    when: {
      all: [
        { measure: 'courseGrade', is: '>=', value: 90 },
        { measure: 'missing', group: 'Labs', is: 'equals', value: 0 },
      ],
    },
    rhythm: { start: '2026-09-25T15:00', rrule: 'FREQ=WEEKLY;BYDAY=FR', until: '2026-12-11', skipBreaks: true },
    repeat: { perSpell: 1, gap: { days: 28 } },
    steps: toStudent('strong'),
  },
];

export const MET_RULES: readonly object[] = [
  {
    id: 'quiet',
    name: 'Not seen this week',
    note: '',
    label: 'Support',
    status: 'on',
    audience: student,
    when: { measure: 'daysSinceSignIn', is: '>=', value: 6 },
    rhythm: { start: '2026-09-09T08:45', rrule: 'FREQ=WEEKLY;BYDAY=MO,WE,FR', until: '2026-12-11', skipBreaks: true },
    repeat: { perSpell: 1 },
    steps: toStudent('gentle'),
  },
  {
    id: 'forecast',
    name: 'Forecast due tomorrow',
    note: 'A reminder on Saturday morning for what closes on Sunday.',
    label: 'Reminder',
    status: 'paused',
    audience: student,
    when: {
      all: [
        { measure: 'submitted', item: 'forecast-3', is: 'equals', value: false },
        { measure: 'hoursUntilDue', item: 'forecast-3', is: '<=', value: 38 },
        { measure: 'hoursUntilDue', item: 'forecast-3', is: '>', value: 0 },
      ],
    },
    rhythm: { start: '2026-10-24T10:00', rrule: 'FREQ=WEEKLY;BYDAY=SA', until: '2026-11-07', skipBreaks: true },
    repeat: { perSpell: 1 },
    steps: toStudent('reminder'),
  },
];

const gentle: Wording = {
  id: 'gentle',
  name: 'Gentle check-in',
  purpose: 'support',
  subject: 'A quiet week in {{ course.title }}',
  text: `{{ student.first_name | default: "Hello" }},

I noticed it has been quiet on your side{% if student.last_visit %} since {{ student.last_visit }}{% endif %}, and wanted to ask how you are. Is something in the way that I can help with?

A week away is easily made up in {{ course.title }}, and easier now than later.{% if student.missing_items %}

Waiting for you: {{ student.missing_items }}.{% endif %}

If you get stuck, {{ sender.office_hours | default: "write to me any time" }}, or just answer this message.

{{ sender.signature }}`,
};

export const NAV_WORDINGS: readonly Wording[] = [
  gentle,
  {
    id: 'talk',
    name: 'Let’s talk',
    purpose: 'firm',
    subject: '{{ student.first_name | default: "Hello" }}, ten minutes about {{ course.code }}?',
    text: `{{ student.first_name | default: "Hello" }},

{{ item.title }} was a hard one{% if item.score %}, and {{ item.score }} is a place to start from, not where you have to stay{% endif %}. I would like to look at it with you before the next chart lab.

Could we spend ten minutes on it this week? {{ sender.office_hours | default: "Tell me a time that suits you" }}, or {{ sender.booking | default: "answer this message" }}. Bring the question you missed that annoys you most.{% if student.topic_list %}

If you want to look at something before:

{{ student.topic_list }}{% endif %}

{{ sender.signature }}`,
    copies: [
      {
        to: 'contact:advisor',
        subject: '{{ student.full_name }} in {{ course.code }}',
        text: `Dear {{ reader.name }},

{{ student.full_name }} had {{ item.score | default: "a low score" }} on {{ item.title }} and was last in the course {% if student.last_visit %}on {{ student.last_visit }}{% else %}never{% endif %}. I have written to {{ student.first_name }} and offered ten minutes; a word from you may help.

{{ sender.signature }}`,
      },
    ],
  },
  {
    id: 'standing',
    name: 'Where you stand',
    purpose: 'support',
    subject: 'One page worth two minutes',
    text: `{{ student.first_name | default: "Hello" }},

There is a page in {{ course.title }} called “{{ item.title }}”. It shows what has been graded, what is still open, and what each part counts. You have not looked at it yet, and people who do tend to ask me sooner.

Two minutes, and then tell me if a number on it surprises you.

{{ sender.signature }}`,
    variants: [
      {
        subject: 'Do you know where you stand?',
        text: `{{ student.first_name | default: "Hello" }},

One page in {{ course.title }} answers the question I am asked most: {{ item.link | default: "where you stand" }}. Have a look, and tell me what on it you would like to change.

{{ sender.signature }}`,
      },
    ],
  },
  {
    id: 'lab',
    name: 'Your lab is waiting',
    purpose: 'reminder',
    subject: 'Your lab work in {{ course.code }}',
    text: `{{ student.first_name | default: "Hello" }},

I do not have this from you yet:

{{ student.missing_list | default: "- your lab" }}

Late is better than never here: hand in what you have, even if a plot is unfinished, and I will tell you what is left. If the tools are the trouble, {{ sender.office_hours | default: "answer this message" }}.

{{ sender.signature }}`,
    variants: [
      {
        subject: 'What would help with your lab?',
        text: `{{ student.first_name | default: "Hello" }},

still open, and still worth handing in:

{{ student.missing_list | default: "- your lab" }}

What would help you most with it: an hour in the chart room, a worked example, or two more days? Answer with one word and I will see to it.

{{ sender.signature }}`,
      },
    ],
  },
  {
    id: 'strong',
    name: 'That was strong work',
    purpose: 'praise',
    subject: 'Well done, {{ student.first_name | default: "and thank you" }}',
    text: `{{ student.first_name | default: "Hello" }},

A short word, because good work goes unremarked too often: nothing is missing, and your grade stands at {{ student.course_grade | default: "a very good place" }}. Your plots are careful and it shows.

If you feel like it, answer somebody’s question in the watch log this week. You would be good at it.

{{ sender.signature }}`,
  },
];

export const MET_WORDINGS: readonly Wording[] = [
  gentle,
  {
    id: 'reminder',
    name: 'Due tomorrow night',
    purpose: 'reminder',
    subject: '{{ item.title }} is due soon',
    text: `{{ student.first_name | default: "Hello" }},

A reminder, nothing more: {{ item.title }} is due {{ item.due | default: "soon" }}. If you have started, you are nearly there. If not, start with the surface chart and stop after an hour.

{{ sender.signature }}`,
  },
];

export const NAV_SENDER = {
  name: 'Dr. R. Ostrander',
  address: 'r.ostrander@saltmarsh.example',
  replyTo: 'r.ostrander@saltmarsh.example',
  signature: 'Warmly,\nR. Ostrander',
  officeHours: 'I am online Tuesdays 2 to 4 PM',
  bookingUrl: 'https://booking.saltmarsh.example/r-ostrander',
  answers: 'server',
} as const;

export const MET_SENDER = { ...NAV_SENDER, officeHours: 'I am online Thursdays 11 AM to noon' };
