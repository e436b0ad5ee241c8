import { expect, test } from '@jest/globals';
import { emptyTexts, saysNothing } from './skeleton.ts';

const SKELETON = '{{ student.first_name }},\n\n\n\n{{ sender.signature }}';

test.each([
  ['', true],
  [SKELETON, true],
  ['{{ student.first_name | default: "Hello" }},\n\n{{ sender.signature }}', true],
  ['Dear {{ student.first_name }},\n\n \u00a0 \n\nKind regards,\n{{ sender.name }}', true],
  ['Hi!\n\nWarmly, R. Ostrander', true],
  ['{% if student.first_name %}{{ student.first_name }}{% endif %},', true],
  [SKELETON.replace('\n\n\n\n', '\n\nPlease come to class.\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n{{ student.missing_list }}\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n![chart](picture:abc)\n\n'), false],
  [SKELETON.replace('\n\n\n\n', '\n\n7\n\n'), false],
  ['さようなら', false],
])('%j says nothing: %s', (text, nothing) => {
  expect(saysNothing(text, 'Warmly, R. Ostrander')).toBe(nothing);
});

test('each text of a wording that says nothing is named by its place', () => {
  const said = { subject: 'About class', text: 'Please come to class.' };
  const wording = {
    id: 'w',
    name: 'Check-in',
    purpose: 'support' as const,
    subject: 'About class',
    text: SKELETON,
    variants: [said, { subject: 'About class', text: 'Warmly, R. Ostrander' }],
    copies: [{ to: 'instructor' as const, ...said, text: '' }],
  };
  expect(emptyTexts(wording, 'Warmly, R. Ostrander').map((p) => [p.path, p.message])).toEqual([
    ['text', 'Text 1 of “Check-in” has nothing between salutation and signature yet'],
    ['variants[1].text', 'Text 3 of “Check-in” has nothing between salutation and signature yet'],
    ['copies[0].text', 'Text 1 for third parties of “Check-in” has nothing between salutation and signature yet'],
  ]);
  expect(emptyTexts({ ...wording, ...said, variants: [], copies: [] })).toEqual([]);
});
