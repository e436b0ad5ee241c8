import { describe, expect, test } from '@jest/globals';
import { courseOf, person, ruleOf } from '../../testing/build.ts';
import { isInside, needsYes, outsideOf } from './outside.ts';
import { recipientsOf } from './recipients.ts';

const advisor = { kind: 'advisor', name: 'B. Lund', email: 'lund@saltmarsh.example' };
const coach = { kind: 'coach', name: 'C. Oku', email: 'oku@rowing.example' };
const people = [
  person('p1', { email: 'p1@saltmarsh.example', contacts: [advisor, coach, { ...advisor, name: 'None', email: '' }] }),
  person('p2', { section: '02', contacts: [{ ...coach, email: 'OKU@rowing.example' }] }),
  person('p3', { contacts: [{ ...coach, email: 'third@rowing.example' }] }),
  person('gone', { active: false, contacts: [{ ...coach, email: 'gone@rowing.example' }] }),
  person('i1', { role: 'instructor', email: 'i1@saltmarsh.example' }),
  person('i2', { role: 'instructor', email: 'i2@saltmarsh.example' }),
  person('i3', { role: 'instructor', email: 'i3@saltmarsh.example', active: false }),
  person('i4', { role: 'instructor', email: null }),
];
const course = courseOf({ people });
const steps = (...to: string[]) => ruleOf({ steps: [{ deliver: 'send', to, wording: 'w' }] }).steps[0]!;
const addresses = (...to: string[]) => recipientsOf(steps(...to), people[0]!, course).map((r) => r.address);

describe('whom a step writes to', () => {
  test('the student, with name and reader, or nobody without an address', () => {
    expect(recipientsOf(steps('student'), people[0]!, course)).toEqual([
      { kind: 'student', name: 'P1 Test', address: 'p1@saltmarsh.example', reader: 'student' },
    ]);
    expect(recipientsOf(steps('student'), { ...people[0]!, email: null }, course)).toEqual([]);
  });

  test('the instructors who are active and have an address', () => {
    expect(addresses('instructor')).toEqual(['i1@saltmarsh.example', 'i2@saltmarsh.example']);
  });

  test('contacts of the kind, and an address as it stands', () => {
    expect(addresses('contact:advisor')).toEqual(['lund@saltmarsh.example']);
    expect(addresses('contact:parent')).toEqual([]);
    expect(recipientsOf(steps('address:desk@saltmarsh.example'), people[0]!, course)).toEqual([
      { kind: 'address', name: '', address: 'desk@saltmarsh.example', reader: 'address:desk@saltmarsh.example' },
    ]);
  });

  test('each address once, whatever its case, in the step’s order', () => {
    expect(addresses('contact:coach', 'address:OKU@Rowing.example')).toEqual(['oku@rowing.example']);
    expect(addresses('instructor', 'contact:coach', 'student', 'address:I1@saltmarsh.example')).toEqual([
      'i1@saltmarsh.example',
      'i2@saltmarsh.example',
      'oku@rowing.example',
      'p1@saltmarsh.example',
    ]);
  });
});

describe('addresses outside the institution', () => {
  test.each([
    ['a@saltmarsh.example', true],
    ['a@SaltMarsh.EXAMPLE', true],
    ['a@lists.saltmarsh.example', true],
    ['a@notsaltmarsh.example', false],
    ['a@saltmarsh.example.evil.example', false],
    ['saltmarsh.example@evil.example', false],
    ['"a@saltmarsh.example"@evil.example', false],
  ])('%s is inside: %s', (address, inside) => {
    expect(isInside(address, ['other.example', 'Saltmarsh.example'])).toBe(inside);
    expect(isInside(address, [])).toBe(false);
  });

  test('need a yes when they are third parties’ alone', () => {
    const yes = (kind: Parameters<typeof needsYes>[0]['kind'], address: string) =>
      needsYes({ kind, address }, ['saltmarsh.example']);
    expect([yes('contact', 'a@b.example'), yes('address', 'a@b.example')]).toEqual([true, true]);
    expect([yes('student', 'a@b.example'), yes('instructor', 'a@b.example')]).toEqual([false, false]);
    expect([yes('contact', 'a@saltmarsh.example'), yes('address', 'a@saltmarsh.example')]).toEqual([false, false]);
  });

  test('of a rule are named each once, over its audience and all its steps', () => {
    const outside = (audience: object, ...to: string[][]) =>
      outsideOf(
        ruleOf({
          audience: { roles: ['student'], ...audience },
          steps: to.map((step) => ({ deliver: 'send', to: step, wording: 'w' })),
        }),
        course,
        ['saltmarsh.example'],
      ).map((r) => r.address.toLowerCase());
    expect(outside({}, ['student', 'contact:coach'])).toEqual(['oku@rowing.example', 'third@rowing.example']);
    expect(outside({ sections: ['02'] }, ['contact:coach'])).toEqual(['oku@rowing.example']);
    expect(outside({ except: ['p3'] }, ['contact:coach'])).toEqual(['oku@rowing.example']);
    expect(outside({ roles: ['instructor'] }, ['contact:coach'])).toEqual([]);
    expect(outside({}, ['student', 'instructor', 'contact:advisor'])).toEqual([]);
    expect(outside({ sections: ['02'] }, ['student'], ['address:desk@rowing.example'])).toEqual([
      'desk@rowing.example',
    ]);
  });
});
