import { describe, expect, test } from '@jest/globals';
import { withoutNamed } from '../platform/database/holds.ts';
import { namedIn } from './named.ts';

const known = (id: string) => ({
  id,
  email: 'imani@saltmarsh.example',
  firstName: 'Al',
  lastName: 'Li',
  contacts: [{ kind: 'coach', name: '', email: 'coach@saltmarsh.example' }],
});

describe('whether a text names somebody', () => {
  test('by address, whole name, or an id that tells one, each standing alone', () => {
    const isNamed = namedIn(known('n7'));
    for (const text of ['to IMANI@saltmarsh.example.', 'Al Li: wrong', '{"id":"n7"}', 'the coach@saltmarsh.example'])
      expect([text, isNamed(text)]).toEqual([text, true]);
    for (const text of ['Pal Lindt', 'n70', 'un7', 'ximani@saltmarsh.example', 'Al and Li'])
      expect([text, isNamed(text)]).toEqual([text, false]);
  });

  test('in whatever letters it is written', () => {
    const isNamed = namedIn({ ...known('n7'), firstName: 'Kai', lastName: 'Lösch' });
    for (const text of ['KAI LÖSCH', 'kai lösch', '\u212Aai Lösch', '“Kai Lösch” – n7'])
      expect([text, isNamed(text)]).toEqual([text, true]);
    const isAl = namedIn({ ...known('n7'), firstName: 'Kai' });
    for (const text of ['\u212Aai Li', 'naïve Kai Li', 'KAI LI']) expect([text, isAl(text)]).toEqual([text, true]);
    for (const text of ['Kailash', 'Lösch Kai', 'naïve']) expect([text, isAl(text)]).toEqual([text, false]);
  });

  test('a short number is no id in free text: others have such numbers too', () => {
    expect(namedIn(known('7'))('{"raw":7}')).toBe(false);
    expect(namedIn(known('1042277'))('row 1042277')).toBe(true);
  });
});

test('what somebody chose is kept without what names them', () => {
  const isNamed = namedIn(known('n7'));
  const chosen = { people: { 'Al Li': 'n7', 'Bo Quist': 'n8' }, items: { 'Lab 1': 'l1' }, lists: ['n7', 'n8'], n: 7 };
  expect(withoutNamed(chosen, isNamed)).toEqual({
    people: { 'Bo Quist': 'n8' },
    items: { 'Lab 1': 'l1' },
    lists: ['n8'],
    n: 7,
  });
});
