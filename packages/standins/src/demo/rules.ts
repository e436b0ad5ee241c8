/** The rules and wordings of the demo, as an instructor would have set them up in the first week. */
import type { Wording } from '@zest-bell/core/wording';

const student = { roles: ['student'] };
const toStudent = (wording: string) => [{ after: { days: 0 }, deliver: 'send', to: ['student'], wording }];

export const NAV_RULES: readonly object[] = [
  {
    id: 'quiet',
    name: 'Quiet for five days',
    note: 'A first friendly message before a gap becomes a habit.',
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
    weight: 'strong',
    steps: toStudent('gentle'),
  },
  {
    id: 'drift',
    name: 'Drifting after the tide quiz',
    note: 'For students who slip away after a weak first quiz, before the chart labs pile up.',
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
    weight: 'strong',
    steps: toStudent('talk'),
  },
  {
    id: 'standing',
    name: 'Has not checked their grades page',
    note: 'Students who know their grade ask for help sooner.',
    label: 'Content',
    status: 'on',
    audience: student,
    when: { measure: 'opens', item: 'standing', is: 'equals', value: 0 },
    rhythm: { start: '2026-09-16T16:00', rrule: 'FREQ=WEEKLY;BYDAY=WE', until: '2026-11-18', skipBreaks: true },
    repeat: { perTerm: 2, gap: { days: 14 } },
    weight: 'light',
    steps: toStudent('standing'),
  },
  {
    id: 'labs',
    name: 'A chart lab is missing',
    note: 'Looks twice a week until it is in, but never sends two messages within a week.',
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
    name: 'Strong work, worth a message',
    note: 'Students who do well should hear it too.',
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
    weight: 'light',
    steps: toStudent('strong'),
  },
  {
    id: 'effort',
    name: 'Practices, and still scores low',
    note: 'No automatic message fits these students. Each one waits for you.',
    label: 'Coaching',
    status: 'on',
    audience: student,
    when: {
      all: [
        { measure: 'share', of: 'practice', group: 'Practice', is: '>=', value: 50 },
        { measure: 'courseGrade', is: '<', value: 60 },
      ],
    },
    rhythm: { start: '2026-10-19T07:45', rrule: 'FREQ=WEEKLY;BYDAY=MO', until: '2026-12-11', skipBreaks: true },
    repeat: { perSpell: 1 },
    weight: 'light',
    steps: [{ after: { days: 0 }, deliver: 'hold', to: ['student'], wording: 'effort' }],
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
    weight: 'strong',
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
    weight: 'light',
    steps: toStudent('reminder'),
  },
];

const gentle: Wording = {
  id: 'gentle',
  name: 'Gentle check-in',
  purpose: 'support',
  subject: 'How are things going in {{ course.title }}?',
  text: `{{ student.first_name | default: "Hello" }},

I have not seen you in {{ course.title }}{% if student.last_visit %} since {{ student.last_visit }}{% endif %}, and I wanted to ask how you are doing. Is something in the way that I can help with?

A week away is easy to make up, and it is easier now than later. A good next step is to open the course today and spend ten minutes on what is due next.{% if student.missing_items %}

This work is still open: {{ student.missing_items }}.{% endif %}

If you get stuck, reply to this message. {{ sender.office_hours | default: "I am glad to find a time to talk" }}.

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

{{ item.title | default: "The last quiz" }} was a hard one{% if item.score %}, and {{ item.score }} is a place to start from, not where you have to stay{% endif %}. I have not seen you in the course for a few days, and I would like to look at it with you before the next chart lab.

Could we spend ten minutes on it this week? Please bring the one question that you would most like to understand. {{ sender.office_hours | default: "Tell me a time that suits you" }}, or you can {{ sender.booking | default: "reply to this message" }}.{% if student.topic_list %}

If you would like to review something first:

{{ student.topic_list }}{% endif %}

{{ sender.signature }}`,
    copies: [
      {
        to: 'contact:advisor',
        subject: '{{ student.full_name }} in {{ course.code }}',
        text: `Dear {{ reader.name }},

{{ student.full_name }} had {{ item.score | default: "a low score" }} on {{ item.title | default: "the last quiz" }} and {% if student.last_visit %}was last in the course on {{ student.last_visit }}{% else %}has not been in the course yet{% endif %}. I have written to {{ student.first_name }} and offered to meet for ten minutes. A message from you may help as well.

{{ sender.signature }}`,
      },
    ],
  },
  {
    id: 'standing',
    name: 'Where you stand',
    purpose: 'support',
    subject: 'A page that is worth two minutes',
    text: `{{ student.first_name | default: "Hello" }},

There is a page in {{ course.title }} called “{{ item.title | default: "Where you stand" }}”. It shows what has been graded, what is still open, and how much each part counts. I do not see that you have opened it yet, and students who know where they stand tend to ask for help sooner.

Please take two minutes for it this week. If a number on it surprises you, tell me, and we will look at it together. {{ sender.office_hours | default: "You can always reply to this message" }}.

{{ sender.signature }}`,
    variants: [
      {
        subject: 'Do you know where you stand?',
        text: `{{ student.first_name | default: "Hello" }},

One page in {{ course.title }} answers the question I am asked most often: {{ item.link | default: "Where you stand" }}. It shows what is graded, what is open, and how much each part counts toward the end. You have not opened it yet, as far as I can see.

Please have a look at it this week and tell me what on it you would like to change. I will help you with the first step. {{ sender.office_hours | default: "You can always reply to this message" }}.

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

Late is better than never in this course. Please turn in what you have, even if a plot is unfinished, and I will tell you what is left to do. The first step is the hardest, and an hour is often enough to take it.

If the tools are the trouble, or if the instructions are not clear to you, let me know. {{ sender.office_hours | default: "You can always reply to this message" }}.

{{ sender.signature }}`,
    variants: [
      {
        subject: 'What would help with your lab?',
        text: `{{ student.first_name | default: "Hello" }},

This is still open, and it is still worth turning in:

{{ student.missing_list | default: "- your lab" }}

What would help you most with it: an hour in the chart room, a worked example, or two more days? Reply with one word, and I will see what I can do. If you have already begun, send me what you have.

You are also welcome to talk to me about it. {{ sender.office_hours | default: "Tell me a time that suits you" }}.

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

I am writing with good news, because good work does not get mentioned often enough. All of your labs are in, and your grade in {{ course.title }} is {{ student.course_grade | default: "very good" }}. Well done!

If you would like to do something with it, answer another student’s question in the discussion this week. Explaining a thing is the best way to keep it.

Is there a topic that you would like to know more about? Reply and tell me, and I will suggest something to read.

{{ sender.signature }}`,
  },
  {
    id: 'effort',
    name: 'Let’s look at how you practice',
    purpose: 'support',
    subject: 'Can we look at your practice together, {{ student.first_name | default: "please" }}?',
    text: `{{ student.first_name | default: "Hello" }},

You have worked on the practice sets in {{ course.title }}, and your grade does not show it yet: it is {{ student.course_grade | default: "lower than I would like" }}. That tells me that something in the way we practice does not fit, and I would like to find it with you.

Please bring one exercise that went wrong, and show me how you began. Ten minutes is often enough. {{ sender.office_hours | default: "Tell me a time that suits you" }}, or you can {{ sender.booking | default: "reply to this message" }}.

{{ sender.signature }}`,
  },
];

export const MET_WORDINGS: readonly Wording[] = [
  gentle,
  {
    id: 'reminder',
    name: 'Due tomorrow night',
    purpose: 'reminder',
    subject: '{{ item.title | default: "Your forecast" }} is due soon',
    text: `{{ student.first_name | default: "Hello" }},

This is only a reminder from MET 115: {{ item.title | default: "your forecast" }} closes on November 1, and I do not have yours yet. All forecasts of the fall term close on Sunday at 11:59 PM. If you have started, you may be closer to the end than you think.

If you have not started, begin with the surface chart and work on it for one hour. Then turn in what you have; a part of a forecast is better than none.

If you get stuck on the way, reply to this message and tell me where. {{ sender.office_hours | default: "I read every reply" }}.

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
