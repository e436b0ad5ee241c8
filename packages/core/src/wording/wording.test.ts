import { describe, expect, test } from '@jest/globals';
import { at, factsOf, item, person, valueOf } from '../testing/build.ts';
import { htmlOf } from './markup.ts';
import { compileWording } from './render.ts';
import { FIELD_NAMES, MERGE_FIELDS } from './fields.ts';
import { nextVariant } from './wording.ts';

const wording = (text: string, subject = 'A quiet week in {{ course.title }}') =>
  compileWording({ id: 'gentle', name: 'Gentle', purpose: 'support', subject, text });
const facts = factsOf({
  people: [
    person('p1', { firstName: 'Imani', lastName: 'O’Kóro <b>', section: 'a\r\nBcc: x@y.example' }),
    person('p2', { firstName: '' }),
  ],
  items: [item('q1', { title: 'Tide tables quiz', dueAt: at('2026-09-13T23:59') })],
  events: [['p1', 'visit', '2026-09-01T14:03']],
  grades: [['p1', 'q1', 9, '2026-09-15T08:00']],
});
const sender = { name: 'Dr. R. Ostrander', signature: 'R. Ostrander', officeHours: '' };
const render = (text: string, who = 0, subject?: string) => {
  const compiled = wording(text, subject);
  if (!compiled.ok) throw new Error(JSON.stringify(compiled.problems));
  return valueOf(
    compiled.value.render({ facts, person: who, sender, about: { item: 'q1', calls: [] }, at: at('2026-09-20T09:30') }),
  );
};

describe('a wording', () => {
  test('becomes a personal message with the measures as a person says them', () => {
    const m = render(
      '{{ student.first_name }}, away since {{ student.last_visit }}: {{ student.days_since_visit }}, {{ item.score }} on {{ item.title }}.',
    );
    expect(m.subject).toBe('A quiet week in Coastal Navigation');
    expect(m.text).toBe('Imani, away since Tuesday, September 1: 18 days, 45% on Tide tables quiz.');
    expect(m.blanks).toEqual([]);
  });

  test('names the fields that are blank for a student, unless they have a fallback or stand under a condition', () => {
    expect([...render('{{ student.first_name }}, since {{ student.last_visit }}', 1).blanks].sort()).toEqual([
      'student.first_name',
      'student.last_visit',
    ]);
    const guarded = render(
      '{{ student.first_name | default: "there" }},{% if student.last_visit %} since {{ student.last_visit }}{% endif %}',
      1,
    );
    expect([guarded.text, guarded.blanks]).toEqual(['there,', []]);
  });

  test('with an unknown field is a clear problem before anything is sent', () => {
    const compiled = wording('Hello {{ student.frist_name }}', '{{ class.mood }}');
    expect(compiled).toEqual({
      ok: false,
      problems: [
        { path: 'subject', code: 'unknownField', message: 'There is no merge field “class.mood”' },
        {
          path: 'text',
          code: 'unknownField',
          message: 'There is no merge field “student.frist_name”; did you mean “student.first_name”?',
        },
      ],
    });
  });

  test('with Liquid that cannot be read, or without a subject, is refused', () => {
    const broken = wording('{% if student.first_name %}no end');
    expect(!broken.ok && broken.problems[0]).toMatchObject({ path: 'text', code: 'liquid' });
    expect(wording('x', ' ').ok).toBe(false);
    expect(wording('{{ student.first_name | nosuchfilter }}').ok).toBe(false);
  });

  test('never lets a value into the markup or into another header', () => {
    const m = render('{{ student.full_name }}', 0, '{{ student.section }}');
    expect(htmlOf(m.blocks)).toBe('<p>Imani O’Kóro &#60;b&#62;</p>');
    expect(m.subject).toBe('a Bcc: x@y.example');
  });
});

test('every merge field can be asked of a student who has nothing yet', () => {
  expect(FIELD_NAMES.size).toBe(MERGE_FIELDS.length);
  const all = MERGE_FIELDS.map((f) => `{{ ${f.name} }}`).join(' ');
  expect(render(all, 1).blanks).toContain('item.score');
});

describe('several texts of one wording', () => {
  test('each is read and rendered, and a problem is named at its own place', () => {
    const draft = { id: 'w', name: 'W', purpose: 'support', subject: 'One', text: 'One {{ student.first_name }}' };
    const two = { subject: 'Two', text: 'Two {{ student.first_name | default: "you" }}' };
    const compiled = compileWording({ ...draft, variants: [two] });
    if (!compiled.ok) throw new Error(JSON.stringify(compiled.problems));
    const context = { facts, person: 1, sender, about: { item: null, calls: [] }, at: at('2026-09-20T09:30') };
    expect([0, 1, 7].map((v) => valueOf(compiled.value.render(context, v)).text)).toEqual(['One', 'Two you', 'One']);
    expect(valueOf(compiled.value.render(context, 0)).blanks).toEqual(['student.first_name']);
    expect(valueOf(compiled.value.render(context, 1)).blanks).toEqual([]);
    const broken = compileWording({ ...draft, variants: [{ subject: 'x', text: '{{ student.nam }}' }] });
    expect(!broken.ok && broken.problems[0]!.path).toBe('variants[0].text');
  });

  test('rotate: never the same twice running, each in its turn, and beginners begin at different ones', () => {
    expect([0, 1, 2].map((last) => nextVariant(3, last, 'p1'))).toEqual([1, 2, 0]);
    expect(nextVariant(1, 0, 'p1')).toBe(0);
    const starts = Array.from({ length: 40 }, (_, i) => nextVariant(3, null, `n${i}`));
    expect(new Set(starts).size).toBe(3);
  });
});

describe('words for third parties', () => {
  const draft = {
    id: 'w',
    name: 'W',
    purpose: 'support',
    subject: 'A quiet week',
    text: '{{ student.first_name }}, are you well?',
    letter: { page: 'A4', fileName: 'Note for {{ student.full_name }}: *week* 3' },
  };
  const context = {
    facts,
    person: 0,
    sender,
    about: { item: null, calls: [] },
    at: at('2026-09-20T09:30'),
    reader: { name: 'B. Lund' },
  };
  const compiled = (more: object = {}) => {
    const parsed = compileWording({ ...draft, ...more });
    if (!parsed.ok) throw new Error(JSON.stringify(parsed.problems));
    return parsed.value;
  };
  const copies = [
    { to: 'anyone', subject: 'For you', text: 'Hello {{ reader.name }}: {{ student.first_name }} has been away.' },
    { to: 'contact:advisor', subject: 'An advisee', text: 'Dear {{ reader.name }}, could you call?' },
  ];

  test('are each reader’s own, or those for anyone, and the student reads none of them', () => {
    const wording = compiled({ copies });
    const read = (reader: string) => valueOf(wording.render(context, 0, reader)).text;
    expect(read('contact:advisor')).toBe('Dear B. Lund, could you call?');
    expect(read('instructor')).toBe('Hello B. Lund: Imani has been away.');
    expect(read('student')).toBe('Imani, are you well?');
  });

  test('that nobody wrote are the student’s, introduced as such', () => {
    const { subject, text } = valueOf(compiled().render(context, 0, 'contact:advisor'));
    expect(subject).toBe('About Imani O’Kóro <b>: A quiet week');
    expect(text).toBe(
      'For your information: this is what Dr. R. Ostrander wrote to Imani O’Kóro <b> (NAV 120).\n\nImani, are you well?',
    );
  });

  test('of an alert to oneself are its own', () => {
    expect(valueOf(compiled({ purpose: 'toMyself' }).render(context, 0, 'instructor')).subject).toBe('A quiet week');
  });

  test('are one a reader, and a problem is named at its own place', () => {
    const twice = compileWording({ ...draft, copies: [copies[0], copies[0]] });
    expect(!twice.ok && twice.problems[0]).toMatchObject({ path: 'copies', message: 'Each reader has one text' });
    const broken = compileWording({ ...draft, copies: [{ ...copies[0], text: '{{ nobody.knows }}' }] });
    expect(!broken.ok && broken.problems[0]!.path).toBe('copies[0].text');
    const nobody = compileWording({ ...draft, copies: [{ ...copies[0], to: 'everyone' }] });
    expect(!nobody.ok && nobody.problems[0]!.path).toBe('copies[0].to');
  });

  test('make no letter; the student’s is named for them, as every system takes it', () => {
    const wording = compiled({ copies });
    expect(valueOf(wording.render(context)).letterName).toBe('Note for Imani O’Kóro b week 3');
    expect(valueOf(wording.render(context, 0, 'instructor')).letterName).toBeNull();
  });
});
