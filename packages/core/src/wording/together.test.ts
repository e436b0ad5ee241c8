import { expect, test } from '@jest/globals';
import { at, factsOf, person } from '../testing/build.ts';
import { aboutOf } from './fields.ts';
import type { FieldContext } from './fieldContext.ts';
import { compileWording } from './render.ts';
import { studentsList } from './together.ts';

const facts = factsOf({
  people: [
    person('p1', { firstName: 'Asta', lastName: 'Lind', section: '01' }),
    person('p2', { firstName: 'Sam', lastName: 'Lee', section: '01' }),
    person('p3', { firstName: 'Sam', lastName: 'Lee', section: '02' }),
  ],
  events: [
    ['p1', 'visit', '2026-09-01T14:03'],
    ['p2', 'visit', '2026-09-02T10:00'],
    ['p3', 'visit', '2026-09-03T10:00'],
  ],
});
const when = {
  any: [
    { measure: 'daysSinceVisit' as const, is: '>=' as const, value: 5 },
    { measure: 'posts' as const, is: '>=' as const, value: 3 },
  ],
};
const sender = { name: 'R. Ostrander', signature: 'Warmly, R.', officeHours: '' };
const context = (more: Partial<FieldContext> = {}): FieldContext => ({
  facts,
  person: 0,
  sender,
  about: aboutOf(when),
  at: at('2026-09-21T09:30'),
  alert: true,
  ...more,
});
const made = (text: string, more: Partial<FieldContext> = {}) => {
  const compiled = compileWording({ id: 'w', name: 'w', purpose: 'toMyself', subject: 'Before class', text });
  if (!compiled.ok) throw new Error('The wording should compile');
  const message = compiled.value.render(context(more), 0, 'instructor');
  if (!message.ok) throw new Error('The message should be made');
  return message.value;
};

test('[R11a] every student stands in a line in roster order, with the evidence that holds', () => {
  expect(studentsList(context({ together: [0, 1] }))).toBe(
    '- Asta Lind: last visit Tue Sep 1, 2:03 PM · 19 days\n- Sam Lee (section 01): last visit Wed Sep 2, 10:00 AM · 18 days',
  );
  expect(studentsList(context())).toBe('- Asta Lind: last visit Tue Sep 1, 2:03 PM · 19 days');
});

test('two of one name are told apart by their section', () => {
  expect(studentsList(context({ together: [1, 2] }))).toMatch(
    /^- Sam Lee \(section 01\): .*\n- Sam Lee \(section 02\):/,
  );
});

test('[R11a] a text about several says nothing of one, and names them where it forgot to', () => {
  const text = 'About {{ student.full_name | default: "some students" }}:\n\nTalk to them.\n\n{{ sender.signature }}';
  const several = made(text, { together: [0, 1] });
  expect(several.text).toMatch(
    /^About some students:\n\nTalk to them\.\n\n- Asta Lind: .*\n- Sam Lee \(section 01\): .*\n\nWarmly, R\.$/,
  );
  expect(made(text).text).toBe('About Asta Lind:\n\nTalk to them.\n\nWarmly, R.');
  const listed = made('To talk to:\n\n{{ students.list }}\n\nThat is all.', { together: [0, 2] });
  expect(listed.text).toMatch(/^To talk to:\n\n- Asta Lind: .*\n- Sam Lee \(section 02\): .*\n\nThat is all\.$/);
});

test('[R11b] what goes to others only is never said to have been written to the student', () => {
  const compiled = compileWording({
    id: 'w',
    name: 'w',
    purpose: 'support',
    subject: 'Hello',
    text: 'Come back soon.',
  });
  if (!compiled.ok) throw new Error('The wording should compile');
  const intro = (alert: boolean) => {
    const message = compiled.value.render(context({ alert }), 0, 'contact:advisor');
    return message.ok ? message.value.text.split('\n')[0] : '';
  };
  expect(intro(true)).toBe('For your information, about Asta Lind (NAV 120). The student does not get this message.');
  expect(intro(false)).toBe('For your information: this is what R. Ostrander wrote to Asta Lind (NAV 120).');
});
