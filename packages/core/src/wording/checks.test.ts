import { describe, expect, test } from '@jest/globals';
import { at, courseOf, item, person, ruleOf } from '../testing/build.ts';
import { STARTERS } from '../starters/starters.ts';
import { CHECK_CODES, type Words } from './check.ts';
import { checkWording } from './checks.ts';
import { compileWording } from './render.ts';
import { textsOf } from './wording.ts';

const course = courseOf({
  people: [person('p1', { firstName: 'Imani', lastName: 'Okoro' })],
  items: [item('q1', { title: 'Tide tables quiz', dueAt: at('2026-11-20T23:59') })],
  settings: { quietHours: { from: '21:00', to: '07:00', days: [] } },
});
const now = at('2026-10-26T08:00');
const SOUND: Words = {
  purpose: 'support',
  subject: 'A quiet week',
  text: '{{ student.first_name | default: "Hello" }},\n\nhow are you? Tell me.\n\n{{ sender.signature }}',
};
const rhythm = (start: string, rrule = 'FREQ=DAILY', until = '2026-12-11') => ({
  start: `2026-09-08T${start}`,
  rrule,
  until,
});
const check = (more: Partial<Words>, draft: Record<string, unknown> = {}) =>
  checkWording({ ...SOUND, ...more }, { course, rules: [ruleOf({ rhythm: rhythm('09:30'), ...draft })], now });
const codes = (...args: Parameters<typeof check>) => check(...args).map((c) => c.code);
const body = (text: string) => ({ text: `{{ student.first_name | default: "Hello" }},\n\n${text} Tell me.` });

const copied = { deliver: 'send', to: ['student', 'contact:advisor'], wording: 'gentle' };

test('sound words get no check', () => {
  expect(codes({})).toEqual([]);
});

describe('each check with its reason and, where there is one, its mend', () => {
  test.each([
    ['a field without a fallback', body('{{ item.due }}'), {}, 'noFallback', '{{ item.due | default: "soon" }}'],
    ['good morning at six in the evening', body('Good morning!'), { rhythm: rhythm('18:00') }, 'timeOfDay', 'Hello!'],
    [
      'good morning at a round of the night is read at seven',
      body('Good morning!'),
      { rhythm: rhythm('23:00') },
      null,
      '',
    ],
    [
      'good evening held by quiet hours until the morning',
      body('Good evening!'),
      { rhythm: rhythm('23:00') },
      'timeOfDay',
      'Hello!',
    ],
    ['a date before the last look', body('Hand it in by November 3.'), {}, 'passedDate', null],
    ['a date after the last look', body('The exam is on December 14.'), {}, null, ''],
    ['a weekday under a daily rule', body('See you next Tuesday.'), {}, 'passedDate', null],
    [
      'a weekday under a single look',
      body('See you next Tuesday.'),
      { rhythm: { start: '2026-10-27T09:30', rrule: 'FREQ=DAILY', until: '2026-10-27' } },
      null,
      '',
    ],
    ['a typed course', body('Welcome to Coastal Navigation.'), {}, 'typedName', '{{ course.title }}'],
    [
      'a typed item of the rule',
      body('The Tide tables quiz was hard.'),
      { when: { measure: 'score', item: 'q1', is: '<', value: 50 } },
      'typedName',
      '{{ item.title | default: "your work" }}',
    ],
    ['a typed student', body('Ask Imani Okoro.'), {}, 'typedName', null],
    ['attached, without a file', body('The sheet is attached.'), {}, 'attachment', null],
    ['attached, with a file', { ...body('The sheet is attached.'), files: 1 }, {}, null, ''],
    [
      'a file that no word speaks of',
      { files: 1 },
      {},
      'fileUnsaid',
      'Tell me.\n\nYou find it attached.\n\n{{ sender.signature }}',
    ],
    ['third parties without words of their own', {}, { steps: [copied] }, 'copyWords', null],
    [
      'third parties with words of their own',
      { copies: [{ to: 'contact:advisor', subject: 'x', text: 'x' }] },
      { steps: [copied] },
      null,
      '',
    ],
    ['third parties of a step with another wording', { id: 'other' }, { steps: [copied] }, null, ''],
    [
      'words for a third party, who is greeted otherwise',
      { copy: true, text: 'Dear colleague, a word.' },
      {},
      null,
      '',
    ],
    [
      'no first name',
      { text: 'Dear all, tell me.' },
      {},
      'noFirstName',
      '{{ student.first_name | default: "Hello" }},\n\nDear all',
    ],
    [
      'no way to answer',
      { text: '{{ student.first_name | default: "Hello" }}, it is late.' },
      {},
      'noWayToAnswer',
      'sender.office_hours',
    ],
    [
      'a long subject',
      { subject: 'A subject that goes on and on until no inbox in the world shows its end' },
      {},
      'longSubject',
      null,
    ],
    [
      'still time, under a rule that runs on after the item is due',
      body('There is still time for {{ item.title | default: "it" }}.'),
      { when: { measure: 'submitted', item: 'q1', is: 'equals', value: false } },
      'stillTime',
      null,
    ],
    [
      'the same under a rule that ends before that',
      body('There is still time for {{ item.title | default: "it" }}.'),
      {
        when: { measure: 'submitted', item: 'q1', is: 'equals', value: false },
        rhythm: rhythm('09:30', 'FREQ=DAILY', '2026-11-20'),
      },
      null,
      '',
    ],
    ['a long text', body('word '.repeat(230)), {}, 'longText', null],
    ['shouting', body('This is URGENT!'), {}, 'shouting', 'urgent'],
    ['marks that shout', body('Really!!'), {}, 'shouting', 'Really!'],
    ['blame', body('You failed to submit.'), {}, 'blame', null],
    [
      'a promise under a repeating rule',
      body('This is my last reminder.'),
      { repeat: { gap: { days: 7 } } },
      'lastReminder',
      null,
    ],
    ['the same under a rule that sends once', body('This is my last reminder.'), { repeat: { perTerm: 1 } }, null, ''],
  ] as const)('%s', (_name, words, draft, code, mended) => {
    const found = check(words, draft);
    expect(found.map((c) => c.code)).toEqual(code === null ? [] : [code]);
    const mend = found[0]?.mend ?? null;
    if (mended === null) expect(mend).toBeNull();
    else if (code !== null) expect(`${mend!.words.subject}\n${mend!.words.text}`).toContain(mended);
  });

  test('a mend does away with its check', () => {
    const words = { ...SOUND, text: 'Good evening, {{ item.title }} of Coastal Navigation is URGENT.' };
    let left = words;
    for (let i = 0; i < 10; i++) {
      const next = checkWording(left, { course, rules: [ruleOf({ rhythm: rhythm('09:30') })], now }).find(
        (c) => c.mend,
      );
      if (!next) break;
      left = { ...left, ...next.mend!.words };
    }
    expect(checkWording(left, { course, rules: [ruleOf({ rhythm: rhythm('09:30') })], now })).toEqual([]);
    expect(compileWording({ id: 'w', name: 'W', ...left })).toMatchObject({ ok: true });
  });

  test('an alert to oneself needs neither a first name nor a way to answer', () => {
    expect(
      codes({ purpose: 'toMyself', text: '{{ student.full_name | default: "A student" }}: last visit long ago.' }),
    ).toEqual([]);
  });
});

test('the words of the starters get none under their own rules, at any hour they leave', () => {
  for (const starter of STARTERS) {
    const built = starter.build(course, now);
    if (!built.ok) continue;
    for (const wording of starter.wordings) {
      for (const text of textsOf(wording)) {
        const found = checkWording({ ...text, purpose: wording.purpose }, { course, rules: [built.rule], now });
        expect([wording.id, text.subject, found.map((c) => c.message)]).toEqual([wording.id, text.subject, []]);
      }
    }
  }
  expect(new Set(CHECK_CODES).size).toBe(CHECK_CODES.length);
});
