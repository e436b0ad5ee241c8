import { expect, test } from '@jest/globals';
import { at, courseOf, factsOf, person } from '../../testing/build.ts';
import { HistoryFacts } from '../../measures/facts/facts.ts';
import { compileWording } from '../../wording/render.ts';
import { ABOUT_NOTHING, columnField } from '../../wording/fields.ts';
import { courseOfMailing, readersOf, type MailingRows } from './mailing.ts';

const course = courseOf({ people: [person('p1', { firstName: 'Imani', lastName: 'Okoro' }), person('p2')] });

test('a row of a sheet names a person by id, address or name, else a guest by its own address', () => {
  const headers = ['Student ID', 'Name', 'E-mail', 'Boat'];
  const rows = [
    ['p2', '', '', 'Tern'],
    ['', '', 'P1@saltmarsh.example', ''],
    ['', 'Okoro, Imani', '', ''],
    ['', 'Lund, Berit', 'lund@harbor.example', ''],
    ['', 'Nobody Known', 'no address', ''],
  ];
  expect(readersOf(headers, rows, course)).toEqual([
    { kind: 'person', id: 'p2' },
    { kind: 'person', id: 'p1' },
    { kind: 'person', id: 'p1' },
    { kind: 'guest', guest: { firstName: 'Berit', lastName: 'Lund', email: 'lund@harbor.example' } },
    { kind: 'nobody', why: expect.stringContaining('no address') },
  ]);
});

test('columns are fields of a wording, with a fallback where a row has none', () => {
  const rows: MailingRows = {
    p1: { values: { 'Boat name': 'Tern *1*' }, guest: null },
    'lund@harbor.example': {
      values: {},
      guest: { firstName: 'Berit', lastName: 'Lund', email: 'lund@harbor.example' },
    },
  };
  const extended = courseOfMailing(course, rows);
  const facts = new HistoryFacts(extended, factsOf().history);
  const field = columnField('Boat name');
  const compiled = compileWording({
    id: 'x',
    name: 'x',
    purpose: 'support',
    subject: 'Your boat',
    text: `{{ student.first_name }} sails {{ ${field} | default: "a boat" }}.`,
  });
  if (!compiled.ok) throw new Error(JSON.stringify(compiled.problems));
  const sender = { name: 'A', signature: 'A', officeHours: '' };
  const read = (id: string) => {
    const person = extended.personIndex.get(id)!;
    const made = compiled.value.render({ facts, person, sender, about: ABOUT_NOTHING, at: at('2026-10-26T08:00') });
    return made.ok ? made.value.text : JSON.stringify(made.problems);
  };
  expect(read('p1')).toBe('Imani sails Tern *1*.');
  expect(read('lund@harbor.example')).toBe('Berit sails a boat.');
  const bare = compileWording({ ...compiled.value.wording, text: `{{ ${field} }}` });
  const blanks = (id: string) => {
    const person = extended.personIndex.get(id)!;
    const made =
      bare.ok && bare.value.render({ facts, person, sender, about: ABOUT_NOTHING, at: at('2026-10-26T08:00') });
    return made && made.ok ? made.value.blanks.length : -1;
  };
  expect([blanks('p1'), blanks('lund@harbor.example')]).toEqual([0, 1]);
  expect(compiled.value.fields).toEqual(['student.first_name', "column['Boat name']"]);
});
